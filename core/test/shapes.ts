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
