import { StageError } from '../errors';
import type { Region } from '../form/regions';
import type { Vec3 } from '../maths/vec3';
import { areaOf, triangleArea } from '../mesh/measures';
import { attribute, type PolyMesh, triangleCount, withAttribute, withoutAttribute } from '../mesh/polymesh';
import { type Framing, framingOf } from '../shot/shot';
import { QUIET, part as share, type Task } from '../task';
import { figure } from '../units/lengths';
import { type Flattened, flatten, STRETCH_LIMIT } from '../uv/charts';
import type { ChoiceResult, FlatChoice } from '../uv/chosen/choices';
import { filedLayout } from '../uv/filed';
import { WORTH } from '../uv/flatten/flattening';
import { type Grain, grainDirection, grainOff, grainTurns } from '../uv/grain';
import { fixedPlaces, type IslandPlace } from '../uv/hand/places';
import { islandCount, type LayoutFigures, measureLayout } from '../uv/measure';
import { type Divisible, divide, islandsOf } from '../uv/pack/divide';
import { type PackIsland, pack, type Turning } from '../uv/pack/pack';
import { looksAt } from '../uv/seams/looks';
import { addSeams, cutsBefore, measureSeams } from '../uv/seams/measure';
import { type SecondChoices, secondLayout } from '../uv/second';
import { CHOSEN } from '../uv/words';
import { type AssetDocument, type Filed, type Part, sharers, stepsOf } from './document';
import type { PartMesh } from './form';
import { ChosenWays, choiceFigures } from './unwrap-choices';
import { edgesWithTwins, leaveTwinsOut, leftLooks, type TwinsLeftOut, withTwins } from './unwrap-twins';

/** What a layout follows from, beside the parts themselves. */
export interface UnwrapSettings {
  size: number;
  padding: number;
  seamAngle: number;
  rotate: Turning;
  /** Part id → weight; 1 where absent. */
  weights: Record<string, number>;
  /** Part id → weights of its regions, in their order. */
  regions: Record<string, number[]>;
  /** Fewer seams for more stretch: 1 takes four times the stretch for a mm of seam. */
  fewer?: number;
  /** Islands stretched more than this (L²) are cut again. */
  stretchLimit?: number;
  /** Islands stay as they are cut: they are only packed. */
  whole?: boolean;
  /** Weight of islands nobody looks at; 1 where absent. */
  unseen?: number;
  /** Parts that are seen through, and those that move away, which are looked at elsewhere too. Neither hides what lies behind it. */
  clear?: string[];
  moving?: string[];
  /** Parts whose islands stay in one piece, as those that carry print. */
  wholeParts?: string[];
  /** Copies that have the texels of another part: id → that part’s. */
  shares?: Record<string, string>;
  /** What is made of layouts that files brought. */
  filed?: Filed;
  /** A layout beside the first. */
  second?: SecondChoices;
  /** Parts whose shells of one shape have the same texels: id → what they have to have in common. */
  alike?: Record<string, string>;
  /** Part id → its px/cm, where that is said. */
  densities?: Record<string, number>;
  /** Part id → which way its grain runs, where it has one. */
  grain?: Record<string, Exclude<Grain, 'none'>>;
  /** Part id → what is said of its regions’ density and grain, in their order. */
  regionWays?: Record<string, RegionWays[]>;
  /** Islands that a person placed. */
  places?: IslandPlace[];
  /** Islands and parts that are laid flat otherwise. */
  choices?: FlatChoice[];
  /** Whose camera some of them are laid through. */
  shot?: Framing;
}

/** What is said of a region beside its weight. */
export interface RegionWays {
  pxPerCm?: number;
  grain?: Exclude<Grain, 'none'>;
}

/** Laid-out parts and how good the layout is. */
export interface UnwrapResult {
  /** Parts in the order given, with `uv` (corner, v up) and `island` (face). */
  parts: PartMesh[];
  figures: LayoutFigures;
}

/** The settings a document gives its layout. */
export function unwrapSettings(document: AssetDocument): UnwrapSettings {
  const { twins, second, choices: ways, ...choices } = document.unwrap;
  const shares = sharers(document);
  const printed = document.parts.filter(carriesPrint).map((p) => p.id);
  const clear = document.parts.filter((p) => isClear(document, p)).map((p) => p.id);
  const moving = document.parts.filter((p) => p.travel).map((p) => p.id);
  const dense = document.parts.flatMap((p) => (p.pxPerCm ? [[p.id, p.pxPerCm] as const] : []));
  const regionWays = document.parts.flatMap((p) => {
    const own = (p.regions ?? []).map(waysOf);
    return own.some((w) => Object.keys(w).length > 0) ? [[p.id, own] as const] : [];
  });
  const grained = document.parts.flatMap((p) => (p.grain && p.grain !== 'none' ? [[p.id, p.grain] as const] : []));
  return {
    ...(Object.keys(shares).length > 0 && { shares }),
    size: document.brief.limits.textureSize,
    ...choices,
    // Why a stretch is meant changes nothing of it.
    ...(ways?.length && { choices: ways.map(({ meant: _, ...way }) => way) }),
    ...(ways?.some((c) => c.method === 'shot') && { shot: framingOf(document.shot) }),
    ...(printed.length > 0 && { wholeParts: printed }),
    ...(clear.length > 0 && { clear }),
    ...(moving.length > 0 && { moving }),
    ...(second?.on && { second }),
    ...(twins === 'once' && {
      alike: Object.fromEntries(document.parts.flatMap((p) => (p.shape.kind === 'mesh' && !p.high ? [[p.id, inCommon(p)]] : []))),
    }),
    ...(dense.length > 0 && { densities: Object.fromEntries(dense) }),
    ...(grained.length > 0 && { grain: Object.fromEntries(grained) }),
    ...(regionWays.length > 0 && { regionWays: Object.fromEntries(regionWays) }),
    weights: Object.fromEntries(document.parts.map((p) => [p.id, p.weight])),
    regions: Object.fromEntries(document.parts.filter((p) => p.regions?.length).map((p) => [p.id, (p.regions ?? []).map((r) => r.weight)])),
  };
}

const waysOf = ({ pxPerCm, grain }: Region): RegionWays => ({
  ...(pxPerCm && { pxPerCm }),
  ...(grain && grain !== 'none' && { grain }),
});

/** Parts cut and laid flat, not yet packed: what a layout is before anything is said about places. */
export interface LaidAsset {
  all: readonly PartMesh[];
  /** Those with texels of their own, as far as they have. */
  parts: PartMesh[];
  /** Those of which some faces have the texels of others: what is left out of `parts`, or is not there at all. */
  twins: TwinsLeftOut | null;
  /** Part id → looks at its faces, copies that share texels looked at together. */
  looks: Map<string, Float32Array>;
  /** Looks at the faces of `parts`, each with those at its twins. */
  looksLeft: readonly (Float32Array | undefined)[];
  divided: readonly Divisible[];
  /** What came of each choice. */
  choices: ChoiceResult[];
  /** How edges were cut before islands were divided to fill the tile, by corner. */
  before: readonly Uint8Array[];
}

/**
 * Seams, islands, one shared tile. Every island is laid at true size, so density is equal from the start; weights then
 * scale parts against each other. Copies that share texels have the layout of what they are copies of.
 */
export const unwrap = (all: readonly PartMesh[], settings: UnwrapSettings, task: Task = QUIET): UnwrapResult =>
  placeIslands(layIslands(all, settings, share(task, 0, 0.6)), settings, share(task, 0.6, 1));

/** A layout of so many triangles or more isn’t begun. */
const MOST_TRIANGLES = 2_000_000;

/** The part whose texels a copy has. */
const sharedBy = (all: readonly PartMesh[], settings: UnwrapSettings, p: PartMesh): PartMesh | undefined =>
  all.find((q) => q.id === settings.shares?.[p.id]);

/** Cuts and lays flat; `places` of the settings change nothing of it. */
export function layIslands(all: readonly PartMesh[], settings: UnwrapSettings, task: Task = QUIET): LaidAsset {
  const whole = all.filter((p) => !sharedBy(all, settings, p));
  const twins = leaveTwinsOut(whole, settings, task);
  const parts = twins?.parts ?? whole;
  if (parts.length === 0) throw new StageError('unwrap/empty', 'There is no surface to unwrap yet.');
  const triangles = parts.reduce((n, p) => n + triangleCount(p.mesh), 0);
  if (triangles >= MOST_TRIANGLES)
    throw new StageError(
      'unwrap/large',
      `Fewer than ${figure(MOST_TRIANGLES, 0)} triangles can be laid out; these are ${figure(triangles, 0)}. Simplify first.`,
    );
  const looks = looksOf(all, settings, share(task, 0, 0.15));
  const lookedAt = new Map(
    all.map((p) => {
      const alike = all.flatMap((q, i) => (q === p || sharedBy(all, settings, q) === p ? [looks[i]] : []));
      return [p.id, alike.length === 1 ? alike[0] : alike[0].map((_, f) => alike.reduce((s, l) => s + l[f], 0) / alike.length)];
    }),
  );
  const chosen = new ChosenWays(all, settings);
  const looksLeft = parts.map((p) => (twins ? leftLooks(twins, p.id, lookedAt) : lookedAt.get(p.id)));
  const laidFlat = parts.map((p, i): Divisible => {
    const options = {
      seamAngle: settings.seamAngle,
      worth: WORTH * 4 ** (settings.fewer ?? 0),
      stretchLimit: settings.stretchLimit ?? STRETCH_LIMIT,
      looks: looksLeft[i],
      choices: chosen.of(p),
    };
    const asFiled = filedLayout(
      p.mesh,
      settings.filed ?? 'anew',
      options.stretchLimit,
      settings.regions[p.id]?.some((w) => w !== 1) || settings.regionWays?.[p.id] !== undefined || options.choices.length > 0,
    );
    if (asFiled.as) {
      const { laid, lies } = asFiled.as;
      return { mesh: p.mesh, laid, weights: new Float64Array(laid.islands).fill(1), whole: new Uint8Array(laid.islands).fill(1), lies };
    }
    const done = share(task, 0.15 + (0.5 * i) / parts.length, 0.15 + (0.5 * (i + 1)) / parts.length);
    const laid = flatten(asFiled.mesh, options, done);
    chosen.keep(p, laid);
    const hidden = unseenIslands(p.mesh, laid, options.looks);
    const weights = islandWeights(p, laid, settings, hidden);
    const scales = islandScales(p, laid, settings, weights);
    return { mesh: p.mesh, laid, weights, whole: wholeIslands(p, laid, settings), ...(scales && { scales }) };
  });
  // What is kept as it lies takes no part in how the tile is filled.
  const open = laidFlat.filter((d) => !d.lies);
  const filled = settings.whole || open.length === 0 ? open : divide(open, settings, share(task, 0.65, 1));
  let next = 0;
  return {
    all,
    parts,
    twins,
    looks: lookedAt,
    looksLeft,
    choices: chosen.results,
    before: laidFlat.map((d) => cutsBefore(d.mesh, d.laid)),
    divided: laidFlat.map((d) => (d.lies ? d : filled[next++])),
  };
}

/** Packs what was laid flat, round the islands that a person placed, and measures what came of it. */
export function placeIslands(
  { all, parts, twins, looks, looksLeft, divided, before, choices }: LaidAsset,
  settings: UnwrapSettings,
  task: Task = QUIET,
): UnwrapResult {
  const flats = divided.map((d) => d.laid);
  const weights = divided.map((d) => d.weights);
  const { fixed, lost } = fixedPlaces(
    divided.map((d, i) => ({ ...d, id: parts[i].id })),
    settings.places ?? [],
  );
  const grains = divided.map(({ laid }, i) => islandGrains(parts[i], laid, settings));
  const turns = divided.flatMap(({ mesh, laid }, i) => {
    const along = grains[i];
    return along ? [...grainTurns(mesh, laid.flat, laid.island, laid.islands, along)] : new Array<number>(laid.islands).fill(Number.NaN);
  });
  // Kept layouts lie where they lie, unless something was said about them by hand.
  if (!settings.places?.length) {
    let at = 0;
    for (const { laid, lies } of divided) {
      if (lies) fixed.splice(at, lies.length, ...lies);
      at += laid.islands;
    }
  }
  const islands = islandsOf(divided).map((island, i) => ({ ...island, fixed: fixed[i], ...(turns[i] >= -Infinity && { turn: turns[i] }) }));
  const packing = share(task, 0, settings.second ? 0.55 : 0.85);
  const { places, won } =
    settings.rotate === 'freely' ? packFreely(islands, settings, packing) : { ...pack(islands, settings, packing), won: null };
  let base = 0;
  const out = parts.map((p, i): PartMesh => {
    const laid = flats[i];
    const uv = new Float64Array(laid.flat.length);
    for (let f = 0; f < laid.island.length; f++) {
      const place = places[base + laid.island[f]];
      const k = place.scale * weights[i][laid.island[f]];
      const [c, s] = [Math.cos(place.angle) * k, Math.sin(place.angle) * k];
      for (let corner = p.mesh.faceStart[f]; corner < p.mesh.faceStart[f + 1]; corner++) {
        const [x, y] = [place.mirrored ? -laid.flat[2 * corner] : laid.flat[2 * corner], laid.flat[2 * corner + 1]];
        uv[2 * corner] = c * x - s * y + place.x;
        uv[2 * corner + 1] = s * x + c * y + place.y;
      }
    }
    base += laid.islands;
    const bare = withoutAttribute(withoutAttribute(p.mesh, 'chart'), 'flat');
    const withUv = withAttribute(bare, { name: 'uv', domain: 'corner', size: 2, data: roundedUv(uv) });
    return { ...p, mesh: withAttribute(withUv, { name: 'island', domain: 'face', size: 1, data: laid.island }) };
  });
  const laidOut = twins ? withTwins(twins, out) : out;
  const second = settings.second ? secondLayout(laidOut, settings.second, settings.rotate, share(task, 0.6, 0.9)) : null;
  const laid = new Map((second?.parts ?? laidOut).map((p) => [p.id, p]));
  const whole = all.map((p) => laid.get(p.id) ?? { ...p, mesh: (laid.get(sharedBy(all, settings, p)?.id ?? '') as PartMesh).mesh });
  const cutsLeft = new Map(parts.map((p, i) => [p.id, before[i]]));
  const cuts = twins ? edgesWithTwins(cutsLeft, twins) : cutsLeft;
  const seams = addSeams(
    whole.map((p) => {
      const known = { seamAngle: settings.seamAngle, before: cuts.get(settings.shares?.[p.id] ?? p.id) ?? null };
      return measureSeams(p.mesh, looks.get(p.id) ?? null, p.placements.length, known);
    }),
  );
  const hidden = out.map((p, i) => {
    const island = attribute(p.mesh, 'island', 'face')?.data as Int32Array;
    return unseenIslands(p.mesh, { island, islands: islandCount(island) }, looksLeft[i]);
  });
  const byHand = settings.places?.length ? { placed: settings.places.length - lost, lostPlaces: lost } : {};
  const measured = measureLayout(out, settings.size, hidden);
  const methods: NonNullable<LayoutFigures['methods']> = {};
  for (const { method } of flats) for (const m of method) methods[m] = (methods[m] ?? 0) + 1;
  const figures: LayoutFigures = {
    ...measured,
    methods,
    seams,
    ...byHand,
    ...(won !== null && { freelyWon: won }),
    ...(choices.length > 0 && { choices: choiceFigures(choices, settings.choices ?? [], laidOut) }),
    ...(twins && { twins: twins.figures }),
    ...(second && { second: second.figures }),
  };
  for (const [i, p] of out.entries()) {
    const [along, own] = [grains[i], figures.parts.find((f) => f.id === p.id)];
    const [uv, island] = [attribute(p.mesh, 'uv', 'corner')?.data, attribute(p.mesh, 'island', 'face')?.data];
    const off = along && uv && island ? grainOff(p.mesh, uv, island, islandCount(island), along) : null;
    if (off && own) own.grain = off;
  }
  task.progress(1);
  return { parts: whole, figures };
}

/** Packed freely and in quarters, and the denser of both: how much denser free turns made it, 0 where they didn’t. */
function packFreely(islands: readonly PackIsland[], settings: UnwrapSettings, task: Task): ReturnType<typeof pack> & { won: number } {
  const quarters = pack(islands, { ...settings, rotate: true }, share(task, 0, 0.4));
  const freely = pack(islands, settings, share(task, 0.4, 1));
  const won = freely.scale / quarters.scale - 1;
  return won > 0 ? { ...freely, won } : { ...quarters, won: 0 };
}

/** What share of the looks at each face of each part arrives, 0 … 1. */
export const looksOf = (all: readonly PartMesh[], settings: Pick<UnwrapSettings, 'clear' | 'moving'>, task: Task = QUIET): Float32Array[] =>
  looksAt(
    all.map((p) => ({ ...p, blocks: !settings.clear?.includes(p.id), moves: settings.moving?.includes(p.id) })),
    task,
  );

/** To 2⁻²⁴ of the tile: corners that meet in an island get the same bits whichever facet they came from. */
const roundedUv = (uv: Float64Array): Float64Array => uv.map((x) => Math.round(x * 16777216) / 16777216);

/** Islands with less than this of the looks at them, on average, are looked at by nobody: inside, or covered. */
const UNSEEN = 0.05;

/** 1 for every island that nobody looks at. */
function unseenIslands(mesh: PolyMesh, laid: Pick<Flattened, 'island' | 'islands'>, looks: ArrayLike<number> | undefined): Uint8Array {
  const out = new Uint8Array(laid.islands);
  if (!looks) return out;
  const [seen, area] = [new Float64Array(laid.islands), new Float64Array(laid.islands)];
  for (let t = 0; t < triangleCount(mesh); t++) {
    const f = mesh.triangleFace[t];
    const a = triangleArea(mesh, t);
    seen[laid.island[f]] += a * looks[f];
    area[laid.island[f]] += a;
  }
  return out.map((_, i) => (seen[i] < UNSEEN * area[i] ? 1 : 0));
}

/** The part's weight times that of the region an island lies in, and what is left of it where nobody looks. */
function islandWeights(p: PartMesh, laid: Flattened, settings: UnwrapSettings, hidden: Uint8Array): Float64Array {
  const out = Float64Array.from(hidden, (h) => (settings.weights[p.id] ?? 1) * (h ? (settings.unseen ?? 1) : 1));
  const region = attribute(p.mesh, 'region', 'face')?.data;
  const own = settings.regions[p.id] ?? [];
  if (!region) return out;
  const done = new Uint8Array(laid.islands);
  for (let f = 0; f < laid.island.length; f++) {
    const i = laid.island[f];
    if (done[i]) continue;
    done[i] = 1;
    if (region[f] > 0) out[i] *= own[region[f] - 1] ?? 1;
  }
  return out;
}

/** Of every island the region it lies in, counted from 1; 0 where it lies in none. */
function regionsOfIslands(p: PartMesh, { island, islands }: Pick<Flattened, 'island' | 'islands'>): Int32Array {
  const region = attribute(p.mesh, 'region', 'face')?.data;
  const out = new Int32Array(islands).fill(region ? -1 : 0);
  if (region) for (let f = 0; f < island.length; f++) if (out[island[f]] < 0) out[island[f]] = region[f];
  return out;
}

/** Tile per weighted mm of the islands whose density is said: their region’s, or their part’s, of which regions and what nobody looks at keep their share. */
function islandScales(p: PartMesh, laid: Flattened, settings: UnwrapSettings, weights: Float64Array): Float64Array | null {
  const [dense, ways] = [settings.densities?.[p.id], settings.regionWays?.[p.id]];
  if (dense === undefined && !ways?.some((w) => w.pxPerCm)) return null;
  const region = regionsOfIslands(p, laid);
  return weights.map((weight, i) => {
    const own = ways?.[region[i] - 1]?.pxPerCm;
    if (own) return own / (10 * settings.size * weight);
    return dense === undefined ? Number.NaN : dense / (10 * settings.size * (settings.weights[p.id] ?? 1));
  });
}

/** Which way the grain of every island runs: its region’s, or its part’s; null where no grain was said at all. */
function islandGrains(p: PartMesh, laid: Pick<Flattened, 'island' | 'islands'>, settings: UnwrapSettings): (Vec3 | null)[] | null {
  const [whole, ways] = [settings.grain?.[p.id], settings.regionWays?.[p.id]];
  if (!whole && !ways?.some((w) => w.grain)) return null;
  const region = regionsOfIslands(p, laid);
  const faces = attribute(p.mesh, 'region', 'face')?.data ?? [];
  const along = whole ? grainDirection(p.mesh, whole) : null;
  const own = (ways ?? []).map((w, r) =>
    w.grain
      ? grainDirection(
          p.mesh,
          w.grain,
          Array.from(laid.island, (_, f) => f).filter((f) => faces[f] === r + 1),
        )
      : along,
  );
  return Array.from(region, (r) => (r > 0 ? (own[r - 1] ?? along) : along));
}

/**
 * What parts have to have in common to have the same texels. Those with a high mesh of their own are left alone: what is on one need not be
 * on the other. Regions have materials and weights in their part’s own order.
 */
const inCommon = (p: Part): string => JSON.stringify([p.material, p.weight, p.pxPerCm ?? 0, p.regions?.length ? p.id : '']);

const isClear = (document: AssetDocument, part: Part): boolean =>
  (document.materials.find((m) => m.id === part.material)?.transmission ?? 0) > 0;

/** Printed sheets, films and labels: artwork wants them in one piece. */
export const carriesPrint = (part: Part): boolean =>
  part.role === 'print' || stepsOf(part).some((s) => s.enabled && (s.kind === 'wrap' || s.kind === 'leaf'));

/** Islands that stay in one piece: all of a part that carries print, those a person marked as regions, and those laid as somebody chose. */
function wholeIslands(p: PartMesh, laid: Flattened, settings: UnwrapSettings): Uint8Array {
  const out = Uint8Array.from(laid.method, (m) => (Object.hasOwn(CHOSEN, m) ? 1 : 0));
  if (settings.wholeParts?.includes(p.id)) return out.fill(1);
  const region = attribute(p.mesh, 'region', 'face')?.data;
  if (region) for (let f = 0; f < laid.island.length; f++) if (region[f] > 0) out[laid.island[f]] = 1;
  return out;
}

/** Whether every part has a layout already. */
export const hasLayout = (parts: readonly PartMesh[]): boolean => parts.length > 0 && parts.every((p) => attribute(p.mesh, 'uv', 'corner'));

/** Surface with texels of its own, mm². */
export const uniqueArea = (parts: readonly PartMesh[]): number => parts.reduce((s, p) => s + areaOf(p.mesh), 0);
