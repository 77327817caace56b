import { FormError } from '../../errors';
import { needed } from '../../kit';
import { moved } from '../../mesh/deform';
import { keepFaces } from '../../mesh/edit';
import { boundsOf, volumeOf } from '../../mesh/measures';
import { planeOffsets } from '../../mesh/offset';
import { attribute, faceCount, type PolyMesh, triangleCount } from '../../mesh/polymesh';
import { cut } from '../../mesh/slice';
import { type Cavity, roomIn } from '../../mesh/solids';
import { figure, millimetres } from '../../units/lengths';
import { choice, length, plain, size, words } from '../fields';
import { ownPatch, type StepBase, type StepKind, type Surroundings } from '../step';

/** A liquid in a vessel, up to a level or by the millilitre. Lengths in mm. */
export interface FillStep extends StepBase {
  kind: 'fill';
  /** Id of the vessel's part. */
  inside: string;
  /** Ids of other parts that close it in together with that one. */
  also?: { id: string; part: string }[];
  /** Gaps up to this width count as shut, mm. */
  shut?: number;
  by: 'level' | 'volume';
  /** Above the lowest place inside. */
  level: number;
  ml: number;
  wall: 'touching' | 'overlapping' | 'gap';
  wallMm: number;
  /** All of it, or only its surface, with the vessel's own inside for the rest. */
  what: 'body' | 'surface';
}

/** Halvings that find the brim, and the level for a volume: 2⁻¹⁶ of the vessel's height, and far finer. */
const BRIM = 16;
const LEVELS = 48;

/** The hollow filled as far as it holds. */
function brimful(step: FillStep, vessels: readonly PolyMesh[], around: Surroundings): Cavity {
  const solids = needed(around.kit, 'solids');
  const bounds = vessels.map(boundsOf);
  let [low, high] = [Math.min(...bounds.map((b) => b.min[1])), Math.max(...bounds.map((b) => b.max[1]))];
  let best: Cavity | null = null;
  // What is to count as shut is: every part is thicker by half a gap while it is asked what they close in.
  const room = roomIn(
    solids,
    vessels.map((v) => grown(v, (step.shut ?? 0) / 2)),
    (p) => ownPatch(step, `against ${p.split('/').pop()}`),
  );
  try {
    for (let i = 0; i < BRIM; i++) {
      // The brim is usually near the top.
      const level = i === 0 ? high - 1e-5 * (high - low) : (low + high) / 2;
      const found = room.below(level);
      if (found) {
        best = found;
        low = level;
        if (i === 0) break;
      } else high = level;
    }
  } finally {
    room.free();
  }
  if (!best)
    throw new FormError(
      'fill/leaks',
      `What “${step.name}” is to fill holds nothing: it has no hollow that is closed below${
        step.also?.length ? `, or gaps wider than the ${millimetres(step.shut ?? 0)} that count as shut` : ''
      }.`,
    );
  // Its walls stand half a gap inside the parts' own: they go back to them.
  const back = againstWalls(best.mesh, 'surface', (step.shut ?? 0) / 2);
  return { mesh: back, volume: volumeOf(back) };
}

/** A solid thicker by a distance on every side. */
function grown(mesh: PolyMesh, by: number): PolyMesh {
  if (by === 0) return mesh;
  const vectors = planeOffsets(mesh);
  return moved(mesh, (p, v) => [p[0] + by * vectors[3 * v], p[1] + by * vectors[3 * v + 1], p[2] + by * vectors[3 * v + 2]]);
}

/** The level at which what lies below has a volume, by halving. */
function levelFor(full: Cavity, wanted: number): number {
  const { min, max } = boundsOf(full.mesh);
  let [low, high] = [min[1], max[1]];
  for (let i = 0; i < LEVELS; i++) {
    const at = (low + high) / 2;
    if (below(full.mesh, at) < wanted) low = at;
    else high = at;
  }
  return (low + high) / 2;
}
function below(mesh: PolyMesh, level: number): number {
  const { min, max } = boundsOf(mesh);
  if (level <= min[1]) return 0;
  if (level >= max[1]) return volumeOf(mesh);
  return volumeOf(cut(mesh, { normal: [0, 1, 0], offset: level }, { keep: 'below', cap: 'level' }));
}

/** The walls moved outward by a distance, the surface kept level. */
function againstWalls(mesh: PolyMesh, surface: string, by: number): PolyMesh {
  if (by === 0) return mesh;
  const patch = attribute(mesh, 'patch', 'face')?.data;
  const far = Float64Array.from({ length: faceCount(mesh) }, (_, f) => (patch && mesh.patches[patch[f]] === surface ? 0 : by));
  const vectors = planeOffsets(mesh, undefined, far);
  return moved(mesh, (p, v) => [p[0] + vectors[3 * v], p[1] + vectors[3 * v + 1], p[2] + vectors[3 * v + 2]]);
}

/** The parts that close it in, each once. */
const partsOf = (s: FillStep): string[] => [...new Set([s.inside, ...(s.also ?? []).map((a) => a.part)])];
const byLevel = (s: Record<string, unknown>) => s.by === 'level';
export const fill = {
  kind: 'fill',
  name: 'liquid in a vessel',
  about:
    'Fills the hollow of another part up to a level or by the millilitre: touching its wall, a little into it, or with a gap; or only its surface.',
  fields: [
    words('inside', 'In', { most: 60, names: 'part' }),
    {
      type: 'list',
      key: 'also',
      label: 'And',
      one: 'Further vessel',
      optional: true,
      least: 0,
      most: 60,
      fields: [words('part', 'And in', { most: 60, names: 'part' })],
      fresh: () => ({ part: '?' }),
    },
    length('shut', 'Gaps shut up to', { optional: true, max: 20 }),
    choice('by', 'Filled to', [
      ['level', 'a level'],
      ['volume', 'a volume'],
    ]),
    size('level', 'Level above its bottom', { when: byLevel }),
    plain('ml', 'Millilitres', 0.001, 1e7, { when: (s) => !byLevel(s) }),
    choice('wall', 'At the wall', [
      ['touching', 'touches it'],
      ['overlapping', 'goes into it'],
      ['gap', 'leaves a gap'],
    ]),
    length('wallMm', 'By', { max: 50, when: (s) => s.wall !== 'touching' }),
    choice('what', 'Made', [
      ['body', 'all of it'],
      ['surface', 'only the surface'],
    ]),
  ],
  fresh: () => ({
    name: 'Liquid',
    inside: '?',
    by: 'volume' as const,
    level: 20,
    ml: 50,
    wall: 'overlapping' as const,
    wallMm: 0.05,
    what: 'body' as const,
  }),
  needs: ['solids'],
  words: (s: FillStep, length) => (s.by === 'volume' ? `${figure(s.ml, 1)} ml` : `${length(s.level, 1)} high`),
  looksAt: partsOf,
  fitter: {
    fit(step: FillStep, _detail, around) {
      const full = brimful(
        step,
        partsOf(step).map((part) => around.region(part, '')),
        around,
      );
      const { min, max } = boundsOf(full.mesh);
      const [bottom, brim] = [min[1], max[1]];
      const holds = full.volume / 1000;
      if (step.by === 'volume' && step.ml > holds)
        throw new FormError('fill/over', `${figure(step.ml, 1)} ml are more than the vessel holds: ${figure(holds, 1)} ml to the brim.`, {
          mostMl: holds,
        });
      const level = step.by === 'volume' ? levelFor(full, step.ml * 1000) : bottom + step.level;
      if (level > brim + 1e-6)
        throw new FormError(
          'fill/over',
          `A level of ${millimetres(step.level)} lies above the brim, which is ${millimetres(brim - bottom)} up.`,
          { mostMm: brim - bottom },
        );
      const surface = ownPatch(step, 'surface');
      const named: PolyMesh = { ...full.mesh, patches: full.mesh.patches.map((p) => (p === 'surface' ? surface : p)) };
      const body = level < brim - 1e-9 ? cut(named, { normal: [0, 1, 0], offset: level }, { keep: 'below', cap: surface }) : named;
      const by = step.wall === 'touching' ? 0 : step.wall === 'gap' ? -step.wallMm : step.wallMm;
      const fitted = againstWalls(body, surface, by);
      const patch = attribute(fitted, 'patch', 'face')?.data;
      const mesh = step.what === 'body' ? fitted : keepFaces(fitted, (f) => patch !== undefined && fitted.patches[patch[f]] === surface);
      return {
        mesh,
        figures: [
          { label: 'level above the bottom', value: level - bottom, unit: 'mm' },
          { label: 'volume', value: volumeOf(body) / 1000, unit: 'ml' },
          { label: 'to the brim', value: holds, unit: 'ml' },
          ...(step.what === 'surface' ? [{ label: 'triangles saved', value: triangleCount(fitted) - triangleCount(mesh), unit: '' }] : []),
        ],
      };
    },
  },
} satisfies StepKind<FillStep>;
