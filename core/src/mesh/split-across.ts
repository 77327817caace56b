import { add, dot, scale, sub, type Vec3 } from '../maths/vec3';
import { type Edges, twin } from './connectivity';
import type { PolyMesh } from './polymesh';
import { type NewCorner, Rework } from './rework';

/** Two lines over a surface: places whose distance along a direction is one of two, mm. */
export interface TwoLines {
  origin: Vec3;
  along: Vec3;
  low: number;
  high: number;
}

/**
 * Divides faces by two lines across a direction. The lines end beyond the outermost of those faces, in four quads each, so that nothing
 * of the surface beside them is divided: of quads come quads.
 *
 * @param faces to be divided, where both lines cross them from side to side
 * @param all whether each of them has to be
 * @returns null where they aren't quads in a row that the lines can cross
 */
export function splitAcross(
  body: PolyMesh,
  edges: Edges,
  faces: Iterable<number>,
  { origin, along, low, high }: TwoLines,
  all: (face: number) => boolean,
): { mesh: PolyMesh; divided: number } | null {
  const height = (v: number): number =>
    dot(sub([body.positions[3 * v], body.positions[3 * v + 1], body.positions[3 * v + 2]], origin), along);
  // The corner before a side that both lines cross, for a face that they cross from side to side.
  const crossed = (f: number): [number, number] | null => {
    const from = body.faceStart[f];
    if (body.faceStart[f + 1] - from !== 4) return null;
    const sides = [0, 1, 2, 3].filter((k) => {
      const [p, q] = [height(body.faceVert[from + k]), height(body.faceVert[from + ((k + 1) % 4)])];
      return (p < low && q > high) || (q < low && p > high);
    });
    return sides.length === 2 && sides[1] - sides[0] === 2 ? [from + sides[0], from + sides[1]] : null;
  };
  const row = new Set<number>();
  for (const f of faces)
    if (crossed(f)) row.add(f);
    else if (all(f)) return null;
  if (row.size === 0) return null;
  const rework = new Rework(body);
  const made = new Map<string, [number, number]>();
  /** The two new vertices on a side, the one on the lower line first. */
  const on = (corner: number): [number, number] => {
    const f = edges.faceOf[corner];
    const [v, w] = [body.faceVert[corner], body.faceVert[corner + 1 < body.faceStart[f + 1] ? corner + 1 : body.faceStart[f]]];
    const [p, q] = height(v) < height(w) ? [v, w] : [w, v];
    const key = `${p} ${q}`;
    const known = made.get(key);
    if (known) return known;
    const put = (share: number): number => {
      const t = (share - height(p)) / (height(q) - height(p));
      return rework.vertex(...(add(rework.position(p), scale(sub(rework.position(q), rework.position(p)), t)) as [number, number, number]));
    };
    const own: [number, number] = [put(low), put(high)];
    made.set(key, own);
    return own;
  };
  const others = new Map<number, number[]>();
  for (const f of row)
    for (const corner of crossed(f) as [number, number]) {
      on(corner);
      const t = twin(edges, corner);
      if (t < 0) return null;
      const g = edges.faceOf[t];
      if (!row.has(g)) others.set(g, [...(others.get(g) ?? []), t]);
    }
  // What lies beyond is a quad with one divided side each.
  for (const [g, corners] of others)
    if (corners.length !== 1 || body.faceStart[g + 1] - body.faceStart[g] !== 4 || !crossed(g)) return null;
  const place = (v: number): Vec3 => rework.position(v);
  const free = (p: Vec3): number => rework.vertex(...(p as [number, number, number]));
  for (let f = 0; f < body.faceStart.length - 1; f++) {
    const from = body.faceStart[f];
    const corner = (k: number): NewCorner => ({
      vertex: body.faceVert[from + (((k % 4) + 4) % 4)],
      from: from + (((k % 4) + 4) % 4),
      edge: from + (((k % 4) + 4) % 4),
    });
    /** A corner between two others of the face. */
    const mixed = (vertex: number, shares: [number, number][], edge?: number): NewCorner => ({
      vertex,
      from: shares,
      ...(edge !== undefined && { edge }),
    });
    const share = (v: number, p: number, q: number): number => {
      const d = sub(place(q), place(p));
      return dot(sub(place(v), place(p)), d) / Math.max(dot(d, d), 1e-18);
    };
    /** A new vertex on side k, with the values it has there. */
    const onSide = (k: number, v: number, edge = true): NewCorner => {
      const [i, j] = [from + (k % 4), from + ((k + 1) % 4)];
      const t = share(v, body.faceVert[i], body.faceVert[j]);
      return mixed(
        v,
        [
          [i, 1 - t],
          [j, t],
        ],
        edge ? i : undefined,
      );
    };
    if (row.has(f)) {
      const [side] = crossed(f) as [number, number];
      const k = side - from;
      // Side k runs from corner k to k + 1, the opposite one from k + 2 to k + 3.
      const rising = height(body.faceVert[from + k]) < height(body.faceVert[from + ((k + 1) % 4)]);
      const near = on(from + k);
      const opposite = on(from + ((k + 2) % 4));
      const [p, q] = rising ? near : [near[1], near[0]];
      const [r, s] = rising ? opposite : [opposite[1], opposite[0]];
      // p, q along side k in its own order; r, s on the opposite side beside them.
      rework.face([corner(k), { ...onSide(k, p), edge: undefined }, onSide(k + 2, r), corner(k + 3)], f);
      rework.face([onSide(k, p), { ...onSide(k, q), edge: undefined }, onSide(k + 2, s), { ...onSide(k + 2, r), edge: undefined }], f);
      rework.face([onSide(k, q), corner(k + 1), corner(k + 2), { ...onSide(k + 2, s), edge: undefined }], f);
      continue;
    }
    const divided = others.get(f);
    if (!divided) {
      rework.keep(f);
      continue;
    }
    const k = divided[0] - from;
    const rising = height(body.faceVert[from + k]) < height(body.faceVert[from + ((k + 1) % 4)]);
    const pair = on(from + k);
    const [p, q] = rising ? pair : [pair[1], pair[0]];
    // Two vertices inside, before the two on the side: they close the lines.
    const inward = (v: number, w: number): { vertex: number; from: [number, number][] } => {
      const t = share(v, body.faceVert[from + k], body.faceVert[from + ((k + 1) % 4)]);
      const depth = 0.5;
      const shares: [number, number][] = [
        [from + k, (1 - t) * (1 - depth)],
        [from + ((k + 1) % 4), t * (1 - depth)],
        [from + ((k + 2) % 4), t * depth],
        [from + ((k + 3) % 4), (1 - t) * depth],
      ];
      return { vertex: w, from: shares };
    };
    const inside = (v: number): NewCorner => {
      const { from: shares } = inward(v, 0);
      const at = shares.reduce<Vec3>((sum, [c, weight]) => add(sum, scale(place(body.faceVert[c]), weight)), [0, 0, 0]);
      return { vertex: free(at), from: shares };
    };
    const [c, d] = [inside(p), inside(q)];
    rework.face([corner(k), { ...onSide(k, p), edge: undefined }, c, { ...corner(k + 3), edge: from + ((k + 3) % 4) }], f);
    rework.face([onSide(k, p), { ...onSide(k, q), edge: undefined }, { ...d, edge: undefined }, { ...c, edge: undefined }], f);
    rework.face([onSide(k, q), corner(k + 1), { ...corner(k + 2), edge: undefined }, d], f);
    rework.face([c, d, corner(k + 2), { ...corner(k + 3), edge: undefined }], f);
  }
  return { mesh: rework.build().mesh, divided: row.size + others.size };
}
