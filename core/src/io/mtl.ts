import { srgbToLinear } from '../image/srgb';
import { FILE_GLOW, PLAIN } from '../surface/material';
import { PLAIN_TEXTURING, type Slot, type TextureUse } from '../surface/texturing';
import type { ModelMaterial, ModelTexture } from './model';

/** Materials of an OBJ, the pictures they have, and what is to be said of them. */
export interface MtlRead {
  materials: ModelMaterial[];
  textures: ModelTexture[];
  notes: string[];
}

/** How much light passes what is only partly solid. */
const clear = (solid: number): number => Math.min(1, Math.max(0, 1 - solid));

/** What a map statement says: MTL as published with OBJ, and the widely read physically based additions. */
const MAPS: Record<string, Slot> = {
  map_kd: 'baseColour',
  map_d: 'alpha',
  map_pr: 'roughness',
  map_pm: 'metallic',
  map_ke: 'emission',
  norm: 'normal',
  map_bump: 'height',
  bump: 'height',
  disp: 'height',
  map_ka: 'other',
  map_ks: 'other',
  map_ns: 'other',
};
/** Options of a map statement and how many values they take at most; numbers may be left off from the end. */
const OPTIONS: Record<string, number> = {
  '-blendu': 1,
  '-blendv': 1,
  '-bm': 1,
  '-boost': 1,
  '-cc': 1,
  '-clamp': 1,
  '-imfchan': 1,
  '-mm': 2,
  '-o': 3,
  '-s': 3,
  '-t': 3,
  '-texres': 1,
  '-type': 1,
};
/** Channels as `-imfchan` names them. */
const CHANNEL: Record<string, number> = { r: 0, g: 1, b: 2, m: 3, l: 0, z: 0 };
/** Slots that hold one value. */
const SINGLE: readonly Slot[] = ['alpha', 'roughness', 'metallic', 'height'];

/**
 * Materials named in an OBJ, with what the MTL beside it says of them (Kd, Ke, d, Tr, Pm, Pr) and the pictures it names for them (`map_…`
 * with their options, as far as those move, scale, clamp or choose a channel).
 */
export function readMtl(library: string | null, beside: Record<string, Uint8Array>, used: readonly string[]): MtlRead {
  const found = new Map<string, ModelMaterial>();
  const textures: ModelTexture[] = [];
  const known = new Map<Uint8Array, number>();
  const lost = new Set<string>();
  const notes: string[] = [];
  const brought = (name: string): Uint8Array | undefined => {
    const last = name.split(/[\\/]/).pop() ?? '';
    for (const key of [name, last]) if (Object.hasOwn(beside, key)) return beside[key];
    return undefined;
  };
  const pictureOf = (name: string): number | undefined => {
    const bytes = brought(name);
    if (!bytes) {
      lost.add(name);
      return undefined;
    }
    const seen = known.get(bytes);
    if (seen !== undefined) return seen;
    const kind = /\.jpe?g$/i.test(name) ? 'image/jpeg' : /\.webp$/i.test(name) ? 'image/webp' : 'image/png';
    const made = textures.push({ name: name.split(/[\\/]/).pop() ?? name, mime: kind, bytes }) - 1;
    known.set(bytes, made);
    return made;
  };
  const file = library === null ? undefined : brought(library);
  if (file) {
    let m: ModelMaterial | undefined;
    for (const line of new TextDecoder('utf-8').decode(file).split('\n')) {
      const f = line.trim().split(/\s+/);
      const x = f.slice(1).map(Number);
      const slot = Object.hasOwn(MAPS, f[0].toLowerCase()) ? MAPS[f[0].toLowerCase()] : undefined;
      if (f[0] === 'newmtl') {
        m = { ...PLAIN, name: f.slice(1).join(' '), colour: [0.6, 0.6, 0.6] };
        found.set(m.name, m);
      } else if (m && slot) {
        const use = mapUse(f.slice(1), slot, pictureOf);
        if (use) m.texturing = { ...(m.texturing ?? { ...PLAIN_TEXTURING, uses: [] }), uses: [...(m.texturing?.uses ?? []), use] };
      } else if (!m || !x.every(Number.isFinite)) continue;
      else if (f[0] === 'Kd' && x.length >= 3) m.colour = [x[0], x[1], x[2]];
      else if (f[0] === 'Ke' && Math.max(...x) > 0) m.emission = FILE_GLOW * Math.max(...x);
      else if (f[0] === 'd') m.transmission = clear(x[0]);
      else if (f[0] === 'Tr') m.transmission = clear(1 - x[0]);
      else if (f[0] === 'Pm') m.metallic = x[0];
      else if (f[0] === 'Pr') m.roughness = x[0];
    }
  }
  for (const m of found.values()) if (m.texturing) withNumbers(m);
  if (library !== null && !file)
    notes.push(`The material file “${library}” was not given; its materials have their names and a plain grey.`);
  if (lost.size > 0)
    notes.push(`${lost.size === 1 ? `The picture “${[...lost][0].slice(0, 60)}” was` : `${lost.size} pictures were`} not brought along.`);
  return {
    materials: used.map((name) => found.get(name) ?? { ...PLAIN, name, colour: [0.6, 0.6, 0.6] as [number, number, number] }),
    textures,
    notes,
  };
}

/** One `map_…` statement; undefined where its picture is missing. Offsets and scales are written for v up, textures are laid on with v down. */
function mapUse(words: readonly string[], slot: Slot, picture: (name: string) => number | undefined): TextureUse<number> | undefined {
  let at = 0;
  let [offset, scale] = [
    [0, 0],
    [1, 1],
  ];
  let clamped = false;
  let channel = SINGLE.includes(slot) ? 0 : undefined;
  while (at < words.length - 1 && Object.hasOwn(OPTIONS, words[at])) {
    const option = words[at++];
    const values: string[] = [];
    const numeric = OPTIONS[option] > 1;
    while (values.length < OPTIONS[option] && at < words.length - 1 && (!numeric || Number.isFinite(Number(words[at]))))
      values.push(words[at++]);
    const n = values.map(Number);
    if (option === '-o') offset = [n[0] ?? 0, n[1] ?? 0];
    else if (option === '-s') scale = [n[0] ?? 1, n[1] ?? 1];
    else if (option === '-clamp') clamped = values[0] === 'on';
    else if (option === '-imfchan' && Object.hasOwn(CHANNEL, values[0])) channel = CHANNEL[values[0]];
  }
  const made = picture(words.slice(at).join(' '));
  if (made === undefined) return undefined;
  const down: [number, number] = [offset[0], 1 - scale[1] - offset[1]];
  return {
    picture: made,
    slot,
    layout: 0,
    ...(channel !== undefined && { channel }),
    ...((down[0] !== 0 || down[1] !== 0) && { offset: down }),
    ...((scale[0] !== 1 || scale[1] !== 1) && { scale: [scale[0], scale[1]] }),
    ...(clamped && { wrap: ['clamp', 'clamp'] }),
  };
}

/** The numbers a picture is multiplied with: those beside it, or none where MTL lets the picture stand in their place (Pr, Pm, Ke). */
function withNumbers(m: ModelMaterial): void {
  const t = m.texturing;
  if (!t) return;
  const has = (slot: Slot) => t.uses.some((u) => u.slot === slot);
  const glow = m.emission / FILE_GLOW;
  m.texturing = {
    ...t,
    baseColour: has('baseColour')
      ? [1, 1, 1, 1 - m.transmission]
      : ([...m.colour.map(srgbToLinear), 1 - m.transmission] as typeof t.baseColour),
    metallic: has('metallic') ? 1 : m.metallic,
    roughness: has('roughness') ? 1 : m.roughness,
    emission: has('emission') ? [1, 1, 1] : [glow, glow, glow],
    alpha: has('alpha') || m.transmission > 0 ? 'blend' : 'opaque',
  };
  // Where a picture says what glows, its number alone would light all of it.
  if (has('emission')) m.emission = 0;
}
