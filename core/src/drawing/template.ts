import { StageError } from '../errors';
import { encodePng } from '../image/png';
import { edgesOf, isJoined, twin } from '../mesh/connectivity';
import { triangleArea } from '../mesh/measures';
import { hardEdges } from '../mesh/normals';
import { attribute, type PolyMesh, triangleCount } from '../mesh/polymesh';
import { figure } from '../units/lengths';
import { areaInLayout, texelsOfTriangle } from '../uv/raster';
import { islandEdges, type LaidMesh } from './layout';
import { linesPath, mmText, type VectorSheet } from './vector-sheet';

/** How an island is drawn for artwork. */
export interface TemplateOptions {
  dpi: number;
  /** Artwork goes on past the edge by this, mm. */
  bleedMm: number;
}

/** An island in true millimetres, the way up that it has on the piece; y down, from the corner of the sheet. */
export interface Template {
  title: string;
  /** Of the island, without bleed, mm. */
  islandMm: [number, number];
  /** Of the whole sheet, mm and px. */
  sheetMm: [number, number];
  sheetPx: [number, number];
  /** Edges of the island, those it folds along, and those of all its faces; 4 numbers each, mm. */
  outline: number[];
  folds: number[];
  faceEdges: number[];
  /** Corner → place, mm. */
  places: Float64Array;
  /** Faces of the island. */
  faces: number[];
  options: TemplateOptions;
}

/** Sides of a picture at most, px. */
const LARGEST = 16_384;
/** Lines of the sheet, and what lies under the island, within its bleed, and round it. */
const INK = [27, 42, 51] as const;
const FILL = [252, 250, 244] as const;
const BLEED = [239, 229, 203] as const;
const FACES = [185, 203, 197] as const;
const FOLD = [11, 110, 110] as const;
/** Edges that turn by more than this fold, degrees. */
const SHARP = 30;

/**
 * An island as a template for artwork: at the size it has on the piece, up where up is on the piece (away from the viewer on what lies flat).
 *
 * @param island its number in the mesh’s `island` (face), with its layout in `uv` (corner)
 * @throws StageError in one sentence
 */
export function islandTemplate({ name, mesh }: LaidMesh, island: number, options: TemplateOptions): Template {
  const uv = attribute(mesh, 'uv', 'corner')?.data;
  const of = attribute(mesh, 'island', 'face')?.data;
  const faces = of ? [...of.keys()].filter((f) => of[f] === island) : [];
  if (!uv || faces.length === 0) throw new StageError('template/island', 'That island is not in the layout any more.');
  const mine = new Set(faces);
  let [space, laid] = [0, 0];
  const up = { y: [0, 0], z: [0, 0] };
  for (let t = 0; t < triangleCount(mesh); t++) {
    if (!mine.has(mesh.triangleFace[t])) continue;
    space += triangleArea(mesh, t);
    laid += Math.abs(areaInLayout(mesh, uv, t));
    const [gy, gz] = [slopeOf(mesh, uv, t, 1), slopeOf(mesh, uv, t, 2)];
    for (const k of [0, 1]) {
      up.y[k] += gy[k];
      up.z[k] -= gz[k];
    }
  }
  if (!(laid > 0)) throw new StageError('template/area', 'That island has no area in the layout.');
  const mmPerTile = Math.sqrt(space / laid);
  // How far it rises over its own extent: what lies flat has its far edge up.
  const rises = Math.hypot(...up.y) > 0.05 * Math.hypot(...up.z);
  const [ux, uy] = rises ? up.y : up.z;
  const turn = Math.hypot(ux, uy) > 1e-12 ? Math.PI / 2 - Math.atan2(uy, ux) : 0;
  const [c, s] = [Math.cos(turn) * mmPerTile, Math.sin(turn) * mmPerTile];
  const place = (u: number, v: number): [number, number] => [c * u - s * v, -(s * u + c * v)];
  let [x0, y0, x1, y1] = [Infinity, Infinity, -Infinity, -Infinity];
  const corners = faces.flatMap((f) => Array.from({ length: mesh.faceStart[f + 1] - mesh.faceStart[f] }, (_, i) => mesh.faceStart[f] + i));
  for (const corner of corners) {
    const [x, y] = place(uv[2 * corner], uv[2 * corner + 1]);
    [x0, y0, x1, y1] = [Math.min(x0, x), Math.min(y0, y), Math.max(x1, x), Math.max(y1, y)];
  }
  const round = options.bleedMm;
  const inPlace = (u: number, v: number): [number, number] => {
    const [x, y] = place(u, v);
    return [x - x0 + round, y - y0 + round];
  };
  const places = new Float64Array(uv.length);
  for (const corner of corners) places.set(inPlace(uv[2 * corner], uv[2 * corner + 1]), 2 * corner);
  const sheetMm: [number, number] = [x1 - x0 + 2 * round, y1 - y0 + 2 * round];
  const px = (mm: number): number => Math.max(1, Math.round((mm / 25.4) * options.dpi));
  const lines = islandEdges(onlyFaces(mesh, faces));
  const outline: number[] = [];
  for (let i = 0; i < lines.length; i += 4) outline.push(...inPlace(lines[i], lines[i + 1]), ...inPlace(lines[i + 2], lines[i + 3]));
  const edges = edgesOf(mesh);
  const hard = hardEdges(mesh, { hardAngle: SHARP }, edges);
  const [faceEdges, folds]: [number[], number[]] = [[], []];
  for (const f of faces)
    for (let k = mesh.faceStart[f]; k < mesh.faceStart[f + 1]; k++) {
      const next = edges.next[k];
      const line = [places[2 * k], places[2 * k + 1], places[2 * next], places[2 * next + 1]];
      faceEdges.push(...line);
      const other = twin(edges, k);
      // Each once, and only where both sides lie together: elsewhere it is cut.
      if (other > k && hard[edges.ofCorner[k]] === 1 && mine.has(edges.faceOf[other]) && isJoined(uv, k, next, edges.next[other], other))
        folds.push(...line);
    }
  return {
    title: `${name}, island ${island + 1}`,
    islandMm: [x1 - x0, y1 - y0],
    sheetMm,
    sheetPx: [px(sheetMm[0]), px(sheetMm[1])],
    outline,
    folds,
    faceEdges,
    places,
    faces,
    options,
  };
}

/** How a coordinate of space rises over the layout within a triangle, times its area there. */
function slopeOf(mesh: PolyMesh, uv: ArrayLike<number>, t: number, axis: 1 | 2): [number, number] {
  const [a, b, c] = [0, 1, 2].map((k) => mesh.triangles[3 * t + k]);
  const h = [a, b, c].map((i) => mesh.positions[3 * mesh.faceVert[i] + axis]);
  const [x1, y1] = [uv[2 * b] - uv[2 * a], uv[2 * b + 1] - uv[2 * a + 1]];
  const [x2, y2] = [uv[2 * c] - uv[2 * a], uv[2 * c + 1] - uv[2 * a + 1]];
  const way = Math.sign(x1 * y2 - x2 * y1) || 1;
  return [(way * ((h[1] - h[0]) * y2 - (h[2] - h[0]) * y1)) / 2, (way * ((h[2] - h[0]) * x1 - (h[1] - h[0]) * x2)) / 2];
}

/** Those faces alone, with their layout. */
function onlyFaces(mesh: PolyMesh, faces: readonly number[]): PolyMesh {
  const kept = new Set(faces);
  const faceStart = [0];
  const corners: number[] = [];
  for (const f of kept) {
    for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++) corners.push(c);
    faceStart.push(corners.length);
  }
  const uv = attribute(mesh, 'uv', 'corner')?.data as ArrayLike<number>;
  return {
    ...mesh,
    faceStart: Uint32Array.from(faceStart),
    faceVert: Uint32Array.from(corners, (c) => mesh.faceVert[c]),
    attributes: [{ name: 'uv', domain: 'corner', size: 2, data: Float64Array.from(corners.flatMap((c) => [uv[2 * c], uv[2 * c + 1]])) }],
  };
}

/** What stands on the sheet and beside its buttons: `112.3 × 45 mm, 1 326 × 531 px at 300 dpi`. */
export const templateWords = ({ islandMm, sheetPx, options }: Template): string =>
  `${islandMm.map((x) => figure(x, 1)).join(' × ')} mm, ${sheetPx.map((x) => figure(x, 0)).join(' × ')} px at ${figure(options.dpi, 0)} dpi with ${figure(options.bleedMm, 1)} mm of bleed`;

/** The template as a drawing in true millimetres: bleed, island, faces, where it is cut and where it folds, each a layer of its own. */
export function templateSheet(t: Template): VectorSheet {
  let area = '';
  for (let i = 0, f = 0; f < t.faces.length; f++) {
    // Edges go round each face in turn: a face ends where its first corner comes again.
    const [x, y] = [t.faceEdges[i], t.faceEdges[i + 1]];
    area += `M${mmText(x)} ${mmText(y)}`;
    for (;;) {
      const [nx, ny] = [t.faceEdges[i + 2], t.faceEdges[i + 3]];
      i += 4;
      if (nx === x && ny === y) break;
      area += `L${mmText(nx)} ${mmText(ny)}`;
    }
    area += 'Z';
  }
  const { bleedMm } = t.options;
  return {
    title: t.title,
    about: templateWords(t),
    mm: t.sheetMm,
    trimMm: bleedMm,
    layers: [
      { id: 'bleed', path: bleedMm > 0 ? area : '', fill: BLEED, stroke: { ink: BLEED, mm: 2 * bleedMm, round: true } },
      { id: 'island', path: area, fill: FILL },
      { id: 'faces', path: linesPath(t.faceEdges), stroke: { ink: FACES, mm: 0.05 } },
      { id: 'fold', path: linesPath(t.folds), stroke: { ink: FOLD, mm: 0.15, dash: [2, 1] } },
      { id: 'cut', path: linesPath(t.outline), stroke: { ink: INK, mm: 0.15 } },
    ],
  };
}

/**
 * The template as a picture, clear outside its bleed.
 *
 * @throws StageError when it would be too large
 */
export function templatePng(mesh: PolyMesh, t: Template): Uint8Array {
  const [w, h] = t.sheetPx;
  if (Math.max(w, h) > LARGEST)
    throw new StageError(
      'template/size',
      `At ${figure(t.options.dpi, 0)} dpi it would be ${figure(Math.max(w, h), 0)} px long; ${figure(LARGEST, 0)} is the most.`,
    );
  const side = Math.max(w, h);
  const perMm = t.options.dpi / 25.4;
  // The rasteriser has v up over a square.
  const uv = t.places.map((x, i) => (i % 2 === 0 ? (x * perMm) / side : 1 - (x * perMm) / side));
  const inside = new Uint8Array(w * h);
  const mine = new Set(t.faces);
  for (let k = 0; k < triangleCount(mesh); k++)
    if (mine.has(mesh.triangleFace[k]))
      texelsOfTriangle(mesh, uv, k, side, (x, y) => {
        if (x < w && y < h) inside[y * w + x] = 1;
      });
  const rgba = new Uint8Array(4 * w * h);
  const near = withinReach(inside, w, h, t.options.bleedMm * perMm);
  for (let i = 0; i < w * h; i++) if (near[i]) rgba.set([...(inside[i] ? FILL : BLEED), 255], 4 * i);
  for (let i = 0; i < t.outline.length; i += 4) {
    const [x, y, x2, y2] = t.outline.slice(i, i + 4).map((v) => v * perMm);
    const steps = Math.ceil(Math.max(Math.abs(x2 - x), Math.abs(y2 - y), 1));
    for (let k = 0; k <= steps; k++) {
      const [px, py] = [Math.floor(x + ((x2 - x) * k) / steps), Math.floor(y + ((y2 - y) * k) / steps)];
      if (px >= 0 && py >= 0 && px < w && py < h) rgba.set([...INK, 255], 4 * (py * w + px));
    }
  }
  return encodePng({ width: w, height: h, channels: 4, depth: 8, data: rgba });
}

/** 1 for every pixel within a distance of one that is set: how far it is up or down first, then across. */
function withinReach(inside: Uint8Array, w: number, h: number, reach: number): Uint8Array {
  const far = 1e12;
  const down = new Float64Array(w * h);
  for (let x = 0; x < w; x++) {
    let d = far;
    for (let y = 0; y < h; y++) {
      d = inside[y * w + x] ? 0 : d + 1;
      down[y * w + x] = d;
    }
    d = far;
    for (let y = h - 1; y >= 0; y--) {
      d = inside[y * w + x] ? 0 : d + 1;
      down[y * w + x] = Math.min(down[y * w + x], d);
    }
  }
  const out = new Uint8Array(w * h);
  const across = Math.floor(reach);
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const i = y * w + x;
      const [from, to] = [Math.max(0, x - across), Math.min(w - 1, x + across)];
      for (let k = from; k <= to && !out[i]; k++)
        if ((k - x) ** 2 + down[y * w + k] ** 2 <= reach * reach || (k === x && down[i] === 0)) out[i] = 1;
    }
  return out;
}
