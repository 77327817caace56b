import { hashOf } from '../../hash';
import { srgbToLinear } from '../../image/srgb';
import type { BlendMode } from '../blend';
import { type Ground, thresholds } from '../ground';
import type { Material } from '../material';
import { type About, type Amount, fieldAmount, follows, joined, maskSeed, PATCHED, SOFT } from './amounts';
import { EdgeGrid } from './edges';
import type { Masked } from './layer';
import type { Boards } from './places';
import { type StrokeGrid, strokesOn } from './stroke-grid';

/** A layer ready to be laid over what is below it. */
export interface LaidLayer {
  id: string;
  /** Two of the same key on the same material and ground lie on the same places. */
  key: string;
  opacity: number;
  /** Linear light, and as it is stored. */
  colour: readonly number[] | null;
  stored: readonly number[] | null;
  blend: BlendMode;
  roughness: number | null;
  rougher: number;
  metallic: number | null;
  coat: number | null;
  coatRoughness: number | null;
  transmission: number | null;
  /** mm */
  relief: number;
  amount: Amount;
  /** Numbers of the layers it follows. */
  followed: number[];
  /** Layers it follows that there aren’t: it is left out, and said. */
  missing: boolean;
}
/** A material ready to be composed. */
export interface Stack {
  layers: LaidLayer[];
  /** Whether its fields ask where a texel lies. */
  placed: boolean;
}

/** Fields that the ground’s own drivers say. */
const DRIVEN = { worn: 'wear', enclosed: 'dirt' } as const;
const isPlaced = ({ field: f, broken }: Masked): boolean =>
  broken !== undefined || (f.kind !== 'worn' && f.kind !== 'enclosed' && f.kind !== 'layer');
/** Whether any layer asks where a texel lies. */
export const wantsPlaces = (materials: readonly Material[]): boolean =>
  materials.some((m) => m.layers.some((l) => l.on && l.mask.some(isPlaced)));

const NONE = (): number => 0;

/** Which of the ground’s own values a material’s masks ask for. */
export const asksOf = (m: Material): { wear: boolean; dirt: boolean } => {
  const has = (kind: keyof typeof DRIVEN) => m.layers.some((l) => l.on && l.mask.some((k) => k.field.kind === kind));
  return { wear: has('worn'), dirt: has('enclosed') };
};

/**
 * Materials’ layers as functions of a place.
 *
 * @param limits see {@link limitsOf} @param boards null where no field asks for them @param seed of the whole piece
 */
export function stacksOf(materials: readonly Material[], limits: Limits, boards: Boards | null, seed: number): Stack[] {
  const edge = edgesIn(boards);
  const painted = paintedIn(boards);
  return materials.map((m, which): Stack => {
    const on = m.layers.filter((l) => l.on);
    const keys: string[] = [];
    const layers = on.map((l, at): LaidLayer => {
      const followed = l.mask.flatMap((k) => (k.field.kind === 'layer' ? [follows(on, at, k.field.of)] : []));
      const missing = followed.some((f) => f < 0);
      const of = (n: number) => limits.get(limitKey(which, l.id, n)) ?? 0;
      // What is followed by its hash: a row of layers that each follow several would be said over and over.
      keys[at] = JSON.stringify([l.id, l.mask, l.mask.map((_, n) => of(n)), followed.map((f) => keys[f] && hashOf(keys[f]))]);
      const amount = missing
        ? NONE
        : joined(
            l.mask.map((k, n) => ({
              ...k,
              seed: maskSeed(l, n + PATCHED, seed),
              at: fieldAmount(k.field, { layer: l, n, on, at, seed, limit: of(n), edge, painted }),
            })),
          );
      const { colour, blend = 'normal', roughness = null, rougher = 0, metallic = null, relief = 0 } = l.look;
      const { coat = null, coatRoughness = null, transmission = null } = l.look;
      return {
        id: l.id,
        key: keys[at],
        opacity: l.opacity,
        colour: colour?.map(srgbToLinear) ?? null,
        stored: colour ?? null,
        blend,
        roughness,
        rougher,
        metallic,
        coat,
        coatRoughness,
        transmission: m.transmission > 0 ? transmission : null,
        relief: relief / 1000,
        amount,
        followed: missing ? [] : followed,
        missing,
      };
    });
    return { layers, placed: on.some((l) => l.mask.some(isPlaced)) };
  });
}

/** Grids of edges, for as long as what they were made of is there: a slider that moves asks for the same again. */
const grids = new WeakMap<Float32Array, Map<string, EdgeGrid>>();

/** Finds edges of parts by what is asked for. */
const edgesIn =
  (boards: Boards | null) =>
  (part: number, width: number, reach: number): ((x: number, y: number, z: number) => number) | null => {
    const lines = boards?.lines[part];
    return lines ? gridOf(lines, width, reach) : null;
  };

/** What is painted on the parts, each looked through when it is first asked of. */
const paintedIn =
  (boards: Boards | null): About['painted'] =>
  ({ strokes, soft }) => {
    if (!boards || strokes.length === 0) return NONE;
    const of: (StrokeGrid | null)[] = [];
    return (p) => {
      const { part, number } = p.shell;
      if (of[part] === undefined) of[part] = strokesOn(strokes, soft, boards, part);
      return of[part]?.at(p, number) ?? 0;
    };
  };

function gridOf(lines: Float32Array, width: number, reach: number): (x: number, y: number, z: number) => number {
  const of = grids.get(lines) ?? new Map<string, EdgeGrid>();
  grids.set(lines, of);
  const key = `${width} ${reach}`;
  const grid = of.get(key) ?? new EdgeGrid(lines, width, reach);
  // Of a line whose width is being dragged the last few.
  if (of.size > 8) of.clear();
  of.set(key, grid);
  return (x, y, z) => grid.distance(x, y, z);
}

/** Where masks by share have to begin: by material, layer and number of the field. */
export type Limits = ReadonlyMap<string, number>;
const limitKey = (material: number, layer: string, n: number): string => `${material} ${layer} ${n}`;

/** Where masks by share have to begin, solved from how the ground’s own values are spread over each material: from the whole ground at once. */
export function limitsOf(materials: readonly Material[], ground: Ground): Limits {
  const out = new Map<string, number>();
  for (const kind of ['worn', 'enclosed'] as const) {
    const driver = DRIVEN[kind];
    const asked = materials.map((m, which) =>
      m.layers.flatMap((l) =>
        l.on ? l.mask.flatMap(({ field: f }, n) => (f.kind === kind ? [{ key: limitKey(which, l.id, n), share: f.share }] : [])) : [],
      ),
    );
    const rounds = Math.max(0, ...asked.map((a) => a.length));
    for (let r = 0; r < rounds; r++) {
      const shares = asked.map((a) => a[r]?.share ?? 0);
      const found = thresholds(ground[driver], ground.owner, shares, SOFT[driver]);
      for (const [k, a] of asked.entries()) if (a[r]) out.set(a[r].key, found[k]);
    }
  }
  return out;
}
