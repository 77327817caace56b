import { encodePng } from '../image/png';
import { type Edges, edgesOf, edgeValence } from '../mesh/connectivity';
import { attribute, type PolyMesh, triangleCount } from '../mesh/polymesh';
import { texelsOfTriangle } from '../uv/raster';
import { escaped } from './escaped';

/** A laid-out mesh by its name. */
export interface LaidMesh {
  name: string;
  mesh: PolyMesh;
}

/** Soft fills that tell neighbouring islands apart on paper; no meaning beyond that. */
const FILLS = [
  [221, 235, 230],
  [239, 229, 203],
  [226, 224, 238],
  [240, 222, 214],
  [222, 232, 240],
  [233, 235, 213],
];

/** Edges of the islands: rims and cuts. Pairs of uv points, 4 numbers each. */
export function islandEdges(mesh: PolyMesh): number[] {
  const uv = attribute(mesh, 'uv', 'corner')?.data;
  if (!uv) return [];
  const edges: Edges = edgesOf(mesh);
  const out: number[] = [];
  const same = (a: number, b: number) => Math.abs(uv[2 * a] - uv[2 * b]) < 1e-6 && Math.abs(uv[2 * a + 1] - uv[2 * b + 1]) < 1e-6;
  for (let c = 0; c < mesh.faceVert.length; c++) {
    const e = edges.ofCorner[c];
    if (edgeValence(edges, e) === 2) {
      const [a, b] = [edges.corners[edges.start[e]], edges.corners[edges.start[e] + 1]];
      const other = a === c ? b : a;
      const aligned =
        mesh.faceVert[other] === mesh.faceVert[c]
          ? same(c, other) && same(edges.next[c], edges.next[other])
          : same(c, edges.next[other]) && same(edges.next[c], other);
      if (aligned) continue;
    }
    out.push(uv[2 * c], uv[2 * c + 1], uv[2 * edges.next[c]], uv[2 * edges.next[c] + 1]);
  }
  return out;
}

/** The layout as a picture to paint on: islands filled, the rest clear. PNG with alpha, v up. */
export function layoutPng(parts: readonly LaidMesh[], size: number): Uint8Array {
  const rgba = new Uint8Array(4 * size * size);
  // Four bytes at once, in the order this machine has them.
  const texels = new Uint32Array(rgba.buffer);
  const fills = FILLS.map((c) => new Uint32Array(Uint8Array.from([c[0], c[1], c[2], 255]).buffer)[0]);
  let n = 0;
  for (const { mesh } of parts) {
    const uv = attribute(mesh, 'uv', 'corner')?.data;
    const island = attribute(mesh, 'island', 'face')?.data;
    if (!uv || !island) continue;
    for (let t = 0; t < triangleCount(mesh); t++) {
      const fill = fills[(n + island[mesh.triangleFace[t]]) % FILLS.length];
      texelsOfTriangle(mesh, uv, t, size, (x, y) => {
        texels[y * size + x] = fill;
      });
    }
    n += 1;
  }
  for (const { mesh } of parts) {
    const lines = islandEdges(mesh);
    for (let i = 0; i < lines.length; i += 4)
      drawLine(rgba, size, lines[i] * size, (1 - lines[i + 1]) * size, lines[i + 2] * size, (1 - lines[i + 3]) * size);
  }
  return encodePng({ width: size, height: size, channels: 4, depth: 8, data: rgba }, 1);
}

/** The layout as a picture of something measured: each triangle in its colour, 0 … 255; clear beside the islands. */
export function layoutMap(
  parts: readonly LaidMesh[],
  size: number,
  colour: (part: number, triangle: number) => readonly number[],
): Uint8Array {
  const rgba = new Uint8Array(4 * size * size);
  for (const [i, { mesh }] of parts.entries()) {
    const uv = attribute(mesh, 'uv', 'corner')?.data;
    if (!uv) continue;
    for (let t = 0; t < triangleCount(mesh); t++) {
      const [r, g, b] = colour(i, t);
      texelsOfTriangle(mesh, uv, t, size, (x, y) => rgba.set([r, g, b, 255], 4 * (y * size + x)));
    }
  }
  return encodePng({ width: size, height: size, channels: 4, depth: 8, data: rgba });
}

function drawLine(rgba: Uint8Array, size: number, x0: number, y0: number, x1: number, y1: number): void {
  const steps = Math.ceil(Math.max(Math.abs(x1 - x0), Math.abs(y1 - y0), 1));
  for (let i = 0; i <= steps; i++) {
    const x = Math.floor(x0 + ((x1 - x0) * i) / steps);
    const y = Math.floor(y0 + ((y1 - y0) * i) / steps);
    if (x >= 0 && y >= 0 && x < size && y < size) rgba.set([27, 42, 51, 255], 4 * (y * size + x));
  }
}

/** The layout as SVG: one group per part, one path of outlines each, in pixels of the delivered texture. */
export function layoutSvg(parts: readonly LaidMesh[], size: number): string {
  const groups = parts.map(({ name, mesh }) => {
    const uv = attribute(mesh, 'uv', 'corner')?.data;
    let fill = '';
    if (uv)
      for (let f = 0; f + 1 < mesh.faceStart.length; f++) {
        const points: string[] = [];
        for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++)
          points.push(`${(uv[2 * c] * size).toFixed(2)} ${((1 - uv[2 * c + 1]) * size).toFixed(2)}`);
        fill += `M${points.join('L')}Z`;
      }
    const lines = islandEdges(mesh);
    let outline = '';
    for (let i = 0; i < lines.length; i += 4)
      outline += `M${(lines[i] * size).toFixed(2)} ${((1 - lines[i + 1]) * size).toFixed(2)}L${(lines[i + 2] * size).toFixed(2)} ${((1 - lines[i + 3]) * size).toFixed(2)}`;
    return `<g id="${escaped(name)}"><path d="${fill}" fill="#ddebe6" stroke="#b9cbc5" stroke-width="0.5"/><path d="${outline}" fill="none" stroke="#1b2a33" stroke-width="1.2"/></g>`;
  });
  return `<svg xmlns="http://www.w3.org/2000/svg" width="${size}" height="${size}" viewBox="0 0 ${size} ${size}">${groups.join('')}</svg>\n`;
}
