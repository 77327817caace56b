import { FormError } from '../errors';
import { dot, type Vec3 } from '../maths/vec3';
import { boundsOf } from './measures';
import { fillLoops, frameOf } from './planar';
import { faceCount, type PolyMesh, vertexCount } from './polymesh';
import { type NewCorner, Rework } from './rework';

/** All points p with `normal · p = offset`; the normal is a unit vector, the offset in mm. */
export interface Plane {
  normal: Vec3;
  offset: number;
}

/** Points nearer to the plane than this share of the mesh's size lie on it. */
const NEAR = 1e-9;

interface Node {
  corner: NewCorner;
  /** Along the plane's normal, mm. */
  height: number;
}

interface Sliced {
  mesh: PolyMesh;
  /** Face → the planes below it: 0 under the first one, as many as there are above the last. */
  level: Int32Array;
  origin: Uint32Array;
}

/**
 * Divides every face that parallel planes pass through, so that edges lie along them; nothing moves and no shape changes. Faces
 * may be concave: each comes apart into as many pieces as the planes make of it. All planes in one pass: what they don't touch
 * is copied once.
 *
 * @param offsets of the planes along a unit normal, rising
 */
export function sliceBy(mesh: PolyMesh, normal: Vec3, offsets: readonly number[]): Sliced {
  const p = mesh.positions;
  const { min, max } = boundsOf(mesh);
  const near = NEAR * Math.max(1, ...max.map((x, k) => x - min[k]));
  const heights = new Float64Array(vertexCount(mesh));
  for (let v = 0; v < heights.length; v++) {
    const h = normal[0] * p[3 * v] + normal[1] * p[3 * v + 1] + normal[2] * p[3 * v + 2];
    // A point as good as on a plane is on it.
    const at = nearestOf(offsets, h);
    heights[v] = Math.abs(h - at) < near ? at : h;
  }
  const rework = new Rework(mesh);
  const levels: number[] = [];
  const crossings = new Map<number, number>();
  /** The vertex where the edge between two others meets a plane: the same for both faces of the edge. */
  const crossing = (a: Node, b: Node, offset: number): number => {
    if (a.height === offset) return a.corner.vertex;
    if (b.height === offset) return b.corner.vertex;
    const [low, high] = a.corner.vertex < b.corner.vertex ? [a, b] : [b, a];
    const key = low.corner.vertex * 0x4000000 + high.corner.vertex;
    const known = crossings.get(key);
    // An edge between two given points is cut by one plane at a time: the lower end of what is left is a new point.
    if (known !== undefined) return known;
    const t = (offset - low.height) / (high.height - low.height);
    const [q, r] = [rework.position(low.corner.vertex), rework.position(high.corner.vertex)];
    const v = rework.vertex(q[0] + t * (r[0] - q[0]), q[1] + t * (r[1] - q[1]), q[2] + t * (r[2] - q[2]));
    crossings.set(key, v);
    return v;
  };
  for (let f = 0; f < faceCount(mesh); f++) {
    const [from, to] = [mesh.faceStart[f], mesh.faceStart[f + 1]];
    let [low, high] = [Infinity, -Infinity];
    for (let c = from; c < to; c++) {
      const h = heights[mesh.faceVert[c]];
      low = Math.min(low, h);
      high = Math.max(high, h);
    }
    // Planes that pass through it, not only along its rim.
    const first = above(offsets, low);
    const last = upTo(offsets, high);
    if (first >= last) {
      rework.keep(f);
      levels.push(first);
      continue;
    }
    let rest: Node[][] = [
      Array.from({ length: to - from }, (_, i) => ({
        corner: { vertex: mesh.faceVert[from + i], from: from + i, edge: from + i },
        height: heights[mesh.faceVert[from + i]],
      })),
    ];
    for (let i = first; i < last; i++) {
      const beyond: Node[][] = [];
      for (const ring of rest)
        for (const piece of split(ring, offsets[i], (a, b) => crossing(a, b, offsets[i]), rework)) {
          if (piece.side > 0) beyond.push(piece.nodes);
          else {
            rework.face(
              piece.nodes.map((n) => n.corner),
              f,
            );
            levels.push(i);
          }
        }
      rest = beyond;
    }
    for (const ring of rest) {
      rework.face(
        ring.map((n) => n.corner),
        f,
      );
      levels.push(last);
    }
  }
  const { mesh: out, origin } = rework.build();
  return { mesh: out, level: Int32Array.from(levels), origin };
}

/** Divides by one plane. `side` is +1 for faces above it, −1 below. */
export function slice(mesh: PolyMesh, { normal, offset }: Plane): { mesh: PolyMesh; side: Int8Array; origin: Uint32Array } {
  const { mesh: out, level, origin } = sliceBy(mesh, normal, [offset]);
  return { mesh: out, side: Int8Array.from(level, (l) => (l > 0 ? 1 : -1)), origin };
}

/** Number of offsets at or below a height: the first that lies above it. */
function above(offsets: readonly number[], height: number): number {
  let [low, high] = [0, offsets.length];
  while (low < high) {
    const m = (low + high) >> 1;
    if (offsets[m] <= height) low = m + 1;
    else high = m;
  }
  return low;
}
/** Number of offsets below a height. */
function upTo(offsets: readonly number[], height: number): number {
  let [low, high] = [0, offsets.length];
  while (low < high) {
    const m = (low + high) >> 1;
    if (offsets[m] < height) low = m + 1;
    else high = m;
  }
  return low;
}
function nearestOf(offsets: readonly number[], height: number): number {
  const i = above(offsets, height);
  const [a, b] = [offsets[i - 1] ?? -Infinity, offsets[i] ?? Infinity];
  return height - a < b - height ? a : b;
}

/** A ring cut by a plane: its pieces on either side. Points on the plane count as above it, so it is crossed an even number of times. */
function split(
  ring: readonly Node[],
  offset: number,
  crossing: (a: Node, b: Node) => number,
  rework: Rework,
): { nodes: Node[]; side: number }[] {
  const nodes: (Node & { side: number; along: number })[] = [];
  const cuts: number[] = [];
  const sideOf = (n: Node) => (n.height >= offset ? 1 : -1);
  for (const [k, a] of ring.entries()) {
    const b = ring[(k + 1) % ring.length];
    nodes.push({ ...a, side: sideOf(a), along: 0 });
    if (sideOf(a) === sideOf(b)) continue;
    const t = (offset - a.height) / (b.height - a.height);
    cuts.push(nodes.length);
    nodes.push({
      corner: { vertex: crossing(a, b), from: mixed(a.corner, b.corner, t), edge: a.corner.edge },
      height: offset,
      side: 0,
      along: 0,
    });
  }
  if (cuts.length === 0) return [{ nodes: [...ring], side: sideOf(ring[0]) }];
  // The cut runs along a line: its two ends farthest apart give the direction.
  const places = cuts.map((i) => rework.position(nodes[i].corner.vertex));
  let best = { far: -1, way: [1, 0, 0] as Vec3 };
  for (const a of places)
    for (const b of places) {
      const way: Vec3 = [b[0] - a[0], b[1] - a[1], b[2] - a[2]];
      const far = dot(way, way);
      if (far > best.far) best = { far, way };
    }
  for (const [i, n] of cuts.entries()) nodes[n].along = dot(places[i], best.way);
  const order = cuts.sort((a, b) => nodes[a].along - nodes[b].along || a - b);
  const partner = new Map<number, number>();
  for (let i = 0; i + 1 < order.length; i += 2) partner.set(order[i], order[i + 1]).set(order[i + 1], order[i]);
  const n = nodes.length;
  const out: { nodes: Node[]; side: number }[] = [];
  const done = new Uint8Array(n);
  for (let start = 0; start < n; start++) {
    if (nodes[start].side === 0 || done[start]) continue;
    const { side } = nodes[start];
    const piece: Node[] = [];
    let i = start;
    do {
      const node = nodes[i];
      if (node.side !== 0) {
        done[i] = 1;
        piece.push(node);
        i = (i + 1) % n;
        continue;
      }
      // Out of this side at a crossing, along the cut, and in again at its partner: the edge along the cut is a new one.
      const back = partner.get(i) ?? i;
      piece.push({ ...node, corner: { ...node.corner, edge: undefined } }, nodes[back]);
      i = (back + 1) % n;
    } while (i !== start);
    const clean = piece.filter((c, k) => c.corner.vertex !== piece[(k + 1) % piece.length].corner.vertex);
    if (new Set(clean.map((c) => c.corner.vertex)).size >= 3) out.push({ nodes: clean, side });
  }
  return out;
}

/** What a point between two corners mixes its values from. */
function mixed(a: NewCorner, b: NewCorner, t: number): [number, number][] {
  const parts = (c: NewCorner): readonly (readonly [number, number])[] => (typeof c.from === 'number' ? [[c.from, 1]] : (c.from ?? []));
  return [...parts(a).map(([c, s]): [number, number] => [c, s * (1 - t)]), ...parts(b).map(([c, s]): [number, number] => [c, s * t])];
}

/** Options for {@link cut}. */
export interface CutOptions {
  /** Which side stays. */
  keep: 'above' | 'below';
  /** Closes the cut with flat faces of this patch; open where absent. */
  cap?: string;
}

/**
 * Cuts off what lies on one side of a plane. Shells that were closed can be closed again: the cap has the outline of the wall
 * where the plane meets it, so a hollow piece gets a ring.
 *
 * @throws FormError `cut/nothing` when nothing would be left, `cut/open` when the cut to be capped doesn't run in closed loops
 */
export function cut(mesh: PolyMesh, plane: Plane, { keep, cap }: CutOptions): PolyMesh {
  const { mesh: divided, side } = slice(mesh, plane);
  const wanted = keep === 'above' ? 1 : -1;
  // A mesh that the plane only touches is on one side of it.
  const rework = new Rework(divided);
  for (let f = 0; f < side.length; f++) if (side[f] === wanted) rework.keep(f);
  if (!side.includes(wanted)) throw new FormError('cut/nothing', 'The cut would leave nothing: all of it lies on the side that goes.');
  if (cap !== undefined && side.includes(-wanted)) {
    const loops = openings(divided, side, wanted);
    const outward: Vec3 = wanted > 0 ? [-plane.normal[0], -plane.normal[1], -plane.normal[2]] : plane.normal;
    capLoops(rework, divided, loops, outward, cap);
  }
  return rework.build().mesh;
}

/** Loops of vertices along the cut, seen from outside: the kept faces run along them the other way. */
function openings(mesh: PolyMesh, side: Int8Array, wanted: number): { loop: number[]; face: number }[] {
  const kept = new Map<string, { a: number; b: number; face: number }>();
  const gone = new Set<string>();
  for (let f = 0; f < side.length; f++)
    for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++) {
      const [a, b] = [mesh.faceVert[c], mesh.faceVert[c + 1 < mesh.faceStart[f + 1] ? c + 1 : mesh.faceStart[f]]];
      if (side[f] === wanted) kept.set(`${a},${b}`, { a, b, face: f });
      else gone.add(`${a},${b}`);
    }
  const after = new Map<number, { to: number; face: number }[]>();
  for (const { a, b, face } of kept.values()) {
    if (!gone.has(`${b},${a}`)) continue;
    const list = after.get(b);
    if (list) list.push({ to: a, face });
    else after.set(b, [{ to: a, face }]);
  }
  const out: { loop: number[]; face: number }[] = [];
  for (const first of [...after.keys()])
    while ((after.get(first)?.length ?? 0) > 0) {
      const loop: number[] = [];
      let face = 0;
      let v = first;
      do {
        const next = after.get(v)?.pop();
        if (!next) throw new FormError('cut/open', 'The cut can’t be closed: the surface is open where the plane meets it.');
        loop.push(v);
        face = next.face;
        v = next.to;
      } while (v !== first);
      out.push({ loop, face });
    }
  return out;
}

/** Flat faces with hard edges over loops of a plane; their patch coordinates fill their box. */
function capLoops(rework: Rework, mesh: PolyMesh, loops: readonly { loop: number[]; face: number }[], outward: Vec3, patch: string): void {
  if (loops.length === 0) return;
  const { u, v } = frameOf(outward);
  const at = (i: number): [number, number] => {
    const p: Vec3 = [mesh.positions[3 * i], mesh.positions[3 * i + 1], mesh.positions[3 * i + 2]];
    return [dot(p, u), dot(p, v)];
  };
  const all = loops.flatMap((l) => l.loop.map(at));
  const [x0, x1] = [Math.min(...all.map((p) => p[0])), Math.max(...all.map((p) => p[0]))];
  const [y0, y1] = [Math.min(...all.map((p) => p[1])), Math.max(...all.map((p) => p[1]))];
  for (const face of fillLoops(
    loops.map((l) => l.loop),
    at,
  ))
    rework.face(
      face.map((i): NewCorner => {
        const [x, y] = at(i);
        return { vertex: i, hard: true, uv: [(x - x0) / Math.max(x1 - x0, 1e-12), (y - y0) / Math.max(y1 - y0, 1e-12)] };
      }),
      loops[0].face,
      patch,
    );
}

/** The outline of a closed solid where a plane meets it: outer loops counter-clockwise seen from where the normal points, holes clockwise. */
export function sectionLoops(mesh: PolyMesh, plane: Plane): Vec3[][] {
  const { mesh: divided, side } = slice(mesh, plane);
  if (!side.includes(1) || !side.includes(-1)) return [];
  return openings(divided, side, -1).map(({ loop }) =>
    loop.map((v): Vec3 => [divided.positions[3 * v], divided.positions[3 * v + 1], divided.positions[3 * v + 2]]),
  );
}
