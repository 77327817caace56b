import type { GatherComparison } from '../gather/compare';
import type { Material } from '../surface/material';
import { PLAIN_TEXTURING, type Slot, type TextureUse, type Texturing } from '../surface/texturing';
import { figure } from '../units/lengths';
import { keepsLayouts } from './came';
import { type AssetDocument, deliveredParts, gatherOf, isMoved } from './document';

/** The pictures a gathered set can have. */
export const GATHERED = ['baseColour', 'orm', 'normal', 'emission', 'height', 'transmission'] as const;
export type GatheredMap = (typeof GATHERED)[number];

/** What is known of one part that was gathered. */
export interface GatheredPart {
  id: string;
  name: string;
  group: 'opaque' | 'clear';
  /** Texels of its finest picture along one of the set, over its area: the mean, and of 95 of 100 places at most. */
  averaged: number;
  averagedP95: number;
  /** Side the set would need to keep all of it, px, 0 where there are no pictures; and what share of its texels along a line the set keeps. */
  neededPx: number;
  keepsShare: number;
}

/** What has to be known of a set that goes out in place of a piece’s own materials. */
export interface SetFigures {
  size: number;
  to: 'first' | 'second';
  parts: readonly Pick<GatheredPart, 'id' | 'group'>[];
  maps: GatheredMap[];
  /** Emission that full white stands for. */
  glow: number;
  /** Whether anything is cut out. */
  cutOut: boolean;
  /** What it is called where it is not gathered from materials, and whether it holds its own light and takes none. */
  photographed?: { unlit: boolean };
}

/** What is kept of gathering. */
export interface GatherFigures extends SetFigures {
  parts: GatheredPart[];
  /** Names of parts that were left as they were. */
  left: string[];
  comparison: GatherComparison;
  /** Share of places that the source has not. */
  lostShare: number;
  /** Places read. */
  samples: number;
  /** Whether anything is clear. */
  clear: boolean;
  seconds: number;
}

/** One of the usual mistakes, looked for before anything is drawn. */
export interface GatherCheck {
  id: 'parts' | 'layout' | 'size';
  level: 'ok' | 'near' | 'over';
  sentence: string;
  /** What would mend it. */
  fix?: 'take-all' | 'second-on' | 'to-first' | 'to-second';
}

/** Parts that are gathered: all that go out and aren’t left. */
export const gatheredParts = (document: AssetDocument): AssetDocument['parts'] => {
  const { left } = gatherOf(document);
  return deliveredParts(document).filter((p) => !left.includes(p.id));
};

/**
 * The three usual mistakes: a part forgotten, a set of the wrong size, and a layout that is drawn to while it is read from.
 *
 * @param density px/cm that the layout drawn to reaches at that size, where it is known
 */
export function gatherChecks(document: AssetDocument, density: number | null, wanted: number | null): GatherCheck[] {
  const { left, to, size } = gatherOf(document);
  const all = deliveredParts(document);
  const forgotten = all.filter((p) => left.includes(p.id));
  const bare = all.filter((p) => !left.includes(p.id) && !document.materials.some((m) => m.id === p.material));
  const out: GatherCheck[] = [];
  const names = (parts: readonly { name: string }[]) => parts.map((p) => p.name).join(', ');
  if (forgotten.length === all.length)
    out.push({ id: 'parts', level: 'over', sentence: 'Every part is left out: there is nothing to gather.', fix: 'take-all' });
  else if (forgotten.length > 0)
    out.push({
      id: 'parts',
      level: 'near',
      sentence: `Left as ${forgotten.length === 1 ? 'it is' : 'they are'}: ${names(forgotten)}.`,
      fix: 'take-all',
    });
  else if (bare.length > 0)
    out.push({ id: 'parts', level: 'near', sentence: `Without a material, so gathered plain grey: ${names(bare)}.` });
  else
    out.push({
      id: 'parts',
      level: 'ok',
      sentence: all.length === 1 ? 'Its one part is gathered.' : `All ${all.length} parts are gathered.`,
    });
  const second = document.unwrap.second?.on === true;
  if (to === 'second' && !second)
    out.push({ id: 'layout', level: 'over', sentence: 'There is no second layout to draw to yet.', fix: 'second-on' });
  else if (to === 'first' && keepsLayouts(document))
    out.push({
      id: 'layout',
      level: 'over',
      sentence:
        'It would be drawn to the very layouts the pictures are read from, where islands lie on each other; a second one has a place for each.',
      fix: second ? 'to-second' : 'second-on',
    });
  else
    out.push({
      id: 'layout',
      level: 'ok',
      sentence: `Read from ${keepsLayouts(document) ? 'the layouts the files brought' : 'the files’ own layouts'}, drawn to ${to === 'second' ? 'the second layout' : 'the layout of the piece'}.`,
    });
  if (to === 'second' && second && document.unwrap.second?.size !== size)
    out.push({
      id: 'size',
      level: 'near',
      sentence: `The second layout is packed for ${document.unwrap.second?.size} px and the set is ${size} px: its gaps are ${figure(((document.unwrap.second?.padding ?? 0) * size) / (document.unwrap.second?.size ?? size), 1)} texels wide there.`,
      fix: 'second-on',
    });
  else if (density !== null && wanted !== null && density < 0.98 * wanted)
    out.push({
      id: 'size',
      level: 'near',
      sentence: `At ${size} px it has ${figure(density, 1)} px/cm; the closest view wants ${figure(wanted, 1)}.`,
    });
  else out.push({ id: 'size', level: 'ok', sentence: `One set of ${size} px${density !== null ? `, ${figure(density, 1)} px/cm` : ''}.` });
  return out;
}

/** What the figures come to in a sentence, and how bad it is. */
export function gatherVerdict(f: GatherFigures): { level: 'ok' | 'near' | 'over'; sentence: string } {
  const { meanColourOff, channels } = f.comparison;
  const normal = channels.normal?.p95 ?? 0;
  const worst = [...f.parts].sort((a, b) => a.keepsShare - b.keepsShare)[0];
  if (f.lostShare > 0.001)
    return { level: 'over', sentence: `${figure(100 * f.lostShare, 2)} % of its places were not found on what it came from.` };
  if (meanColourOff > 2 || normal > 1)
    return {
      level: 'near',
      sentence:
        meanColourOff > 2
          ? `Its mean colour is ${figure(meanColourOff, 1)} of 255 off.`
          : `Normals are up to ${figure(normal, 1)}° off in 95 of 100 places: the set is too small for them.`,
    };
  if (worst && worst.keepsShare < 0.95)
    return {
      level: 'near',
      sentence: `Nothing is off, and something is lost: ${worst.name} would need ${figure(worst.neededPx, 0)} px; at ${f.size} it keeps ${figure(100 * worst.keepsShare, 0)} %.`,
    };
  return { level: 'ok', sentence: 'It shows what it came from, as finely as that was.' };
}

/** The gathered set as materials of the piece: an opaque one, and a clear one where anything is clear. `name` says under which names its pictures are kept. */
export function gatheredMaterials(f: SetFigures, name: (map: GatheredMap) => string | undefined): (Material & { texturing: Texturing })[] {
  const use = (map: GatheredMap, slot: Slot, channel?: number): TextureUse[] => {
    const picture = name(map);
    return picture ? [{ picture, slot, layout: 0, ...(channel !== undefined && { channel }) }] : [];
  };
  const glow = f.maps.includes('emission') ? f.glow : 0;
  const made = (clear: boolean): Material & { texturing: Texturing } => {
    const alpha = clear ? 'blend' : f.cutOut ? 'mask' : 'opaque';
    return {
      id: clear ? 'gathered-clear' : 'gathered',
      name: f.photographed ? 'Photographed' : clear ? 'Gathered, clear' : 'Gathered',
      base: null,
      source: f.photographed ? 'laid on from photographs' : 'gathered from the materials of the piece',
      touched: true,
      colour: [1, 1, 1],
      metallic: 0,
      roughness: 1,
      ior: 1.5,
      transmission: clear ? 0.5 : 0,
      coat: 0,
      coatRoughness: 0.1,
      emission: 0,
      layers: [],
      texturing: {
        ...PLAIN_TEXTURING,
        uses: [
          ...use('baseColour', 'baseColour'),
          ...(alpha === 'opaque' ? [] : use('baseColour', 'alpha', 3)),
          ...use('orm', 'occlusion', 0),
          ...use('orm', 'roughness', 1),
          ...use('orm', 'metallic', 2),
          ...use('normal', 'normal'),
          ...use('emission', 'emission'),
          ...(clear ? use('transmission', 'transmission', 0) : []),
        ],
        emission: [glow, glow, glow],
        ...(clear && f.maps.includes('transmission') && { transmission: 1 }),
        alpha,
        // A photograph says nothing of what its surface is made of; matt and no metal lies about it least.
        ...(f.photographed && { metallic: 0, unlit: f.photographed.unlit }),
        whole: true,
      },
    };
  };
  const groups = new Set(f.parts.map((p) => p.group));
  return [...(groups.has('opaque') ? [made(false)] : []), ...(groups.has('clear') ? [made(true)] : [])];
}

/** What pictures of a gathered set are called in files: `asset_channel.png`. */
export const GATHERED_CHANNELS: Record<GatheredMap, { channel: string; what: string }> = {
  baseColour: { channel: 'basecolor', what: 'base colour, sRGB' },
  orm: { channel: 'orm', what: 'occlusion, roughness, metallic; linear' },
  normal: { channel: 'normal', what: 'tangent-space normal, Y up, linear' },
  emission: { channel: 'emissive', what: 'emission, sRGB' },
  height: { channel: 'height', what: 'height, linear' },
  transmission: { channel: 'transmission', what: 'light let through, linear' },
};

/** Which parts are one draw: all of one material that stand still, unless they are to stay apart. */
export function drawnTogether(document: AssetDocument, f: SetFigures): (part: string) => string | null {
  const group = new Map(f.parts.map((p) => [p.id, p.group]));
  const { apart } = gatherOf(document);
  return (id) => {
    const part = document.parts.find((p) => p.id === id);
    const own = group.get(id);
    if (apart || !part || !own || isMoved(part)) return null;
    return own === 'clear' ? `${document.name}, clear` : document.name;
  };
}

/** Draws of a piece that is handed over gathered. */
export function gatheredDraws(document: AssetDocument, f: SetFigures): number {
  const together = drawnTogether(document, f);
  const groups = new Set<string>();
  let alone = 0;
  for (const p of deliveredParts(document)) {
    const name = together(p.id);
    if (name === null) alone++;
    else groups.add(name);
  }
  return groups.size + alone;
}
