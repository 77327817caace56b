import type { PolyMesh } from '../../src/mesh/polymesh';

/** What a layout came to, counted by code that shares nothing with the one that made it. */
export interface Score {
  /** Share of texels whose centre lies in a triangle. */
  coverage: number;
  /** L² stretch (Sander et al. 2001), each island at its own scale. */
  l2: number;
  islands: number;
  flips: number;
  /** Least over greatest density of islands, without those that hold the last twentieth of the surface at either end. */
  even: number;
  /** Texels claimed by two triangles, both by more than a hundredth of a texel. */
  twice: number;
  /** Fewest empty texels between two islands. */
  gap: number;
  /** Edges of the surface that lie apart in the layout, as a share of the root of its area. */
  seam: number;
  /** The same, each edge counted as much as the more looked-at of its faces is looked at. */
  shown: number;
  /** Vertices of position and layout. */
  vertices: number;
}

/**
 * Scores a mesh of triangles with `uv` (corner, shares of the tile). Vertices of one position count as one.
 *
 * @param looks what share of the looks at each triangle arrives, 0 … 1
 */
export function score(mesh: PolyMesh, size: number, looks: ArrayLike<number>): Score {
  const uv = mesh.attributes.find((a) => a.name === 'uv')?.data;
  if (!uv) throw new Error('there is no layout to score');
  const { positions, faceVert, triangles } = mesh;
  const place = places(positions);
  const n = triangles.length / 3;
  const corner = (t: number, k: number) => triangles[3 * t + k];
  const key = (c: number) => `${Math.round(uv[2 * c] * 4e6)},${Math.round(uv[2 * c + 1] * 4e6)}`;
  // Islands: triangles that share an edge both in space and in the layout.
  const parent = Int32Array.from({ length: n }, (_, t) => t);
  const root = (t: number): number => {
    let r = t;
    while (parent[r] !== r) {
      parent[r] = parent[parent[r]];
      r = parent[r];
    }
    return r;
  };
  const byEdge = new Map<string, { t: number; a: string; b: string; length: number }[]>();
  const vertices = new Set<string>();
  for (let t = 0; t < n; t++)
    for (let k = 0; k < 3; k++) {
      const [c, d] = [corner(t, k), corner(t, (k + 1) % 3)];
      const [v, w] = [place[faceVert[c]], place[faceVert[d]]];
      vertices.add(`${v}|${key(c)}`);
      const name = v < w ? `${v}_${w}` : `${w}_${v}`;
      const [a, b] = v < w ? [key(c), key(d)] : [key(d), key(c)];
      const list = byEdge.get(name) ?? [];
      list.push({ t, a, b, length: Math.hypot(...[0, 1, 2].map((i) => positions[3 * faceVert[c] + i] - positions[3 * faceVert[d] + i])) });
      byEdge.set(name, list);
    }
  let seam = 0;
  let shown = 0;
  for (const list of byEdge.values())
    for (let i = 1; i < list.length; i++) {
      if (list[i].a === list[0].a && list[i].b === list[0].b) parent[root(list[i].t)] = root(list[0].t);
      else {
        seam += list[i].length;
        shown += list[i].length * Math.max(looks[list[i].t], looks[list[0].t]);
      }
    }
  const island = Int32Array.from({ length: n }, (_, t) => root(t));
  const sums = new Map<number, { space: number; laid: number; stretched: number }>();
  let [space, flips] = [0, 0];
  const texel = size * size;
  const signs = new Map<number, number>();
  const each = Array.from({ length: n }, (_, t) => {
    const [a, b, c] = [0, 1, 2].map((k) => corner(t, k));
    const [p, q, r] = [a, b, c].map((x) => [0, 1, 2].map((i) => positions[3 * faceVert[x] + i]));
    const u = q.map((x, i) => x - p[i]);
    const v = r.map((x, i) => x - p[i]);
    const area = Math.hypot(u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]) / 2;
    const laid =
      ((uv[2 * b] - uv[2 * a]) * (uv[2 * c + 1] - uv[2 * a + 1]) - (uv[2 * b + 1] - uv[2 * a + 1]) * (uv[2 * c] - uv[2 * a])) / 2;
    signs.set(island[t], (signs.get(island[t]) ?? 0) + laid);
    // Σ of squared singular values over two: the trace of the metric (Sander’s a + c).
    let trace = 0;
    if (laid !== 0)
      for (let i = 0; i < 3; i++) {
        const ds =
          (p[i] * (uv[2 * b + 1] - uv[2 * c + 1]) + q[i] * (uv[2 * c + 1] - uv[2 * a + 1]) + r[i] * (uv[2 * a + 1] - uv[2 * b + 1])) /
          (2 * laid);
        const dt = (p[i] * (uv[2 * c] - uv[2 * b]) + q[i] * (uv[2 * a] - uv[2 * c]) + r[i] * (uv[2 * b] - uv[2 * a])) / (2 * laid);
        trace += (ds * ds + dt * dt) / 2;
      }
    return { area, laid, trace };
  });
  const mean = each.reduce((s, e) => s + e.area, 0) / n;
  for (const [t, e] of each.entries()) {
    // What has next to no area in space says nothing about stretch.
    if (e.area < 1e-7 * mean) continue;
    if (e.laid * (signs.get(island[t]) as number) <= 0 && Math.abs(e.laid) * texel > 1e-3) flips++;
    const s = sums.get(island[t]) ?? { space: 0, laid: 0, stretched: 0 };
    s.space += e.area;
    s.laid += Math.abs(e.laid);
    s.stretched += e.area * Math.min(e.trace, 1e18);
    sums.set(island[t], s);
    space += e.area;
  }
  let stretched = 0;
  for (const s of sums.values()) stretched += s.stretched * (s.laid / s.space);
  const dense = [...sums.values()]
    .map((s) => ({ density: Math.sqrt(s.laid / s.space), space: s.space }))
    .sort((a, b) => a.density - b.density);
  const at = (share: number) => {
    let sum = 0;
    for (const d of dense) {
      sum += d.space;
      if (sum >= share * space) return d.density;
    }
    return dense[dense.length - 1].density;
  };
  const raster = drawn(mesh, uv, island, size);
  return {
    ...raster,
    l2: Math.sqrt(stretched / space),
    islands: new Set(island).size,
    flips,
    even: at(0.05) / at(0.95),
    seam: seam / Math.sqrt(space),
    shown: shown / Math.sqrt(space),
    vertices: vertices.size,
  };
}

/** Vertex → the first vertex that stands in its place. */
function places(positions: Float64Array): Int32Array {
  const first = new Map<string, number>();
  return Int32Array.from({ length: positions.length / 3 }, (_, v) => {
    const name = `${Math.fround(positions[3 * v])},${Math.fround(positions[3 * v + 1])},${Math.fround(positions[3 * v + 2])}`;
    const known = first.get(name);
    if (known === undefined) first.set(name, v);
    return known ?? v;
  });
}

function drawn(mesh: PolyMesh, uv: ArrayLike<number>, island: Int32Array, size: number): { coverage: number; twice: number; gap: number } {
  const owner = new Int32Array(size * size).fill(-1);
  let [covered, twice] = [0, 0];
  const depth = 0.01;
  const deep = new Uint8Array(size * size);
  for (let t = 0; t < island.length; t++) {
    const [a, b, c] = [0, 1, 2].map((k) => mesh.triangles[3 * t + k]);
    const p = [uv[2 * a] * size, uv[2 * a + 1] * size, uv[2 * b] * size, uv[2 * b + 1] * size, uv[2 * c] * size, uv[2 * c + 1] * size];
    const turn = Math.sign((p[2] - p[0]) * (p[5] - p[1]) - (p[3] - p[1]) * (p[4] - p[0]));
    if (turn === 0) continue;
    const [x0, x1] = [Math.max(0, Math.floor(Math.min(p[0], p[2], p[4]))), Math.min(size - 1, Math.ceil(Math.max(p[0], p[2], p[4])))];
    const [y0, y1] = [Math.max(0, Math.floor(Math.min(p[1], p[3], p[5]))), Math.min(size - 1, Math.ceil(Math.max(p[1], p[3], p[5])))];
    for (let y = y0; y <= y1; y++)
      for (let x = x0; x <= x1; x++) {
        let least = Infinity;
        for (let k = 0; k < 6; k += 2) {
          const m = (k + 2) % 6;
          const [ex, ey] = [p[m] - p[k], p[m + 1] - p[k + 1]];
          least = Math.min(least, (turn * (ex * (y + 0.5 - p[k + 1]) - ey * (x + 0.5 - p[k]))) / Math.max(Math.hypot(ex, ey), 1e-12));
        }
        if (least < 0) continue;
        const i = y * size + x;
        if (owner[i] < 0) {
          owner[i] = island[t];
          covered++;
        } else if (least > depth && deep[i]) twice++;
        if (least > depth) deep[i] = 1;
      }
  }
  return { coverage: covered / (size * size), twice, gap: fewestBetween(owner, size) };
}

/** Brute force over a growing window round every texel on a rim: fewest empty texels between two islands, at most 24. */
function fewestBetween(owner: Int32Array, size: number): number {
  let gap = 24;
  for (let y = 0; y < size; y++)
    for (let x = 0; x < size; x++) {
      const mine = owner[y * size + x];
      if (mine < 0) continue;
      for (let d = 1; d <= gap; d++) {
        let met = false;
        // Only half of the ring: the other half meets this texel from its own side.
        for (let i = -d; i <= d && !met; i++) met = other(owner, size, x + i, y + d, mine) || other(owner, size, x + d, y + i, mine);
        if (met) {
          gap = d - 1;
          break;
        }
      }
      if (gap === 0) return 0;
    }
  return gap;
}

function other(owner: Int32Array, size: number, x: number, y: number, mine: number): boolean {
  if (x < 0 || y < 0 || x >= size || y >= size) return false;
  const o = owner[y * size + x];
  return o >= 0 && o !== mine;
}
