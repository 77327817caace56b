import { makeMesh, type PolyMesh } from '../src/mesh/polymesh';

/** A cube of side `s` mm standing on y = 0, six quads. */
export function cube(s: number, at: readonly number[] = [0, 0, 0]): PolyMesh {
  const h = s / 2;
  const positions = [-h, 0, -h, h, 0, -h, h, 0, h, -h, 0, h, -h, s, -h, h, s, -h, h, s, h, -h, s, h].map((x, i) => x + at[i % 3]);
  const faces = [
    [0, 1, 2, 3],
    [4, 7, 6, 5],
    [0, 4, 5, 1],
    [1, 5, 6, 2],
    [2, 6, 7, 3],
    [3, 7, 4, 0],
  ];
  return makeMesh({ positions, faceStart: [0, 4, 8, 12, 16, 20, 24], faceVert: faces.flat() });
}

/** A grid of n × n quads over a height function, uv over the whole square. */
export function sheet(n: number, size: number, height: (x: number, z: number) => number): PolyMesh {
  const positions: number[] = [];
  const uv: number[] = [];
  for (let j = 0; j <= n; j++)
    for (let i = 0; i <= n; i++) {
      const [x, z] = [(i / n - 0.5) * size, (0.5 - j / n) * size];
      positions.push(x, height(x, z), z);
    }
  const faceVert: number[] = [];
  for (let j = 0; j < n; j++)
    for (let i = 0; i < n; i++) {
      const a = j * (n + 1) + i;
      for (const [v, u, w] of [
        [a, i, j],
        [a + 1, i + 1, j],
        [a + n + 2, i + 1, j + 1],
        [a + n + 1, i, j + 1],
      ]) {
        faceVert.push(v);
        uv.push(u / n, w / n);
      }
    }
  return makeMesh({
    positions,
    faceStart: Uint32Array.from({ length: n * n + 1 }, (_, i) => 4 * i),
    faceVert,
    attributes: [
      { name: 'uv', domain: 'corner', size: 2, data: Float64Array.from(uv) },
      { name: 'island', domain: 'face', size: 1, data: new Int32Array(n * n) },
    ],
  });
}

/** A mesh of triangles from lists as general-purpose packages hand them out. */
export function fromTriangles(positions: ArrayLike<number>, cells: ArrayLike<number>): PolyMesh {
  return makeMesh({ positions, faceStart: Uint32Array.from({ length: cells.length / 3 + 1 }, (_, i) => 3 * i), faceVert: cells });
}

/** A torus round y, of quads or of triangles: `n` times round, `m` round its tube. mm */
export function torusMesh(big: number, small: number, n: number, m: number, quads = true): PolyMesh {
  const positions: number[] = [];
  for (let i = 0; i < n; i++)
    for (let j = 0; j < m; j++) {
      const [a, b] = [(2 * Math.PI * i) / n, (2 * Math.PI * j) / m];
      const r = big + small * Math.cos(b);
      positions.push(r * Math.cos(a), small * Math.sin(b), -r * Math.sin(a));
    }
  const at = (i: number, j: number) => (i % n) * m + (j % m);
  const faceVert: number[] = [];
  for (let i = 0; i < n; i++)
    for (let j = 0; j < m; j++) {
      const [a, b, c, d] = [at(i, j), at(i + 1, j), at(i + 1, j + 1), at(i, j + 1)];
      faceVert.push(...(quads ? [a, b, c, d] : [a, b, c, a, c, d]));
    }
  const sides = quads ? 4 : 3;
  return makeMesh({ positions, faceStart: Array.from({ length: faceVert.length / sides + 1 }, (_, f) => sides * f), faceVert });
}

/** A mesh of quads with each cut into n × n, joined along their sides; the faces of one old face follow each other. */
export function refined(mesh: PolyMesh, n: number): PolyMesh {
  const positions: number[] = [];
  const known = new Map<string, number>();
  const vertex = (x: readonly number[]): number => {
    const key = x.map((c) => Math.round(c * 1e6)).join();
    let v = known.get(key);
    if (v === undefined) {
      v = positions.push(...x) / 3 - 1;
      known.set(key, v);
    }
    return v;
  };
  const faceVert: number[] = [];
  for (let f = 0; f + 1 < mesh.faceStart.length; f++) {
    const corner = (k: number) => [0, 1, 2].map((i) => mesh.positions[3 * mesh.faceVert[mesh.faceStart[f] + k] + i]);
    const [a, b, c, d] = [0, 1, 2, 3].map(corner);
    const at = (s: number, t: number) => [0, 1, 2].map((i) => (1 - t) * ((1 - s) * a[i] + s * b[i]) + t * ((1 - s) * d[i] + s * c[i]));
    for (let j = 0; j < n; j++)
      for (let i = 0; i < n; i++)
        for (const [x, y] of [
          [i, j],
          [i + 1, j],
          [i + 1, j + 1],
          [i, j + 1],
        ])
          faceVert.push(vertex(at(x / n, y / n)));
  }
  return makeMesh({ positions, faceStart: Array.from({ length: faceVert.length / 4 + 1 }, (_, f) => 4 * f), faceVert });
}
