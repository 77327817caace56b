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
  /** +1 above or on the plane, −1 below; crossings are 0. */
  side: number;
  /** Place along the cut. */
  along: number;
}

interface Sliced {
  mesh: PolyMesh;
  /** Face → +1 above the plane, −1 below. */
  side: Int8Array;
  origin: Uint32Array;
}

/**
 * Divides every face that a plane passes through, so that edges lie along it; nothing moves and no shape changes. Faces may be
 * concave: each comes apart into as many pieces as the plane makes of it.
 */
export function slice(mesh: PolyMesh, { normal, offset }: Plane): Sliced {
  const p = mesh.positions;
  const { min, max } = boundsOf(mesh);
  const near = NEAR * Math.max(1, ...max.map((x, k) => x - min[k]));
  const height = new Float64Array(vertexCount(mesh));
  for (let v = 0; v < height.length; v++) {
    const d = normal[0] * p[3 * v] + normal[1] * p[3 * v + 1] + normal[2] * p[3 * v + 2] - offset;
    height[v] = Math.abs(d) < near ? 0 : d;
  }
  const rework = new Rework(mesh);
  const sides: number[] = [];
  const crossings = new Map<string, number>();
  const crossing = (a: number, b: number): number => {
    if (height[a] === 0) return a;
    if (height[b] === 0) return b;
    const [low, high] = a < b ? [a, b] : [b, a];
    const name = `${low},${high}`;
    let v = crossings.get(name);
    if (v === undefined) {
      const t = height[low] / (height[low] - height[high]);
      v = rework.vertex(...([0, 1, 2].map((k) => p[3 * low + k] + t * (p[3 * high + k] - p[3 * low + k])) as [number, number, number]));
      crossings.set(name, v);
    }
    return v;
  };
  for (let f = 0; f < faceCount(mesh); f++) {
    const [from, to] = [mesh.faceStart[f], mesh.faceStart[f + 1]];
    let [above, below] = [false, false];
    for (let c = from; c < to; c++) {
      const h = height[mesh.faceVert[c]];
      if (h < 0) below = true;
      else if (h > 0) above = true;
    }
    if (!above || !below) {
      rework.keep(f);
      sides.push(below ? -1 : 1);
      continue;
    }
    for (const { corners, side } of pieces(ring(mesh, f, height, crossing, rework))) {
      rework.face(corners, f);
      sides.push(side);
    }
  }
  const { mesh: out, origin } = rework.build();
  return { mesh: out, side: Int8Array.from(sides), origin };
}

/** The outline of a face with the places where it crosses the plane put in, ordered along the cut. */
function ring(
  mesh: PolyMesh,
  f: number,
  height: Float64Array,
  crossing: (a: number, b: number) => number,
  rework: Rework,
): { nodes: Node[]; order: number[] } {
  const [from, to] = [mesh.faceStart[f], mesh.faceStart[f + 1]];
  const nodes: Node[] = [];
  const cuts: number[] = [];
  // Points on the plane count as above it: every face then crosses an even number of times.
  const sideOf = (c: number) => (height[mesh.faceVert[c]] >= 0 ? 1 : -1);
  for (let c = from; c < to; c++) {
    const next = c + 1 < to ? c + 1 : from;
    nodes.push({ corner: { vertex: mesh.faceVert[c], from: c, edge: c }, side: sideOf(c), along: 0 });
    if (sideOf(c) === sideOf(next)) continue;
    const [a, b] = [mesh.faceVert[c], mesh.faceVert[next]];
    const t = height[a] / (height[a] - height[b]);
    cuts.push(nodes.length);
    nodes.push({
      corner: {
        vertex: crossing(a, b),
        from: [
          [c, 1 - t],
          [next, t],
        ],
        edge: c,
      },
      side: 0,
      along: 0,
    });
  }
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
  return { nodes, order: cuts.sort((a, b) => nodes[a].along - nodes[b].along || a - b) };
}

function pieces({ nodes, order }: { nodes: Node[]; order: number[] }): { corners: NewCorner[]; side: number }[] {
  const partner = new Map<number, number>();
  for (let i = 0; i + 1 < order.length; i += 2) partner.set(order[i], order[i + 1]).set(order[i + 1], order[i]);
  const n = nodes.length;
  const out: { corners: NewCorner[]; side: number }[] = [];
  const done = new Uint8Array(n);
  for (let start = 0; start < n; start++) {
    if (nodes[start].side === 0 || done[start]) continue;
    const { side } = nodes[start];
    const corners: NewCorner[] = [];
    let i = start;
    do {
      const node = nodes[i];
      if (node.side !== 0) {
        done[i] = 1;
        corners.push(node.corner);
        i = (i + 1) % n;
        continue;
      }
      // Out of this side at a crossing, along the cut, and in again at its partner: the edge along the cut is a new one.
      const back = partner.get(i) ?? i;
      corners.push({ ...node.corner, edge: undefined }, nodes[back].corner);
      i = (back + 1) % n;
    } while (i !== start);
    const clean = corners.filter((c, k) => c.vertex !== corners[(k + 1) % corners.length].vertex);
    if (new Set(clean.map((c) => c.vertex)).size >= 3) out.push({ corners: clean, side });
  }
  return out;
}

/** Slices by several planes one after the other. */
export function sliceAll(mesh: PolyMesh, planes: readonly Plane[]): PolyMesh {
  return planes.reduce((m, plane) => slice(m, plane).mesh, mesh);
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
