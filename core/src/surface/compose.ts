import { nearestKnown, spread } from '../bake/spread';
import type { Pixels } from '../image/png';
import { linearToSrgb, srgbToLinear } from '../image/srgb';
import { BLENDS } from './blend';
import type { Ground } from './ground';
import { Place } from './layers/place';
import type { Boards, Places } from './layers/places';
import { type LaidLayer, limitsOf, type Stack, stacksOf } from './layers/stack';
import { hasClearMap, hasCoatMap, hasRelief, type Material } from './material';

/** A texture set, top row first, 8 bits. */
export interface ComposedSet {
  size: number;
  /** sRGB, 3 per texel. */
  baseColour: Uint8Array;
  /** Occlusion, roughness, metallic: 3 per texel, linear. */
  orm: Uint8Array;
  /** sRGB, 3 per texel; null where nothing glows. */
  emissive: Uint8Array | null;
  /** mm above the surface, one per texel; null where nothing stands out. */
  height: Float32Array | null;
  /** Clear coat, its roughness and nothing: 3 per texel, linear; null where no layer changes it. */
  coat: Uint8Array | null;
  /** Light let through, one per texel, linear; null where no layer changes it. */
  clear: Uint8Array | null;
}

/** What a composed set came to, measured on it. */
export interface ComposeFigures {
  /** Per material, in order. Shares of its own texels, measured on the result. */
  materials: { id: string; name: string; texels: number; layers: LayerShare[] }[];
  coveredShare: number;
}
/** How much of its material’s surface a layer touches; one that follows a layer there is not is left out. */
export interface LayerShare {
  id: string;
  name: string;
  share: number;
  leftOut?: true;
}

/** 0…255 sRGB of a linear value times 4096, quick: 4096 steps are finer than 8 bits everywhere above the darkest. */
export const TO_SRGB = Uint8Array.from({ length: 4097 }, (_, i) => Math.round(255 * linearToSrgb(i / 4096)));
export const byte = (x: number): number => (x <= 0 ? 0 : x >= 1 ? 255 : Math.round(x * 255));

/** What lies over materials and asks for maps too: prints. */
export interface Over {
  relief: boolean;
  coat: boolean;
  /** It lies on something that light goes through. */
  clear: boolean;
}
const NOTHING_OVER: Over = { relief: false, coat: false, clear: false };

/** A set to be composed from materials: with those maps that any of them asks for, or what lies over them. */
export const emptySet = (
  size: number,
  materials: readonly Material[],
  allocate: (bytes: number) => ArrayBufferLike = (n) => new ArrayBuffer(n),
  over: Over = NOTHING_OVER,
): ComposedSet => ({
  size,
  baseColour: new Uint8Array(allocate(3 * size * size)),
  orm: new Uint8Array(allocate(3 * size * size)),
  emissive: materials.some((m) => m.emission > 0) ? new Uint8Array(allocate(3 * size * size)) : null,
  height: over.relief || hasRelief(materials) ? new Float32Array(allocate(4 * size * size)) : null,
  coat: over.coat || hasCoatMap(materials) ? new Uint8Array(allocate(3 * size * size)) : null,
  clear: over.clear || hasClearMap(materials) ? new Uint8Array(allocate(size * size)) : null,
});

/** Sums of a set: of each material its texels, then how much of each of its layers lies there. */
export interface Counts {
  texels: Float64Array;
  layers: Float64Array[];
}
export const noCounts = (stacks: readonly Pick<Stack, 'layers'>[]): Counts => ({
  texels: new Float64Array(stacks.length),
  layers: stacks.map((s) => new Float64Array(s.layers.length)),
});
/** Adds what was counted on other rows. Sums depend on their order a little: strips are added from the top down. */
export function addCounts(into: Counts, more: Counts): void {
  for (const [k, n] of more.texels.entries()) into.texels[k] += n;
  for (const [k, list] of more.layers.entries()) for (const [l, n] of list.entries()) into.layers[k][l] += n;
}

/** What rows are composed from. */
export interface Composing {
  ground: Ground;
  materials: readonly Material[];
  stacks: readonly Stack[];
  boards: Boards | null;
  /** 0…255 per texel at the set’s size, or null for open everywhere. */
  occlusion: Uint8Array | null;
}

/** What is kept of rows that are composed again and again. */
export interface Kept {
  /** What a layer came to, by its material and its {@link LaidLayer.key}. */
  get(material: number, key: string): Float64Array | undefined;
  set(material: number, key: string, amounts: Float64Array): void;
  /** What `out` holds of a material that looks so already: how much of each of its layers lay there. */
  laid(material: number, look: string): readonly Float64Array[] | undefined;
  lay(material: number, look: string, amounts: readonly Float64Array[]): void;
}

/** The texels of some rows by material, in order. */
function texelsOf({ owner, size }: Ground, materials: number, from: number, to: number): Uint32Array[] {
  const counts = new Uint32Array(materials + 1);
  for (let i = from * size; i < to * size; i++) counts[owner[i]]++;
  const lists = Array.from({ length: materials }, (_, k) => new Uint32Array(counts[k + 1]));
  const at = new Uint32Array(materials + 1);
  for (let i = from * size; i < to * size; i++) if (owner[i] > 0) lists[owner[i] - 1][at[owner[i]]++] = i;
  return lists;
}

/**
 * Rows of a set: each material’s base, then its layers over it. Occlusion is copied beside roughness and metallic, so that the three travel
 * in one texture as glTF packs them. Every texel is composed by itself: rows come to the same in any order and by any number of workers.
 *
 * @param places where the rows lie, when a layer asks for it @param counts added to @param kept for rows that are composed once more with
 * only some layers changed
 */
export function composeRows(
  composing: Composing,
  places: Places | null,
  out: ComposedSet,
  from: number,
  to: number,
  counts: Counts,
  kept?: Kept,
): void {
  const { ground, materials, stacks, occlusion } = composing;
  for (let i = from * ground.size; i < to * ground.size; i++) if (ground.owner[i] === 0) out.orm[3 * i] = 255;
  for (const [k, texels] of texelsOf(ground, materials.length, from, to).entries()) {
    if (texels.length === 0) continue;
    counts.texels[k] += texels.length;
    const { layers } = stacks[k];
    const amounts: Float64Array[] = [];
    for (const [n, l] of layers.entries()) {
      const there = kept?.get(k, l.key);
      amounts[n] = there ?? amountsOf(composing, places, k, n, texels, amounts, places ? places.from * ground.size : 0);
      if (!there) kept?.set(k, l.key, amounts[n]);
      let sum = 0;
      for (const a of amounts[n]) sum += a;
      counts.layers[k][n] += sum;
    }
    const look = kept ? lookOf(materials[k], layers) : '';
    layOver(materials[k], layers, amounts, changed(texels, amounts, kept?.laid(k, look)), occlusion, out);
    kept?.lay(k, look, amounts);
  }
}

/** What a material and its layers look like, wherever they lie. */
const lookOf = (
  { colour, metallic, roughness, coat, coatRoughness, transmission, emission }: Material,
  layers: readonly LaidLayer[],
): string =>
  JSON.stringify([
    [colour, metallic, roughness, coat, coatRoughness, transmission, emission],
    layers.map(({ id: _, key: __, amount: ___, followed: ____, ...look }) => look),
  ]);

/** Texels of a material, and which of them are meant; all where that is null. */
interface Meant {
  texels: Uint32Array;
  at: readonly number[] | null;
}

/** Places in a list of texels where not as much lies of every layer as lay there before; every place where that isn’t known. */
function changed(texels: Uint32Array, now: readonly Float64Array[], before: readonly Float64Array[] | undefined): Meant {
  if (!before) return { texels, at: null };
  const other = now.flatMap((a, n) => (a === before[n] ? [] : [[a, before[n]] as const]));
  const at: number[] = [];
  for (let t = 0; t < texels.length; t++) if (other.some(([a, b]) => a[t] !== b[t])) at.push(t);
  return { texels, at };
}
/** How much of one layer lies at each texel of its material. @param below of the layers before it */
function amountsOf(
  { ground, stacks, boards }: Composing,
  places: Places | null,
  k: number,
  n: number,
  texels: Uint32Array,
  below: readonly Float64Array[],
  first: number,
): Float64Array {
  const { placed, layers } = stacks[k];
  const { amount, followed } = layers[n];
  const out = new Float64Array(texels.length);
  const lie = new Float64Array(Math.max(1, n));
  const place = new Place();
  for (let t = 0; t < texels.length; t++) {
    const i = texels[t];
    // Where it isn’t known where a texel lies nothing can lie on it.
    if (placed && !(places && boards && standIn(place, places, boards, i - first))) continue;
    place.wear = ground.wear[i];
    place.dirt = ground.dirt[i];
    for (const f of followed) lie[f] = below[f][t];
    out[t] = amount(place, lie);
  }
  return out;
}

/**
 * What {@link layUp} writes: linear colour, roughness, metal, the share of its glow that nothing with a colour of its own stands before, mm
 * above the base, coat, its roughness, and the light let through.
 */
export const LOOKS = 10;

/**
 * A material’s base with its layers over it at one place, bottom to top. Colours are mixed in linear light, whatever they are blended by.
 *
 * @param base its colour in linear light @param amounts how much of each layer lies there @param out {@link LOOKS} numbers
 */
export function layUp(
  m: Pick<Material, 'roughness' | 'metallic' | 'coat' | 'coatRoughness' | 'transmission'>,
  base: readonly number[],
  layers: readonly LaidLayer[],
  amounts: Float64Array,
  out: Float64Array,
): void {
  let [r, g, b] = base;
  let { roughness, metallic, coat, coatRoughness, transmission } = m;
  let [glow, height] = [1, 0];
  for (let n = 0; n < layers.length; n++) {
    const amount = amounts[n];
    if (amount <= 0) continue;
    const l = layers[n];
    const a = amount * l.opacity;
    if (l.colour && l.stored) {
      glow *= 1 - a;
      if (l.blend === 'normal') {
        r += a * (l.colour[0] - r);
        g += a * (l.colour[1] - g);
        b += a * (l.colour[2] - b);
      } else {
        const mode = BLENDS[l.blend];
        r += a * (srgbToLinear(mode(linearToSrgb(r), l.stored[0])) - r);
        g += a * (srgbToLinear(mode(linearToSrgb(g), l.stored[1])) - g);
        b += a * (srgbToLinear(mode(linearToSrgb(b), l.stored[2])) - b);
      }
    }
    if (l.roughness !== null) roughness += a * (l.roughness - roughness);
    if (l.rougher !== 0) roughness += a * l.rougher;
    if (l.relief !== 0) height += amount * l.relief;
    // Under what lies on it no metal shows, however thin.
    if (l.metallic !== null) metallic += amount * (l.metallic - metallic);
    if (l.coat !== null) coat += a * (l.coat - coat);
    if (l.coatRoughness !== null) coatRoughness += a * (l.coatRoughness - coatRoughness);
    if (l.transmission !== null) transmission += a * (l.transmission - transmission);
  }
  out[0] = r;
  out[1] = g;
  out[2] = b;
  out[3] = roughness;
  out[4] = metallic;
  out[5] = glow;
  out[6] = height;
  out[7] = coat;
  out[8] = coatRoughness;
  out[9] = transmission;
}

/** A material laid up at its texels. */
function layOver(
  m: Material,
  layers: readonly LaidLayer[],
  amounts: readonly Float64Array[],
  { texels, at }: Meant,
  occlusion: Uint8Array | null,
  out: ComposedSet,
): void {
  const base = m.colour.map(srgbToLinear);
  const here = new Float64Array(layers.length);
  const looks = new Float64Array(LOOKS);
  for (let n = 0; n < (at ?? texels).length; n++) {
    const t = at ? at[n] : n;
    const i = texels[t];
    for (let l = 0; l < here.length; l++) here[l] = amounts[l][t];
    layUp(m, base, layers, here, looks);
    const o = 3 * i;
    out.baseColour[o] = TO_SRGB[Math.round(looks[0] * 4096)];
    out.baseColour[o + 1] = TO_SRGB[Math.round(looks[1] * 4096)];
    out.baseColour[o + 2] = TO_SRGB[Math.round(looks[2] * 4096)];
    out.orm[o] = occlusion ? occlusion[i] : 255;
    out.orm[o + 1] = byte(looks[3]);
    out.orm[o + 2] = byte(looks[4]);
    if (out.height) out.height[i] = looks[6];
    if (out.coat) {
      out.coat[o] = byte(looks[7]);
      out.coat[o + 1] = byte(looks[8]);
    }
    if (out.clear) out.clear[i] = byte(looks[9]);
    if (out.emissive && m.emission > 0) for (let c = 0; c < 3; c++) out.emissive[o + c] = byte(m.colour[c] * looks[5]);
  }
}

/** Puts a place where a texel lies; false where none is known. */
function standIn(p: Place, places: Places, boards: Boards, i: number): boolean {
  const shell = boards.shells[places.shell[i] - 1];
  if (!shell) return false;
  p.shell = shell;
  p.x = places.position[3 * i];
  p.y = places.position[3 * i + 1];
  p.z = places.position[3 * i + 2];
  p.nx = places.normal[3 * i];
  p.ny = places.normal[3 * i + 1];
  p.nz = places.normal[3 * i + 2];
  p.footprint = places.footprint[i];
  return true;
}

/** A whole set on this thread. @param laid where its texels lie and by what fields are laid; without it only the ground’s own masks are drawn */
export function compose(
  ground: Ground,
  materials: readonly Material[],
  occlusion: Uint8Array | null,
  laid: { places: Places; boards: Boards } | null = null,
  seed = 1,
): { set: ComposedSet; figures: ComposeFigures } {
  const set = emptySet(ground.size, materials);
  const boards = laid?.boards ?? null;
  const stacks = stacksOf(materials, limitsOf(materials, ground), boards, seed);
  const counts = noCounts(stacks);
  composeRows({ ground, materials, stacks, boards, occlusion }, laid?.places ?? null, set, 0, ground.size, counts);
  return { set, figures: composeFigures(counts, materials, stacks, ground.size) };
}

/** What layers came to, the latest: as much of it as fits; and the set that was composed last. */
export class KeptSet implements Kept {
  private readonly found = new Map<string, Float64Array>();
  private bytes = 0;
  private last: ComposedSet | null = null;
  private settled: { text: string; figures: ComposeFigures } | null = null;
  private readonly looks = new Map<number, { look: string; amounts: readonly Float64Array[] }>();
  /** @param room bytes */
  constructor(private readonly room = 96e6) {}

  get(material: number, key: string): Float64Array | undefined {
    const name = `${material} ${key}`;
    const amounts = this.found.get(name);
    if (amounts) {
      this.found.delete(name);
      this.found.set(name, amounts);
    }
    return amounts;
  }

  /** The set to compose into: the last one where it has the same maps. @param fresh an empty one */
  begin(fresh: ComposedSet): ComposedSet {
    const set = this.last && mapsOf(this.last) === mapsOf(fresh) ? copied(this.last) : fresh;
    if (set === fresh) this.looks.clear();
    this.last = set;
    this.settled = null;
    return set;
  }

  /** A copy of what was composed last, where it was of the same materials; null where it wasn’t. */
  same(text: string): { set: ComposedSet; figures: ComposeFigures } | null {
    return this.settled?.text === text && this.last ? { set: copied(this.last), figures: this.settled.figures } : null;
  }
  /** What was composed last came to. @param text says of what */
  settle(text: string, figures: ComposeFigures): void {
    this.settled = { text, figures };
  }

  laid(material: number, look: string): readonly Float64Array[] | undefined {
    const was = this.looks.get(material);
    return was?.look === look ? was.amounts : undefined;
  }

  lay(material: number, look: string, amounts: readonly Float64Array[]): void {
    this.looks.set(material, { look, amounts });
  }

  set(material: number, key: string, amounts: Float64Array): void {
    this.found.set(`${material} ${key}`, amounts);
    this.bytes += amounts.byteLength;
    for (const [name, old] of this.found) {
      if (this.bytes <= this.room || old === amounts) break;
      this.found.delete(name);
      this.bytes -= old.byteLength;
    }
  }
}

/** A set that shares nothing with another. */
export const copied = (set: ComposedSet): ComposedSet => ({
  size: set.size,
  baseColour: set.baseColour.slice(),
  orm: set.orm.slice(),
  emissive: set.emissive?.slice() ?? null,
  height: set.height?.slice() ?? null,
  coat: set.coat?.slice() ?? null,
  clear: set.clear?.slice() ?? null,
});
/** How large a set is and which maps it has. */
const mapsOf = (set: ComposedSet): string => [set.size, !!set.emissive, !!set.height, !!set.coat, !!set.clear].join();

/** The figures of a set from what was counted while it was composed. */
export function composeFigures(
  counts: Counts,
  materials: readonly Material[],
  stacks: readonly Pick<Stack, 'layers'>[],
  size: number,
): ComposeFigures {
  const rows = materials.map((m, k) => ({
    id: m.id,
    name: m.name,
    texels: counts.texels[k],
    layers: stacks[k].layers.map((l, n) => ({
      id: l.id,
      name: m.layers.find((x) => x.id === l.id)?.name ?? l.id,
      share: counts.layers[k][n] / Math.max(1, counts.texels[k]),
      ...(l.missing && { leftOut: true as const }),
    })),
  }));
  return { materials: rows.filter((r) => r.texels > 0), coveredShare: rows.reduce((n, r) => n + r.texels, 0) / (size * size) };
}

/** The set as pictures to deliver, carried over the padding so that no level mixes the background in. */
export function setPixels(
  set: ComposedSet,
  owner: Uint8Array,
  from = nearestKnown(owner, set.size),
): { baseColour: Pixels; orm: Pixels; emissive: Pixels | null; coat: Pixels | null; clear: Pixels | null } {
  const pixels = (data: Uint8Array, channels: 1 | 3 = 3): Pixels => ({
    width: set.size,
    height: set.size,
    channels,
    depth: 8,
    data: spread(data, channels, from),
  });
  return {
    baseColour: pixels(set.baseColour),
    orm: pixels(set.orm),
    emissive: set.emissive && pixels(set.emissive),
    coat: set.coat && pixels(set.coat),
    clear: set.clear && pixels(set.clear, 1),
  };
}
