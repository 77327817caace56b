import { FormError } from '../errors';
import { add, cross, dot, normalise, perpendicular, scale, sub, type Vec3 } from '../maths/vec3';
import { boundaryLoops, edgesOf, twin } from './connectivity';
import { mergeLaid } from './merge';
import { faceCount, type PolyMesh } from './polymesh';
import { type NewCorner, Rework } from './rework';

/** Finds where a ray first meets a mesh: distance along it and the triangle, or null. */
export type Cast = (origin: Vec3, direction: Vec3) => { t: number; triangle: number } | null;

/** Options for {@link joinRims}. */
export interface JoinRimsOptions {
  /** Turns the rims' own footing against the body's edges: as it comes, by half a side, or whichever is pinched less. */
  phase: 'as it is' | 'half' | 'best';
  /** The patch of the faces that lead from body to rim. */
  patch: string;
  /** How far round the rim the body is opened, in widths of the rim: 0.2 leaves a fifth. */
  margin: number;
  cast: Cast;
}

/** Rims that were joined: how many, and the quads between them. */
export interface JoinedRims {
  mesh: PolyMesh;
  joined: number;
  quads: number;
  triangles: number;
  /** Longest by shortest side of the worst face between body and rim: 1 is a square. */
  pinch: number;
  /** Sides of the rims, and of the openings they were joined to. */
  counts: { rim: number; opening: number }[];
}

/**
 * Joins open rims of one surface to another that they stand on: each rim chooses the faces of the body under and just around
 * it, opens them, is laid down on the body's own surface, and the ring between is filled with quads, and with as many
 * triangles as the two counts differ by.
 *
 * @param body what the rims stand on
 * @param piece with open rims; flat ends count when it has none
 * @throws FormError `join/…` where a rim doesn't reach the body, or its opening isn't a simple one
 */
export function joinRims(body: PolyMesh, piece: PolyMesh, options: JoinRimsOptions): JoinedRims {
  const { mesh: open, rims } = opened(piece);
  if (rims.length === 0) throw new FormError('join/rims', 'There is no open rim and no flat end to join.');
  const cast = options.cast;
  const triangleFace = body.triangleFace;
  const reached = rims.map((loop) => footprint(open, loop, cast));
  const joined = reached.filter((f) => f !== null);
  if (joined.length === 0)
    throw new FormError('join/apart', 'No rim faces the body: move the piece so that an end of it stands on the body, or nearly.');

  const gone = new Int32Array(faceCount(body)).fill(-1);
  for (const [i, foot] of joined.entries())
    for (const t of foot.covered(options.margin)) {
      const f = triangleFace[t];
      if (gone[f] >= 0 && gone[f] !== i)
        throw new FormError(
          'join/shared',
          'Two rims would open the same face of the body: give the body more faces there, or move the rims apart.',
        );
      gone[f] = i;
    }
  const edges = edgesOf(body);
  const merged = mergeLaid([body, open]);
  const [bodyFaces, bodyVertices] = [faceCount(body), body.positions.length / 3];
  const rework = new Rework(merged);
  for (let f = 0; f < faceCount(merged); f++) if (f >= bodyFaces || gone[f] < 0) rework.keep(f);
  const out: JoinedRims = { mesh: merged, joined: joined.length, quads: 0, triangles: 0, pinch: 1, counts: [] };
  for (const [i, foot] of joined.entries()) {
    const hole = outline(body, edges, gone, i);
    if (!hole)
      throw new FormError('join/opening', 'The faces a rim would open don’t lie in one piece: it runs over an edge or a hole of the body.');
    // The rim comes down onto the body.
    const rim = foot.loop.map((v) => v + bodyVertices);
    for (const [k, v] of rim.entries()) rework.move(v, ...(foot.down[k] as [number, number, number]));
    const from = gone.indexOf(i);
    bridge(rework, hole, rim, foot, from, options, out);
  }
  out.mesh = rework.build().mesh;
  return out;
}

/** A piece with its rims: its open loops, or those left when its flat ends are taken off. */
function opened(piece: PolyMesh): { mesh: PolyMesh; rims: number[][] } {
  const own = boundaryLoops(piece);
  if (own.length > 0) return { mesh: piece, rims: own };
  const ends = new Set<number>();
  const patch = piece.attributes.find((a) => a.name === 'patch' && a.domain === 'face')?.data;
  const most = Math.max(...Array.from({ length: faceCount(piece) }, (_, f) => piece.faceStart[f + 1] - piece.faceStart[f]));
  for (let f = 0; f < faceCount(piece); f++) {
    const name = patch ? piece.patches[patch[f]] : '';
    if (/\/(start|end)$/.test(name) || (!patch && most > 4 && piece.faceStart[f + 1] - piece.faceStart[f] === most)) ends.add(f);
  }
  if (ends.size === 0) return { mesh: piece, rims: [] };
  const rework = new Rework(piece);
  for (let f = 0; f < faceCount(piece); f++) if (!ends.has(f)) rework.keep(f);
  const { mesh } = rework.build();
  return { mesh, rims: boundaryLoops(mesh) };
}

interface Footprint {
  loop: number[];
  /** Where each vertex of the rim comes down on the body. */
  down: Vec3[];
  middle: Vec3;
  /** Out of the piece, into the body. */
  way: Vec3;
  /** Triangles of the body under the rim and round it. */
  covered(margin: number): Set<number>;
}

/** Rays are cast from this far behind a rim, in widths of it: a piece may stand a little in the body already. */
const BEHIND = 1.5;
/** Rings and spokes of places under a rim that are asked for their face. */
const RINGS = 6;

function footprint(mesh: PolyMesh, loop: readonly number[], cast: Cast): Footprint | null {
  const p = loop.map((v): Vec3 => [mesh.positions[3 * v], mesh.positions[3 * v + 1], mesh.positions[3 * v + 2]]);
  const middle = scale(p.reduce(add), 1 / p.length);
  let n: Vec3 = [0, 0, 0];
  for (const [i, a] of p.entries()) n = add(n, cross(sub(a, middle), sub(p[(i + 1) % p.length], middle)));
  // Seen from beyond, a rim turns clockwise as its faces run along it: their normal points back into the piece.
  const way = normalise(scale(n, -1));
  const width = 2 * Math.max(...p.map((a) => Math.hypot(...sub(a, middle))));
  const land = (a: Vec3): { point: Vec3; triangle: number } | null => {
    const o = sub(a, scale(way, BEHIND * width));
    const hit = cast(o, way);
    if (!hit || hit.t > (BEHIND + 1.5) * width) return null;
    return { point: add(o, scale(way, hit.t)), triangle: hit.triangle };
  };
  const landed = p.map(land);
  if (landed.some((l) => l === null)) return null;
  return {
    loop: [...loop],
    down: landed.map((l) => (l as { point: Vec3 }).point),
    middle,
    way,
    covered(margin) {
      const out = new Set<number>();
      for (let r = 0; r <= RINGS; r++)
        for (const [i, a] of p.entries())
          for (const b of [a, scale(add(a, p[(i + 1) % p.length]), 0.5)]) {
            const hit = land(add(middle, scale(sub(b, middle), ((1 + margin) * r) / RINGS)));
            if (hit) out.add(hit.triangle);
          }
      return out;
    },
  };
}

/** The outline of the faces that go, as the faces around it see it; null when it is not one loop. */
function outline(mesh: PolyMesh, edges: ReturnType<typeof edgesOf>, gone: Int32Array, which: number): number[] | null {
  const after = new Map<number, number>();
  for (let f = 0; f < faceCount(mesh); f++) {
    if (gone[f] !== which) continue;
    for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++) {
      const t = twin(edges, c);
      if (t >= 0 && gone[edges.faceOf[t]] === which) continue;
      if (t < 0 || after.has(mesh.faceVert[c])) return null;
      after.set(mesh.faceVert[c], mesh.faceVert[edges.next[c]]);
    }
  }
  const [first] = after.keys();
  const loop: number[] = [];
  let v: number | undefined = first;
  while (v !== undefined && loop.length <= after.size) {
    loop.push(v);
    v = after.get(v);
    if (v === first) break;
  }
  return loop.length === after.size && v === first ? loop : null;
}

/** Faces between an opening and a rim: each turns as the body's faces do, counter-clockwise from outside. */
function bridge(
  rework: Rework,
  hole: readonly number[],
  rim: readonly number[],
  foot: Footprint,
  from: number,
  options: JoinRimsOptions,
  out: JoinedRims,
): void {
  // Both loops turn the same way seen along the rim's direction; the hole's as the faces that went did.
  const u = perpendicular(foot.way);
  const w = cross(foot.way, u);
  const angle = (v: number): number => {
    const d = sub(rework.position(v), foot.middle);
    return Math.atan2(dot(d, w), dot(d, u));
  };
  const signed = (loop: readonly number[]) =>
    loop.reduce((s, v, i) => {
      const t = angle(loop[(i + 1) % loop.length]) - angle(v);
      return s + t - 2 * Math.PI * Math.round(t / (2 * Math.PI));
    }, 0);
  const inner = Math.sign(signed(rim)) === Math.sign(signed(hole)) ? [...rim] : [...rim].reverse();
  const [m, n] = [hole.length, inner.length];
  const long = Math.max(m, n);
  const starts = options.phase === 'as it is' ? [0] : options.phase === 'half' ? [0.5] : [0, 0.5];
  // Which vertices of the two stand beside each other: of all shifts the one with the shortest spokes.
  const far = (a: number, b: number) => Math.hypot(...sub(rework.position(a), rework.position(b)));
  let best: { cost: number; pairs: [number, number][] } | null = null;
  for (const phase of starts)
    for (let shift = 0; shift < n; shift++) {
      const pairs = Array.from({ length: long }, (_, i): [number, number] => {
        const [a, b] = m >= n ? [i, Math.floor(((i + phase) * n) / m)] : [Math.floor(((i + phase) * m) / n), i];
        return [a % m, (b + shift) % n];
      });
      const cost = pairs.reduce((s, [a, b]) => s + far(hole[a], inner[b]) ** 2, 0);
      if (!best || cost < best.cost - 1e-12) best = { cost, pairs };
    }
  const { pairs } = best as { pairs: [number, number][] };
  for (const [i, [a, b]] of pairs.entries()) {
    const [c, d] = pairs[(i + 1) % long];
    const ring = [hole[a], hole[c], inner[d], inner[b]];
    const corners = ring.map((vertex, k): NewCorner => ({ vertex, uv: [(i + (k === 1 || k === 2 ? 1 : 0)) / long, k < 2 ? 0 : 1] }));
    const kept = corners.filter((x, k) => x.vertex !== corners[(k + 1) % 4].vertex);
    if (kept.length < 3) continue;
    rework.face(kept, from, options.patch);
    if (kept.length === 4) out.quads++;
    else out.triangles++;
    const sides = kept.map((x, k) => far(x.vertex, kept[(k + 1) % kept.length].vertex));
    out.pinch = Math.max(out.pinch, Math.max(...sides) / Math.max(Math.min(...sides), 1e-9));
  }
  out.counts.push({ rim: n, opening: m });
}
