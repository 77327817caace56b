import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { cornerCount, faceCount, makeMesh, type PolyMesh, triangleCount, withAttribute } from '../../src/mesh/polymesh';

/** What of the library’s module is used here (`xatlasjs` 0.2.0, general-purpose, a development dependency). */
interface Module {
  createAtlas(): void;
  destroyAtlas(): void;
  createMesh(
    vertices: number,
    indices: number,
    normals: boolean,
    coords: boolean,
  ): { meshId: number; indexOffset: number; positionOffset: number };
  addMesh(): number;
  generateAtlas(chart: object, pack: object): void;
  getAtlas(): { width: number; height: number; atlasCount: number };
  getMeshData(id: number): {
    newVertexCount: number;
    newIndexCount: number;
    indexOffset: number;
    originalIndexOffset: number;
    uvOffset: number;
  };
  HEAPU16: Uint16Array;
  HEAPU32: Uint32Array;
  HEAPF32: Float32Array;
}
interface Options {
  defaultChartOptions(): object;
  defaultPackOptions(): object;
}

/** Most vertices it takes: it reads 16-bit indices. */
export const MOST_VERTICES = 65_535;

/** A layout of the library’s, as our meshes carry one, and how long one run with default options took, s. */
export interface Theirs {
  mesh: PolyMesh;
  seconds: number;
}

let loaded: Promise<{ module: Module; options: Options }> | null = null;

async function library(): Promise<{ module: Module; options: Options }> {
  const home = dirname(createRequire(import.meta.url).resolve('xatlasjs/package.json'));
  const create = createRequire(import.meta.url)(join(home, 'dist/node/xatlas.js'));
  const { Api } = await import(pathToFileURL(join(home, 'dist/node/api.mjs')).href);
  const api = await new Promise<Options & { xatlas: Module }>((resolve) => {
    const made = new (Api(create))(
      () => resolve(made),
      (file: string) => join(home, 'dist/node', file),
    );
  });
  return { module: api.xatlas, options: api };
}

/**
 * Laid out by the library into one square atlas of exactly `size`: its `texelsPerUnit` is searched for the largest that still needs
 * one atlas only. Other options are its defaults.
 */
export async function theirs(mesh: PolyMesh, size: number, padding: number, more: { bruteForce?: boolean } = {}): Promise<Theirs> {
  loaded ??= library();
  const { module, options } = await loaded;
  const soup = plain(mesh);
  const run = (texelsPerUnit: number): number => {
    module.createAtlas();
    const to = module.createMesh(soup.positions.length / 3, soup.index.length, false, false);
    module.HEAPU16.set(soup.index, to.indexOffset / 2);
    module.HEAPF32.set(soup.positions, to.positionOffset / 4);
    if (module.addMesh() !== 0) throw new Error('the library refused the mesh');
    module.generateAtlas(options.defaultChartOptions(), {
      ...options.defaultPackOptions(),
      ...more,
      padding,
      resolution: size,
      texelsPerUnit,
    });
    return module.getAtlas().atlasCount;
  };
  const began = performance.now();
  run(0);
  const seconds = (performance.now() - began) / 1000;
  module.destroyAtlas();
  const most = size / Math.sqrt(areaOfSoup(soup));
  let [low, high] = [most * 0.05, most];
  for (let i = 0; i < 9; i++) {
    const middle = Math.sqrt(low * high);
    if (run(middle) === 1) low = middle;
    else high = middle;
    module.destroyAtlas();
  }
  if (run(low) !== 1) throw new Error('the library needs more than one atlas');
  const { width, height } = module.getAtlas();
  if (width !== size || height !== size) throw new Error(`the library’s atlas is ${width} × ${height}`);
  const data = module.getMeshData(0);
  const index = module.HEAPU32.slice(data.indexOffset / 4, data.indexOffset / 4 + data.newIndexCount);
  const uvs = module.HEAPF32.slice(data.uvOffset / 4, data.uvOffset / 4 + 2 * data.newVertexCount);
  module.destroyAtlas();
  // It says places in the atlas as shares of it, v down.
  const uv = new Float64Array(2 * index.length);
  for (let c = 0; c < index.length; c++) {
    uv[2 * c] = uvs[2 * index[c]];
    uv[2 * c + 1] = 1 - uvs[2 * index[c] + 1];
  }
  return { mesh: withLayout(soup, uv), seconds };
}

interface Soup {
  positions: Float32Array;
  index: Uint16Array;
  mesh: PolyMesh;
}

/** The mesh’s own triangles over its vertices, and nothing else of it. */
function plain(mesh: PolyMesh): Soup {
  if (mesh.positions.length / 3 > MOST_VERTICES) throw new Error('the library takes no more than 65 535 vertices');
  const index = Uint16Array.from(mesh.triangles, (c) => mesh.faceVert[c]);
  return { positions: Float32Array.from(mesh.positions), index, mesh: asTriangles(mesh) };
}

const withLayout = (soup: Soup, uv: Float64Array): PolyMesh =>
  withAttribute(soup.mesh, { name: 'uv', domain: 'corner', size: 2, data: uv });

/** A mesh as the triangles it is drawn with, without anything its makers said about it. */
export function asTriangles(mesh: PolyMesh): PolyMesh {
  const faceVert = Uint32Array.from(mesh.triangles, (c) => mesh.faceVert[c]);
  const faceStart = Uint32Array.from({ length: triangleCount(mesh) + 1 }, (_, t) => 3 * t);
  const made = makeMesh({ positions: mesh.positions, faceStart, faceVert });
  if (faceCount(made) !== triangleCount(made) || cornerCount(made) !== 3 * triangleCount(made))
    throw new Error('not all faces are triangles');
  return made;
}

function areaOfSoup({ positions: p, index }: Soup): number {
  let sum = 0;
  for (let i = 0; i < index.length; i += 3) {
    const [a, b, c] = [3 * index[i], 3 * index[i + 1], 3 * index[i + 2]];
    const u = [p[b] - p[a], p[b + 1] - p[a + 1], p[b + 2] - p[a + 2]];
    const v = [p[c] - p[a], p[c + 1] - p[a + 1], p[c + 2] - p[a + 2]];
    sum += Math.hypot(u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]) / 2;
  }
  return sum;
}
