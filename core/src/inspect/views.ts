import type { Mat4 } from '../maths/mat4';
import { edgesOf, edgeValence, twin } from '../mesh/connectivity';
import { principal } from '../mesh/curvature';
import { attribute, type PolyMesh, triangleCount, vertexCount } from '../mesh/polymesh';
import { soupOf } from '../mesh/soup';
import { transform } from '../mesh/transform';
import { checkpoint, part as partOf, QUIET, type Task } from '../task';
import { BAND, chordErrors, curvatureJumps, surfaceShape } from './findings/surface';
import { thicknesses } from './thickness';
import { seenShares } from './visibility';

/** Ways to look at a piece that are measured. */
export const VIEWS = {
  facing: 'Facing',
  curvature: 'Curvature',
  reflection: 'Reflection lines',
  thickness: 'Thickness',
  seen: 'From outside',
  chord: 'Chord error',
  flow: 'Edge flow',
} as const;
/** What can be measured all over a surface. */
export type ViewKind = keyof typeof VIEWS;

/** What is measured all over a layout. */
export const LAYOUT_VIEWS = { stretch: 'Stretch', density: 'Density', looks: 'Looks at it' } as const;
export type LayoutViewKind = keyof typeof LAYOUT_VIEWS;

/** A part as it is looked at. */
export interface Viewed {
  id: string;
  mesh: PolyMesh;
  placements: readonly Mat4[];
  /** Whether it hides what lies behind it. */
  blocks: boolean;
}

/** What a view draws over one part. */
export interface PartView {
  id: string;
  /** At the three corners of each triangle; NaN where there is nothing to say. */
  values?: Float32Array;
  /** Edges drawn: 6 numbers each, mm, with a value each. */
  lines?: Float32Array;
  lineValues?: Float32Array;
  /** Vertices marked: 3 numbers each, mm, with a value each. */
  points?: Float32Array;
  pointValues?: Float32Array;
}

/** A figure all over the surface, with its scale. */
export interface View {
  kind: ViewKind | LayoutViewKind;
  parts: PartView[];
  /** The values that stand at the ends of the scale. */
  low: number;
  high: number;
  unit: string;
  /** One sentence: what is seen and how much of it. */
  words: string;
  /** How much of the surface has how much, from the low end to the high one; shares of 1. */
  bins?: number[];
}

/** Works out a view. @param pixelMm what a pixel of the closest view is on the piece, mm */
export function viewOf(kind: ViewKind, parts: readonly Viewed[], pixelMm: number, task: Task = QUIET): View {
  switch (kind) {
    case 'facing':
      return { kind, parts: parts.map((p) => ({ id: p.id })), low: 0, high: 1, unit: '', words: 'Fronts are pale, backs are red.' };
    case 'curvature':
      return curvature(parts, task);
    case 'reflection':
      return reflection(parts, task);
    case 'thickness':
      return thickness(parts, task);
    case 'seen':
      return seen(parts, task);
    case 'chord':
      return chord(parts, pixelMm, task);
    case 'flow':
      return flow(parts, task);
  }
}

/** Runs over the parts with progress. */
function eachPart<T>(parts: readonly Viewed[], task: Task, make: (p: Viewed, own: Task) => T): T[] {
  return parts.map((p, i) => {
    checkpoint(task);
    task.progress(i / parts.length);
    return make(p, partOf(task, i / parts.length, (i + 1) / parts.length));
  });
}

/** Values at vertices, at the corners of triangles. */
function atCorners(mesh: PolyMesh, value: (v: number) => number): Float32Array {
  return Float32Array.from(mesh.triangles, (c) => value(mesh.faceVert[c]));
}
/** Values of triangles, at their corners. */
const ofTriangles = (values: ArrayLike<number>): Float32Array =>
  Float32Array.from({ length: 3 * values.length }, (_, i) => values[(i / 3) | 0]);

/** The value below which a share of all values lie. */
function quantile(lists: readonly ArrayLike<number>[], share: number): number {
  const all: number[] = [];
  for (const list of lists) {
    // Enough for a scale.
    const step = Math.max(1, Math.floor(list.length / 20_000));
    for (let i = 0; i < list.length; i += step) if (Number.isFinite(list[i])) all.push(list[i]);
  }
  all.sort((a, b) => a - b);
  return all.length > 0 ? all[Math.min(all.length - 1, Math.floor(share * all.length))] : 0;
}

function curvature(parts: readonly Viewed[], task: Task): View {
  const made = eachPart(parts, task, ({ id, mesh }): PartView => {
    const { curvature: c, hard, edges } = surfaceShape(mesh, edgesOf(mesh));
    const sharp = new Uint8Array(vertexCount(mesh));
    for (let e = 0; e < edges.count; e++) if (hard[e]) sharp[edges.ends[2 * e]] = sharp[edges.ends[2 * e + 1]] = 1;
    // At a hard edge there is no curvature to speak of.
    return { id, values: atCorners(mesh, (v) => (sharp[v] ? Number.NaN : principal(c, v))) };
  });
  const most = Math.max(
    quantile(
      made.map((p) => (p.values as Float32Array).map(Math.abs)),
      0.95,
    ),
    1e-6,
  );
  return {
    kind: 'curvature',
    parts: made,
    low: -most,
    high: most,
    unit: '1/mm',
    words: 'Hollow is blue, round is rust, flat is pale; at hard edges there is none.',
  };
}

function reflection(parts: readonly Viewed[], task: Task): View {
  let worst = 0;
  let count = 0;
  const made = eachPart(parts, task, ({ id, mesh }): PartView => {
    const edges = edgesOf(mesh);
    const jumps = curvatureJumps(mesh, surfaceShape(mesh, edges));
    const lines: number[] = [];
    const values: number[] = [];
    for (let e = 0; e < edges.count; e++) {
      if (jumps[e] <= BAND) continue;
      for (const v of [edges.ends[2 * e], edges.ends[2 * e + 1]])
        lines.push(mesh.positions[3 * v], mesh.positions[3 * v + 1], mesh.positions[3 * v + 2]);
      values.push(jumps[e]);
      worst = Math.max(worst, jumps[e]);
    }
    count += values.length;
    return { id, lines: Float32Array.from(lines), lineValues: Float32Array.from(values) };
  });
  return {
    kind: 'reflection',
    parts: made,
    low: BAND,
    high: Math.max(worst, BAND * 2),
    unit: 'rad',
    words:
      count === 0
        ? 'No line breaks: the curvature jumps nowhere by much.'
        : `Lines break at ${count} edges, drawn red: the curvature jumps along them.`,
  };
}

function thickness(parts: readonly Viewed[], task: Task): View {
  const made = eachPart(parts, task, ({ id, mesh }, own): PartView => ({ id, values: ofTriangles(thicknesses(mesh, own)) }));
  const lists = made.map((p) => p.values as Float32Array);
  const high = Math.max(quantile(lists, 0.9), 1e-3);
  return {
    kind: 'thickness',
    parts: made,
    low: 0,
    high,
    unit: 'mm',
    words: 'From each face straight in to where it comes out again; thin is red.',
  };
}

function seen(parts: readonly Viewed[], task: Task): View {
  const copies = parts.flatMap((p) => p.placements.map((m) => ({ id: p.id, soup: soupOf(transform(p.mesh, m)), blocks: p.blocks })));
  const shares = seenShares(copies, task);
  let [never, all] = [0, 0];
  const made = parts.map((p): PartView => {
    const mine = shares.filter((_, i) => copies[i].id === p.id);
    const best = Float32Array.from({ length: triangleCount(p.mesh) }, (_, t) => Math.max(...mine.map((s) => s[t])));
    all += best.length;
    for (const s of best) if (s === 0) never++;
    return { id: p.id, values: ofTriangles(best) };
  });
  return {
    kind: 'seen',
    parts: made,
    low: 0,
    high: 1,
    unit: '',
    words: `The share of outside directions each face is seen from; ${never} of ${all} triangles are seen from none at their middle.`,
  };
}

function chord(parts: readonly Viewed[], pixelMm: number, task: Task): View {
  let worst = 0;
  const made = eachPart(parts, task, ({ id, mesh }): PartView => {
    const { ofFace } = chordErrors(mesh, surfaceShape(mesh, edgesOf(mesh)));
    for (const off of ofFace) worst = Math.max(worst, off / pixelMm);
    return { id, values: ofTriangles(Float64Array.from(mesh.triangleFace, (f) => ofFace[f] / pixelMm)) };
  });
  return {
    kind: 'chord',
    parts: made,
    low: 0,
    high: Math.max(worst, 0.1),
    unit: 'px',
    words: `How far flat faces lie from the round they stand for, in pixels of the closest view: at most ${worst.toFixed(2)} px.`,
  };
}

/** Loops get these values in turn, so that neighbours differ. */
export const FLOW_TONES = 5;

function flow(parts: readonly Viewed[], task: Task): View {
  let [poles, odd] = [0, 0];
  const made = eachPart(parts, task, ({ id, mesh }): PartView => {
    const edges = edgesOf(mesh);
    const valence = new Uint16Array(vertexCount(mesh));
    const rim = new Uint8Array(vertexCount(mesh));
    const creased = new Uint8Array(vertexCount(mesh));
    const hard = attribute(mesh, 'hard', 'corner')?.data;
    for (let e = 0; e < edges.count; e++)
      for (const v of [edges.ends[2 * e], edges.ends[2 * e + 1]]) {
        valence[v]++;
        if (edgeValence(edges, e) !== 2) rim[v] = 1;
        for (let k = edges.start[e]; k < edges.start[e + 1]; k++) if (hard?.[edges.corners[k]]) creased[v] = 1;
      }
    const tone = new Int32Array(edges.count).fill(-1);
    let loops = 0;
    for (let start = 0; start < mesh.faceVert.length; start++) {
      if (tone[edges.ofCorner[start]] >= 0) continue;
      const own = loops++ % FLOW_TONES;
      // Both ways along it, straight on through vertices of four edges.
      for (const first of [start, twin(edges, start)]) {
        for (let c = first; c >= 0; ) {
          const e = edges.ofCorner[c];
          if (c !== first && tone[e] >= 0) break;
          tone[e] = own;
          const v = mesh.faceVert[edges.next[c]];
          if (valence[v] !== 4 || rim[v]) break;
          const t = twin(edges, edges.next[c]);
          c = t < 0 ? -1 : edges.next[t];
        }
      }
    }
    const lines = new Float32Array(6 * edges.count);
    for (let e = 0; e < edges.count; e++)
      for (let k = 0; k < 3; k++) {
        lines[6 * e + k] = mesh.positions[3 * edges.ends[2 * e] + k];
        lines[6 * e + 3 + k] = mesh.positions[3 * edges.ends[2 * e + 1] + k];
      }
    const points: number[] = [];
    const values: number[] = [];
    for (let v = 0; v < valence.length; v++) {
      if (valence[v] === 0 || valence[v] === 4 || rim[v] || creased[v]) continue;
      points.push(mesh.positions[3 * v], mesh.positions[3 * v + 1], mesh.positions[3 * v + 2]);
      values.push(valence[v]);
    }
    poles += values.length;
    const sides = Float32Array.from(mesh.triangleFace, (f) => mesh.faceStart[f + 1] - mesh.faceStart[f]);
    for (const s of sides) if (s !== 4) odd++;
    return {
      id,
      values: ofTriangles(sides),
      lines,
      lineValues: Float32Array.from(tone),
      points: Float32Array.from(points),
      pointValues: Float32Array.from(values),
    };
  });
  return {
    kind: 'flow',
    parts: made,
    low: 3,
    high: 6,
    unit: 'corners',
    words: `Loops run straight on in one tone. ${poles} ${poles === 1 ? 'pole' : 'poles'} inside smooth surfaces; ${odd} triangles belong to faces that are no quads.`,
  };
}
