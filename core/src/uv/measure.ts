import { areaOf, triangleArea } from '../mesh/measures';
import { attribute, type PolyMesh, triangleCount } from '../mesh/polymesh';
import type { ChoiceResult, FlatChoice } from './chosen/choices';
import type { GrainOff } from './grain';
import { areaInLayout, texelsOfTriangle } from './raster';
import type { SeamFigures } from './seams/measure';
import type { SecondFigures } from './second';
import { StretchSum } from './stretch';
import type { FlatteningMethod } from './words';

/** A mesh with `uv` (corner) and `island` (face). */
export interface LaidPart {
  id: string;
  mesh: PolyMesh;
}

/** What can be said about one part’s layout. */
export interface PartLayout {
  id: string;
  /** px/cm at the delivered size, but for islands nobody looks at. */
  density: number;
  stretchL2: number;
  stretchLinf: number;
  areaMm2: number;
  /** How far its grain is off the upright; absent where it has none. */
  grain?: GrainOff;
}

/** What can be said about a layout. Texel counts are at the delivered size. */
export interface LayoutFigures {
  islands: number;
  stretchL2: number;
  stretchLinf: number;
  /** Share of texels whose centre lies in an island. */
  coverage: number;
  /** Texels claimed twice. */
  overlapTexels: number;
  /** Triangles that lie the other way round than most of their island. */
  folds: number;
  /** Islands that lie face down as a whole, as in a file they came from; absent where there are none. */
  mirrored?: number;
  /** Fewest empty texels between two islands (measured up to 40). */
  gutter: number;
  /** Fewest empty texels between an island and the tile's edge. */
  border: number;
  /** Islands that reach out of the tile, where a repeat of the texture would be drawn. */
  outside?: number;
  /** How many islands were laid flat in which way; absent in what was kept before that was counted. */
  methods?: Partial<Record<FlatteningMethod, number>>;
  /** What came of each way that somebody chose, in the order of the document, what it was for, and the island its place is on; absent where there are none. */
  choices?: (ChoiceResult & Pick<FlatChoice, 'part' | 'at'> & { island?: number })[];
  /** Shells that have the texels of others of their shape; absent where there are none. */
  twins?: { shells: number; mirrored: number; savedShare: number };
  /** Islands that lie where a person put them, and places that were found on no island; absent where there are none. */
  placed?: number;
  lostPlaces?: number;
  /** How much denser turning islands freely made it than quarter turns, 0.01 for a hundredth; 0 where it didn’t and they lie in quarters. Absent where that was not asked. */
  freelyWon?: number;
  /** px/cm over the whole asset, but for islands nobody looks at. */
  density: number;
  /** Share of the surface in islands nobody looks at, and its px/cm; absent in what was kept before that was measured. */
  unseenShare?: number;
  unseenDensity?: number;
  parts: PartLayout[];
  /** The layout beside it, where there is one. */
  second?: SecondFigures;
  /** Where it is cut; absent in what was kept before that was measured. */
  seams?: SeamFigures;
}

/**
 * Measures a layout by drawing it at `size` px. Density = 10·√(size²·A_uv/A_mm²), px/cm.
 *
 * @param hidden for each part, 1 for every island nobody looks at
 */
export function measureLayout(parts: readonly LaidPart[], size: number, hidden: readonly Uint8Array[] = []): LayoutFigures {
  const owner = new Int32Array(size * size).fill(-1);
  let overlapTexels = 0;
  let folds = 0;
  let covered = 0;
  let base = 0;
  let [outside, mirrored] = [0, 0];
  // Of what is looked at, and of the rest.
  const [spaceSum, uvSum] = [
    [0, 0],
    [0, 0],
  ];
  const all = new StretchSum();
  const figures: PartLayout[] = [];
  for (const [i, { id, mesh }] of parts.entries()) {
    const uv = attribute(mesh, 'uv', 'corner')?.data;
    const island = attribute(mesh, 'island', 'face')?.data;
    if (!uv || !island) continue;
    // Of what is looked at, and of the rest.
    const [ownSpace, ownUv] = [
      [0, 0],
      [0, 0],
    ];
    let islands = 0;
    const facing = facings(mesh, uv, island);
    for (const f of facing) if (f < 0) mirrored++;
    for (let t = 0; t < triangleCount(mesh); t++) {
      const signed = areaInLayout(mesh, uv, t) * facing[island[mesh.triangleFace[t]]];
      const unseen = hidden[i]?.[island[mesh.triangleFace[t]]] ?? 0;
      ownUv[unseen] += Math.abs(signed);
      ownSpace[unseen] += triangleArea(mesh, t);
      if (signed < -1e-14) folds++;
      const mine = base + island[mesh.triangleFace[t]];
      islands = Math.max(islands, island[mesh.triangleFace[t]] + 1);
      texelsOfTriangle(mesh, uv, t, size, (x, y) => {
        const i = y * size + x;
        if (owner[i] >= 0) overlapTexels++;
        else {
          owner[i] = mine;
          covered++;
        }
      });
    }
    for (const k of [0, 1]) {
      uvSum[k] += ownUv[k];
      spaceSum[k] += ownSpace[k];
    }
    outside += islandsOutside(mesh, uv, island);
    const areaMm2 = areaOf(mesh);
    // Stretch is judged at each island’s own scale, so that a weight is not called a distortion.
    const scales = islandScales(mesh, uv, island, islands);
    const own = new StretchSum();
    for (let t = 0; t < triangleCount(mesh); t++) {
      const k = scales[island[mesh.triangleFace[t]]];
      const corners = [0, 1, 2].map((j) => mesh.triangles[3 * t + j]);
      const q = corners.flatMap((c) => {
        const v = 3 * mesh.faceVert[c];
        return [mesh.positions[v], mesh.positions[v + 1], mesh.positions[v + 2]];
      });
      const s = corners.flatMap((c) => [uv[2 * c] * k, uv[2 * c + 1] * k]);
      own.add(q, s);
      all.add(q, s);
    }
    figures.push({
      id,
      density: densityOf(size, ownUv, ownSpace),
      stretchL2: own.l2,
      stretchLinf: own.linf,
      areaMm2,
    });
    base += islands;
  }
  const { gutter, border } = gaps(owner, size);
  return {
    islands: base,
    stretchL2: all.l2,
    stretchLinf: all.linf,
    coverage: covered / (size * size),
    overlapTexels,
    folds,
    gutter,
    border,
    ...(mirrored > 0 && { mirrored }),
    ...(outside > 0 && { outside }),
    density: densityOf(size, uvSum, spaceSum),
    unseenShare: spaceSum[1] / (spaceSum[0] + spaceSum[1] || 1),
    unseenDensity: spaceSum[1] > 0 ? 10 * Math.sqrt((size * size * uvSum[1]) / spaceSum[1]) : 0,
    parts: figures,
  };
}

/** px/cm of what is looked at; where nobody looks at any of it, of all of it. */
function densityOf(size: number, uv: readonly number[], space: readonly number[]): number {
  const k = space[0] > 0 ? 0 : 1;
  return space[k] > 0 ? 10 * Math.sqrt((size * size * uv[k]) / space[k]) : 0;
}

/** How many islands faces are numbered by. */
export function islandCount(island: ArrayLike<number>): number {
  let count = 0;
  for (let f = 0; f < island.length; f++) count = Math.max(count, island[f] + 1);
  return count;
}

/** Island → 1 where it lies face up, by its area; −1 where face down. */
function facings(mesh: PolyMesh, uv: ArrayLike<number>, island: ArrayLike<number>): Int8Array {
  const sum = new Float64Array(islandCount(island));
  for (let t = 0; t < triangleCount(mesh); t++) sum[island[mesh.triangleFace[t]]] += areaInLayout(mesh, uv, t);
  return Int8Array.from(sum, (s) => (s < 0 ? -1 : 1));
}

/** How many islands reach out of the unit tile. */
function islandsOutside(mesh: PolyMesh, uv: ArrayLike<number>, island: ArrayLike<number>): number {
  const out = new Set<number>();
  for (let t = 0; t < 3 * triangleCount(mesh); t++) {
    const c = mesh.triangles[t];
    if (Math.min(uv[2 * c], uv[2 * c + 1]) < 0 || Math.max(uv[2 * c], uv[2 * c + 1]) > 1) out.add(island[mesh.triangleFace[(t / 3) | 0]]);
  }
  return out.size;
}

/** Island → mm per side of the tile; 1 where it has no area. */
export function islandScales(mesh: PolyMesh, uv: ArrayLike<number>, island: ArrayLike<number>, islands: number): Float64Array {
  const [space, laid] = [new Float64Array(islands), new Float64Array(islands)];
  for (let t = 0; t < triangleCount(mesh); t++) {
    const i = island[mesh.triangleFace[t]];
    space[i] += triangleArea(mesh, t);
    laid[i] += Math.abs(areaInLayout(mesh, uv, t));
  }
  return space.map((mm2, i) => (laid[i] > 0 && mm2 > 0 ? Math.sqrt(mm2 / laid[i]) : 1));
}

const FARTHEST = 40;

/** Grows all islands at once, a texel a round (eight neighbours): where two meet after n and m rounds, n + m were empty. */
function gaps(owner: Int32Array, size: number): { gutter: number; border: number } {
  const own = owner.slice();
  const age = new Uint8Array(size * size);
  let border = size;
  let front: Int32Array = new Int32Array(1024);
  let count = 0;
  const held = (list: Int32Array, n: number): Int32Array => {
    if (n < list.length) return list;
    const larger = new Int32Array(2 * list.length);
    larger.set(list);
    return larger;
  };
  for (let y = 0, i = 0; y < size; y++)
    for (let x = 0; x < size; x++, i++) {
      const mine = own[i];
      if (mine < 0) continue;
      border = Math.min(border, x, y, size - 1 - x, size - 1 - y);
      const right = x < size - 1 ? own[i + 1] : mine;
      const below = y < size - 1 ? own[i + size] : mine;
      if ((right >= 0 && right !== mine) || (below >= 0 && below !== mine)) return { gutter: 0, border };
      if (right >= 0 && below >= 0 && (x === 0 || own[i - 1] >= 0) && (y === 0 || own[i - size] >= 0)) continue;
      front = held(front, count);
      front[count++] = i;
    }
  let gutter = FARTHEST;
  for (let round = 1; round <= FARTHEST / 2 && count > 0 && 2 * (round - 1) < gutter; round++) {
    let next: Int32Array = new Int32Array(Math.max(1024, count));
    let found = 0;
    for (let k = 0; k < count; k++) {
      const i = front[k];
      const y = (i / size) | 0;
      const x = i - y * size;
      const mine = own[i];
      for (let ny = Math.max(0, y - 1); ny <= Math.min(size - 1, y + 1); ny++)
        for (let nx = Math.max(0, x - 1); nx <= Math.min(size - 1, x + 1); nx++) {
          const j = ny * size + nx;
          if (own[j] < 0) {
            own[j] = mine;
            age[j] = round;
            next = held(next, found);
            next[found++] = j;
          } else if (own[j] !== mine) gutter = Math.min(gutter, age[i] + age[j]);
        }
    }
    [front, count] = [next, found];
  }
  return { gutter, border };
}
