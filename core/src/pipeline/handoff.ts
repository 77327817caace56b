import { strToU8, zipSync } from 'fflate';
import type { FurtherMap } from '../bake/maps/further';
import { setSheet } from '../drawing/contact-sheet';
import { layoutPng, layoutSvg } from '../drawing/layout';
import { StageError } from '../errors';
import { asJpeg } from '../image/jpeg-loss';
import { decodePng, encodePng, type Pixels } from '../image/png';
import type { Content } from '../image/scale';
import type { CamePictures } from '../io/glb-came';
import { writeObj } from '../io/obj-write';
import { type Kit, NO_KIT } from '../kit';
import { attribute } from '../mesh/polymesh';
import { type SmallerSet, smallerSet } from '../surface/smaller';
import { specularSet } from '../surface/specular';
import { SLOTS } from '../surface/texturing';
import { checkpoint, part, QUIET, type Task } from '../task';
import { figure } from '../units/lengths';
import { SECOND, secondAsFirst } from '../uv/second';
import type { BakeFiles, ExrMap } from './bake';
import { cameMaterials, keepsLayouts } from './came';
import type { AssetDocument } from './document';
import type { DeliveredMaps } from './export';
import { exportGlb, exportOptions, fileName } from './export';
import type { PartMesh } from './form';
import { furtherFiles } from './further-files';
import { drawnTogether, GATHERED, GATHERED_CHANNELS } from './gather-figures';
import { asGathered, type GatheredSet, picturesOfSet } from './gathered';
import { isLaid } from './inspect';
import { makeLevels } from './levels';
import type { AssetState } from './preflight';
import type { SolvedStage } from './render';
import { specSheet } from './spec-sheet';

/** PNG files the stages came to. */
export interface HandoffMaps {
  /** As baked, in the chosen bits and Y. */
  normal?: Uint8Array;
  /** 8 bits, Y up. */
  glbNormal?: Uint8Array;
  /** The same with what stands out of the composed set, where something does: it goes out in place of both. */
  relief?: Uint8Array;
  occlusion?: Uint8Array;
  /** Further maps of the bake, and those whose values are kept beside their picture. */
  further?: Pick<BakeFiles, FurtherMap | `${ExrMap}Exr`>;
  baseColour?: Uint8Array;
  orm?: Uint8Array;
  emissive?: Uint8Array;
  coat?: Uint8Array;
  clear?: Uint8Array;
  picture?: Uint8Array;
  /** Those that came with files and are still in use, by blob. */
  pictures?: CamePictures;
  /** The gathered set, which then goes out in place of composed and brought pictures. */
  gathered?: GatheredSet;
}

/** Does something and takes its time. */
export type Timed = <T>(act: () => T) => T;

/** A file of the archive that is handed over, and what it is in words. */
export interface HandoffFile {
  name: string;
  bytes: Uint8Array;
  what: string;
}

/**
 * Everything that is handed over, named `asset_channel.png`. Nothing is half-made: it is all here or an error.
 *
 * @param kit with the simplifier, where further levels are chosen
 * @param timed told of the making of further levels, as what they take is planned with
 */
export async function handoffFiles(
  state: AssetState,
  parts: readonly PartMesh[],
  maps: HandoffMaps,
  solved: SolvedStage | null,
  madeOn: string,
  task: Task = QUIET,
  kit: Kit = NO_KIT,
  timed: Timed = (act) => act(),
): Promise<HandoffFile[]> {
  const { gathered } = maps;
  // What a gathered piece is made of is the set, on the layout that was drawn to.
  const asMade = gathered
    ? asGathered(state.document, parts, gathered.figures, (m) => (gathered.files[m] ? m : undefined))
    : { document: state.document, parts };
  const { document } = asMade;
  const { include, unit, y } = document.handoff;
  if (parts.length === 0) throw new StageError('handoff/empty', 'There is nothing to hand over yet; form the piece first.');
  if (!Object.values(include).some(Boolean)) throw new StageError('handoff/nothing', 'Nothing is chosen to go into the archive.');
  const base = fileName(document.name);
  const files: HandoffFile[] = [];
  const add = (name: string, bytes: Uint8Array, what: string) => files.push({ name, bytes, what });
  const step = (share: number, words: string) => {
    checkpoint(task);
    task.progress(share, words);
  };
  const carried: DeliveredMaps = gathered
    ? { pictures: picturesOfSet(gathered, base), white: solved?.development.full }
    : {
        normal: maps.relief ?? maps.glbNormal,
        occlusion: maps.occlusion,
        baseColour: maps.baseColour,
        orm: maps.orm,
        coat: maps.coat,
        clear: maps.clear,
        white: solved?.development.full,
        pictures: maps.pictures,
      };
  const glbOf = (of: readonly PartMesh[]) =>
    exportGlb(of, {
      ...exportOptions(document, carried),
      ...(gathered && { together: drawnTogether(state.document, gathered.figures) }),
    });
  if (include.glb) {
    step(0.05, 'writing the GLB');
    add(`${base}.glb`, await glbOf(asMade.parts), 'GLB, metres, Y up, normal map Y up');
  }
  if (include.levels) {
    let before = Infinity;
    for (const [i, level] of timed(() => makeLevels(document, asMade.parts, kit, part(task, 0.1, 0.3))).entries()) {
      const glb = await glbOf(level.parts);
      add(
        `${base}_level${i + 1}.glb`,
        glb,
        `GLB for ${figure(100 * level.share, 1)} % of the screen height: ${figure(level.triangles, 0)} triangles${level.triangles < before ? '' : ', no fewer than the level before'}, outline ${figure(level.measuredPx, 2)} px off`,
      );
      before = level.triangles;
    }
  }
  const named = (channel: string) => `textures/${base}_${channel}.png`;
  const pictures: CamePictures = (gathered ? undefined : maps.pictures) ?? new Map();
  const came = gathered ? new Map<string, string>(GATHERED.map((m) => [m, named(GATHERED_CHANNELS[m].channel)])) : cameNames(pictures);
  if (include.textures || include.obj) {
    step(0.3, 'writing textures');
    const normal = !gathered && (maps.relief ? turnedTo(maps.relief, 'up', y) : maps.normal && turnedTo(maps.normal, document.bake.y, y));
    if (maps.baseColour && !gathered) add(named('basecolor'), maps.baseColour, 'base colour, sRGB');
    if (normal) add(named('normal'), normal, `tangent-space normal, Y ${y}, linear`);
    if (maps.orm && !gathered) {
      add(named('orm'), maps.orm, 'occlusion, roughness, metallic; linear');
      const orm = decodePng(maps.orm);
      add(named('roughness'), encodePng(channel(orm, 1)), 'roughness, linear');
      add(named('metallic'), encodePng(channel(orm, 2)), 'metallic, linear');
    }
    if (maps.occlusion) add(named('occlusion'), maps.occlusion, 'ambient occlusion, linear');
    if (maps.emissive && !gathered) add(named('emissive'), maps.emissive, 'emission, sRGB');
    if (maps.coat && !gathered) add(named('coat'), maps.coat, 'clear coat in red, its roughness in green; linear');
    if (maps.clear && !gathered) add(named('transmission'), maps.clear, 'light let through, linear');
    if (!gathered && include.textures)
      for (const file of smallerFiles(state, maps, y)) add(`textures/${base}_${file.name}`, file.bytes, file.what);
    if (!gathered && include.textures) {
      const { specular, jpeg, setSheet: sheet } = document.handoff;
      const older = specular ? specularFiles(maps) : [];
      for (const file of older) add(named(file.name), file.bytes, file.what);
      if (jpeg) for (const file of jpegFiles(maps, older, jpeg)) add(named(file.name).replace(/png$/, 'jpg'), file.bytes, file.what);
      if (sheet && maps.baseColour) add(`${base}_set.png`, encodePng(setSheet(mapsOnSheet(maps), kit)), 'the maps of the set side by side');
    }
    for (const m of GATHERED) {
      const bytes = gathered?.files[m];
      const { channel: name, what } = GATHERED_CHANNELS[m];
      if (bytes) add(named(name), m === 'normal' ? turnedTo(bytes, 'up', y) : bytes, what.replace('Y up', `Y ${y}`));
    }
    for (const [blob, { bytes }] of pictures) add(came.get(blob) as string, bytes, `${cameWords(document, blob)}, as it came`);
    for (const { name, bytes, what } of furtherFiles(maps.further ?? {}, state.bake)) add(`textures/${base}_${name}`, bytes, what);
  }
  if (include.obj) {
    step(0.5, 'writing the OBJ');
    const have = (c: string) => (files.some((f) => f.name === named(c)) ? named(c) : undefined);
    const { obj, mtl } = writeObj(
      document.name,
      asMade.parts.map((p) => ({ ...p, material: document.parts.find((d) => d.id === p.id)?.material ?? null })),
      {
        unit,
        library: `${base}.mtl`,
        materials: document.materials,
        triangles: maps.normal !== undefined,
        textures: {
          baseColour: have('basecolor'),
          roughness: have('roughness'),
          metallic: have('metallic'),
          normal: have('normal'),
          emissive: have('emissive'),
        },
        came: gathered || keepsLayouts(document) ? (blob) => came.get(blob) : undefined,
      },
    );
    add(`${base}.obj`, strToU8(obj), `OBJ, ${unit}`);
    add(`${base}.mtl`, strToU8(mtl), 'materials of the OBJ');
  }
  if (include.layout && parts.every(isLaid)) {
    step(0.65, 'drawing the layout');
    add(`${base}_layout.png`, layoutPng(parts, document.brief.limits.textureSize), 'layout');
    add(`${base}_layout.svg`, strToU8(layoutSvg(parts, document.brief.limits.textureSize)), 'layout, vector');
    const second = document.unwrap.second;
    if (second?.on && parts.some((p) => attribute(p.mesh, SECOND.uv, 'corner'))) {
      const laid = parts.map(secondAsFirst);
      add(`${base}_layout-2.png`, layoutPng(laid, second.size), 'second layout');
      add(`${base}_layout-2.svg`, strToU8(layoutSvg(laid, second.size)), 'second layout, vector');
    }
  }
  const picture = include.picture && maps.picture ? `${base}_picture.png` : null;
  if (picture && maps.picture) add(picture, maps.picture, 'picture, sRGB');
  if (include.sheet) {
    step(0.8, 'writing the spec sheet');
    const list = files.map((f) => ({ name: f.name, bytes: f.bytes.length, what: f.what }));
    add(`${base}_spec-sheet.html`, strToU8(specSheet(state, solved, list, picture, madeOn)), 'spec sheet');
  }
  return files;
}

/** The composed set at further sizes, each half of the one before: named by its size, with the density it then has. */
function smallerFiles(state: AssetState, maps: HandoffMaps, y: 'up' | 'down'): HandoffFile[] {
  const wanted = state.document.handoff.smaller ?? 0;
  if (wanted === 0 || !maps.baseColour || !maps.orm) return [];
  const read = (png: Uint8Array | undefined) => (png ? decodePng(png) : undefined);
  const [baseColour, orm] = [decodePng(maps.baseColour), decodePng(maps.orm)];
  const size = baseColour.width;
  const normal = read(maps.relief ?? maps.glbNormal);
  const [emissive, coat, clear] = [read(maps.emissive), read(maps.coat), read(maps.clear)];
  let set: SmallerSet = {
    baseColour,
    orm,
    // Of another size it was baked for another set.
    ...(normal && normal.width === size && { normal }),
    ...(emissive && { emissive }),
    ...(coat && { coat }),
    ...(clear && { clear }),
  };
  const density = state.layout?.density;
  const out: HandoffFile[] = [];
  for (let n = 1, to = size / 2; n <= wanted && Number.isInteger(to) && to >= 64; n++, to /= 2) {
    set = smallerSet(set, to);
    const said = `${to} px${density ? `, ${figure((density * to) / size, 1)} px/cm` : ''}`;
    for (const [key, channel, what] of [
      ['baseColour', 'basecolor', 'base colour, sRGB'],
      ['orm', 'orm', 'occlusion, roughness, metallic; linear'],
      ['normal', 'normal', `tangent-space normal, Y ${y}, linear`],
      ['emissive', 'emissive', 'emission, sRGB'],
      ['coat', 'coat', 'clear coat and its roughness, linear'],
      ['clear', 'transmission', 'light let through, linear'],
    ] as const) {
      const p = set[key];
      if (!p) continue;
      const png = encodePng(p);
      out.push({ name: `${channel}_${to}.png`, bytes: key === 'normal' ? turnedTo(png, 'up', y) : png, what: `${what}, ${said}` });
    }
  }
  return out;
}

/** Colour maps as JPEG, with what each lost by it. Data stays PNG: there a level more or less is another surface. */
function jpegFiles({ baseColour, emissive }: HandoffMaps, older: readonly HandoffFile[], quality: number): HandoffFile[] {
  const colours = [
    ...(baseColour ? [{ name: 'basecolor', bytes: baseColour, what: 'base colour' }] : []),
    ...(emissive ? [{ name: 'emissive', bytes: emissive, what: 'emission' }] : []),
    ...older.flatMap(({ name, bytes }) => (name === 'diffuse' || name === 'specular' ? [{ name, bytes, what: `${name} colour` }] : [])),
  ];
  return colours.map(({ name, bytes, what }) => {
    const made = asJpeg(decodePng(bytes), quality);
    const lost = `${figure(made.mean, 2)} of 255 off on the mean, ${made.largest} at most, seen in ${figure(100 * made.seen, 1)} % of its texels`;
    return { name, bytes: made.bytes, what: `${what}, sRGB, JPEG of quality ${quality}: ${lost}` };
  });
}

/** The maps of a set as they stand on its sheet. */
function mapsOnSheet({ baseColour, orm, occlusion, relief, glbNormal, emissive, coat, clear }: HandoffMaps) {
  const list: { name: string; pixels: Pixels; content: Content }[] = [];
  const add = (name: string, png: Uint8Array | undefined, content: Content, k?: number) => {
    if (!png) return;
    const pixels = decodePng(png);
    list.push({ name, pixels: k === undefined ? pixels : channel(pixels, k), content });
  };
  add('Base colour', baseColour, 'colour');
  add('Roughness', orm, 'data', 1);
  add('Metallic', orm, 'data', 2);
  add('Normal', relief ?? glbNormal, 'normal');
  add('Occlusion', occlusion, 'data');
  add('Emission', emissive, 'colour');
  add('Clear coat', coat, 'data', 0);
  add('Light let through', clear, 'data');
  // A map baked at another size is left out of the row.
  return list.filter((m) => m.pixels.width === list[0].pixels.width || Math.min(m.pixels.width, list[0].pixels.width) >= 512);
}

/** The composed set for receivers of the older school, with what is lost by it said and shown. */
function specularFiles({ baseColour, orm }: HandoffMaps): HandoffFile[] {
  if (!baseColour || !orm) return [];
  const set = specularSet(decodePng(baseColour), decodePng(orm));
  const lost = `turned back, base colour is ${figure(set.meanLost, 1)} of 255 off on the mean, ${figure(set.mostLost, 0)} at most`;
  return [
    { name: 'diffuse', bytes: encodePng(set.diffuse), what: 'diffuse colour, sRGB' },
    { name: 'specular', bytes: encodePng(set.specular), what: `specular colour, sRGB; ${lost}` },
    { name: 'gloss', bytes: encodePng(set.gloss), what: 'gloss, linear: 1 − roughness' },
    { name: 'specular_lost', bytes: encodePng(set.lost), what: 'levels of 255 that are lost by it' },
  ];
}

/** What pictures that came with files are called in the archive: as they were, in a folder of their own, no two alike. */
function cameNames(pictures: CamePictures): Map<string, string> {
  const taken = new Set<string>();
  return new Map(
    [...pictures].map(([blob, { name, mime }]) => {
      const kind = mime.replace(/^image\//, '').replace('jpeg', 'jpg');
      const bare = (name.split(/[\\/]/).pop() ?? '').replace(/\.\w{2,5}$/, '').replace(/[^\w.-]+/g, '-') || 'texture';
      let own = bare;
      for (let n = 2; taken.has(own.toLowerCase()); n++) own = `${bare}-${n}`;
      taken.add(own.toLowerCase());
      return [blob, `textures/came/${own}.${kind}`];
    }),
  );
}

/** What a picture says, of which materials. */
function cameWords(document: AssetDocument, blob: string): string {
  const uses = cameMaterials(document).flatMap((m) => m.texturing.uses.filter((u) => u.picture === blob).map((u) => SLOTS[u.slot]));
  return [...new Set(uses)].join(', ') || 'picture';
}

/** One archive. PNGs are stored as they are; the time in it is always the same, so that equal pieces give equal bytes. */
export function archive(files: readonly HandoffFile[]): Uint8Array {
  return zipSync(
    Object.fromEntries(files.map((f) => [f.name, [f.bytes, { level: /\.(png|jpg)$/.test(f.name) ? 0 : 6, mtime: new Date(1980, 0, 1) }]])),
  );
}

/** A normal map with its green turned over where the two sides differ: full − G. */
export function turnedTo(png: Uint8Array, from: 'up' | 'down', to: 'up' | 'down'): Uint8Array {
  if (from === to) return png;
  const p = decodePng(png);
  const full = p.depth === 8 ? 255 : 65535;
  const data = p.data.slice();
  for (let i = 1; i < data.length; i += p.channels) data[i] = full - data[i];
  return encodePng({ ...p, data });
}

function channel(p: Pixels, k: number): Pixels {
  const data = p.depth === 8 ? new Uint8Array(p.width * p.height) : new Uint16Array(p.width * p.height);
  for (let i = 0; i < data.length; i++) data[i] = p.data[p.channels * i + k];
  return { width: p.width, height: p.height, channels: 1, depth: p.depth, data };
}
