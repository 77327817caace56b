import { spread } from '@wellmorph/core/bake/spread';
import { contactSheet } from '@wellmorph/core/drawing/contact-sheet';
import { sheetFile, sheetSvg } from '@wellmorph/core/drawing/vector-sheet';
import { InputError } from '@wellmorph/core/errors';
import { encodePng } from '@wellmorph/core/image/png';
import { linearToSrgb } from '@wellmorph/core/image/srgb';
import { codecsFor } from '@wellmorph/core/io/codecs';
import { needed } from '@wellmorph/core/kit';
import { neededFor } from '@wellmorph/core/kit-load';
import { convexHull } from '@wellmorph/core/maths/hull';
import { triangleCount } from '@wellmorph/core/mesh/polymesh';
import { decodeParts } from '@wellmorph/core/pipeline/bundle';
import { sharers } from '@wellmorph/core/pipeline/document';
import { deliversTangents, exportGlb, exportOptions, fileName } from '@wellmorph/core/pipeline/export';
import { assetBounds } from '@wellmorph/core/pipeline/form';
import { asGathered, gatheredGlb } from '@wellmorph/core/pipeline/gathered';
import { archive, type HandoffFile, handoffFiles, type Timed } from '@wellmorph/core/pipeline/handoff';
import { ledgerOf } from '@wellmorph/core/pipeline/inspect';
import { labelled } from '@wellmorph/core/pipeline/labels';
import { outlinePoints } from '@wellmorph/core/pipeline/outline';
import { judgePrints, openPrints, printedPart, type SetPrint, setPrints } from '@wellmorph/core/pipeline/printed';
import { printedSet } from '@wellmorph/core/pipeline/printed-set';
import { printsOf } from '@wellmorph/core/pipeline/prints';
import { picturePng, safeToStart, solveStage, stageScene } from '@wellmorph/core/pipeline/render';
import {
  composePrepared,
  finishSet,
  groundInput,
  type PreparedSurface,
  prepareSet,
  prepareSurface,
  previewNormals,
  SetComposer,
  SetPacker,
  stripsOf,
} from '@wellmorph/core/pipeline/surface';
import { sizeByDots, svgSize } from '@wellmorph/core/print/file';
import { borderOf } from '@wellmorph/core/print/judge';
import { layPrint } from '@wellmorph/core/print/lay';
import { drawnArtwork, openArtwork } from '@wellmorph/core/print/open';
import { addSample, type CutPicture, hasAlpha, levelOf, type PrintPicture, printPicture } from '@wellmorph/core/print/pixels';
import type { Artwork, PictureArtwork } from '@wellmorph/core/print/print';
import { printTemplate } from '@wellmorph/core/print/template';
import { kernelNote } from '@wellmorph/core/rays/kernel/host';
import { sharedRoom } from '@wellmorph/core/rays/tree';
import { clippedShare, type Development, develop, heldBackShare, noiseOf, traceTile } from '@wellmorph/core/render/film';
import type { Scene } from '@wellmorph/core/render/scene';
import { PathTracer } from '@wellmorph/core/render/tracer';
import type { Shot } from '@wellmorph/core/shot/shot';
import { KeptSet } from '@wellmorph/core/surface/compose';
import { ballOf } from '@wellmorph/core/surface/layers/ball';
import { strokeFrom } from '@wellmorph/core/surface/layers/stroke-grid';
import { checkpoint, part } from '@wellmorph/core/task';
import { drawnCard } from './card';
import type { Handlers } from './handlers';
import { bytes } from './handlers';
import { kits } from './kit';
import type { Printing, SharedSet, Work } from './protocol';
import { unpacked } from './unpack';

const shared = (n: number) => new SharedArrayBuffer(n);
const seconds = () => performance.now() / 1000;

/** Side of the picture round the ball that a material is shown on, px. */
const BALL_PX = 256;
/** What was composed last on the ground that is looked at. */
let looked: { prepared: PreparedSurface; kept: KeptSet } | null = null;
/** What packed the last of several sets on one ground. */
let packing: { of: unknown; packer: SetPacker } | null = null;
/** The tracer of the scene that is held. */
let tracing: { scene: Scene; tracer: PathTracer } | null = null;

/** The second half's work: surface, light, picture, hand-off. */
export const pictureHandlers: Pick<
  Handlers,
  | 'ground'
  | 'look'
  | 'artwork'
  | 'printTemplate'
  | 'strokes'
  | 'ball'
  | 'composePrepare'
  | 'composeStrips'
  | 'composeFinish'
  | 'composeVariant'
  | 'contactSheet'
  | 'card'
  | 'light'
  | 'scene'
  | 'tile'
  | 'develop'
  | 'export'
  | 'handoff'
> = {
  ground: ({ document, laid, maps, size }, task) =>
    prepareSurface(groundInput(document, decodeParts(laid), maps, size), task, shared, true, maps.normal),
  async look({ materials, printing }, task, held) {
    const prepared = held as PreparedSurface;
    if (looked?.prepared !== prepared) looked = { prepared, kept: new KeptSet() };
    const { kept } = looked;
    const on = printing ? await printedOn(printing, prepared) : [];
    const { set, prints } = composePrepared(prepared, materials, task, kept, on);
    const shown = prints.flatMap((p) => (p.wrong === undefined && p.print.id === printing?.border ? [p.ready] : []))[0];
    // Carried past the islands' edges, so that smaller levels of the texture mix nothing else in.
    const quads = (rgb: Uint8Array) => asQuads(spread(rgb, 3, prepared.spread));
    const normal = previewNormals(prepared, set);
    return {
      size: set.size,
      baseColour: quads(set.baseColour),
      orm: quads(set.orm),
      normal: normal && asQuads(normal),
      printed: printing && judgePrints(prints, printing.size),
      border: shown ? { part: shown.laid.print.part, lines: borderOf(shown.mesh, shown.laid) } : null,
    };
  },
  async artwork({ artwork, name, files }) {
    await kitFor([artwork]);
    const drawing = artwork.kind === 'picture' ? null : drawnArtwork(artwork, kits.loaded);
    const picture = await openArtwork(artwork, name, 2 * CHIP_PX, { kit: kits.loaded, read: (blob) => files[blob] });
    const own = artwork.kind === 'picture' ? pictureMm(artwork, files[artwork.blob]) : drawing;
    return {
      ...chipOf(picture),
      size: own && { width: own.width, height: own.height },
      alpha: hasAlpha(picture),
    };
  },
  strokes({ parts, drawn }) {
    const decoded = decodeParts(parts);
    return drawn.map((d) => {
      const on = decoded.find((p) => p.id === d.part);
      if (!on) throw new InputError('stroke/part', 'The part that was painted is not there any more.');
      return strokeFrom(on.mesh, d);
    });
  },
  ball({ material, seed }) {
    const { size, baseColour, orm } = ballOf(material, BALL_PX, seed);
    return { size, baseColour: asQuads(baseColour), orm: asQuads(orm) };
  },
  async printTemplate({ parts, document, print: id, as, dpi }) {
    const print = document.prints?.find((p) => p.id === id);
    const part = decodeParts(parts).find((p) => p.id === print?.part);
    if (!print || !part) throw new InputError('print/gone', 'That print is not there any more.');
    const sheet = printTemplate(part.mesh, layPrint(part.mesh, print, printedPart(document, print.part)));
    if (as !== 'png') return { file: bytes(await sheetFile(sheet, as)) };
    await kits.load('drawings');
    const { width, height, data } = needed(kits.loaded, 'drawings')(
      sheetSvg(sheet),
      Math.min(LARGEST_TEMPLATE, Math.round((print.width / 25.4) * dpi)),
    );
    return { file: bytes(encodePng({ width, height, channels: 4, depth: 8, data })) };
  },
  async composePrepare({ document, laid, maps, files, over }, task) {
    const parts = decodeParts(laid);
    const size = document.brief.limits.textureSize;
    const prints = printsOf(document);
    await kitFor(prints.map((p) => p.artwork));
    const pictures =
      prints.length > 0
        ? await openPrints(document, parts, size, { kit: kits.loaded, read: (blob) => files[blob] }, undefined, sharedRoom())
        : undefined;
    return prepareSet(document, parts, maps, size, task, shared, pictures, over);
  },
  composeStrips({ job, next }, task) {
    const composer = new SetComposer(job);
    const strips = stripsOf(job.set.size);
    const done: Work['composeStrips']['answer'] = [];
    for (let strip = Atomics.add(next, 0, 1); strip < strips; strip = Atomics.add(next, 0, 1)) {
      checkpoint(task);
      done.push({ strip, counts: composer.draw(strip) });
      task.progress((strip + 1) / strips, 'composing');
    }
    return done;
  },
  composeFinish({ job, strips, maps, seconds: before }, task) {
    const began = seconds();
    return finishSet(job, strips, maps, () => before + seconds() - began, task);
  },
  async composeVariant({ document, files, seconds: before }, task, held) {
    const began = seconds();
    const { job, strips, maps } = held as SharedSet;
    const packer: SetPacker = packing !== null && packing.of === held ? packing.packer : new SetPacker();
    packing = { of: held, packer };
    await kitFor(printsOf(document).map((p) => p.artwork));
    const reader = { kit: kits.loaded, read: (blob: string) => files[blob] };
    artworks = await openPrints(document, job.parts, job.set.size, reader, artworks);
    checkpoint(task);
    const made = printedSet(job, document, artworks);
    return finishSet(made, strips, maps, () => before + seconds() - began, task, packer);
  },
  async contactSheet({ pictures }) {
    await Promise.all((['drawings', 'font'] as const).map((what) => kits.load(what)));
    return { png: bytes(encodePng(contactSheet(pictures, kits.loaded))) };
  },
  async card({ document, parts, files }) {
    await kits.best(document);
    return { png: await drawnCard(document, decodeParts(parts), files) };
  },
  light({ document, parts, composed }) {
    const decoded = decodeParts(parts);
    const solved = solveStage(document, decoded);
    const bounds = assetBounds(decoded);
    return {
      ...solved,
      bounds,
      outline: convexHull(fromAbove(outlinePoints(decoded))),
      checks: safeToStart(document, decoded, solved, { composed }),
    };
  },
  async scene({ document, parts, set }) {
    const decoded = decodeParts(parts).filter((p) => triangleCount(p.mesh) > 0);
    await codecsFor(set.pictures?.values() ?? []);
    const solved = solveStage(document, decoded);
    if (set.photo) solved.development.behind = await behind(set.photo, document.shot);
    return { solved, note: kernelNote(), scene: stageScene(document, decoded, set, solved, sharedRoom()) };
  },
  tile({ pass }, task, held) {
    const scene = held as Scene;
    if (tracing?.scene !== scene) tracing = { scene, tracer: new PathTracer(scene) };
    const { tracer } = tracing;
    const before = tracer.rays;
    const halves = traceTile(tracer, pass, task.cancelled);
    return { halves, rays: tracer.rays - before };
  },
  develop({ film, development, samples, png }) {
    const picture = develop(film, development, samples);
    return {
      rgba: new Uint8ClampedArray(picture.data),
      noise: noiseOf(film, development, samples),
      png: png ? bytes(picturePng(picture)) : null,
      clippedShare: clippedShare(picture),
      heldBackShare: heldBackShare(film),
    };
  },
  async export({ document, laid, normal, occlusion, pictures, gathered }) {
    await codecsFor(pictures.values());
    const parts = labelled(decodeParts(laid), document);
    if (gathered) {
      const glb = await gatheredGlb(document, parts, gathered, fileName(document.name));
      const asMade = asGathered(document, parts, gathered.figures, (m) => m);
      return { glb: bytes(glb), gpuVertices: ledgerOf(asMade.parts, undefined, deliversTangents(asMade.document), []).gpuVertices };
    }
    const options = exportOptions(document, { pictures, ...(normal && { normal }), ...(occlusion && { occlusion }) });
    const glb = await exportGlb(parts, options);
    return { glb: bytes(glb), gpuVertices: ledgerOf(parts, undefined, options.tangents, [], sharers(document)).gpuVertices };
  },
  async handoff({ pieces, pictures, madeOn }, task) {
    const files: HandoffFile[] = [];
    let levelSeconds = 0;
    const timed: Timed = (act) => {
      const began = performance.now();
      const done = act();
      levelSeconds += (performance.now() - began) / 1000;
      return done;
    };
    for (const [n, { state, parts, maps }] of pieces.entries()) {
      await codecsFor(maps.pictures?.values() ?? []);
      const decoded = labelled(decodeParts(parts), state.document);
      const { include, setSheet } = state.document.handoff;
      if (include.levels) await kits.load('simplifier');
      if (setSheet && include.textures) await Promise.all((['drawings', 'font'] as const).map((what) => kits.load(what)));
      const kit = await kits.best(state.document);
      const solved = decoded.length > 0 ? solveStage(state.document, decoded) : null;
      const told = part(task, n / pieces.length, (n + 1) / pieces.length);
      const own = await handoffFiles(state, decoded, maps, solved, madeOn, told, kit, timed);
      // Each is whole by itself, in a folder called after it.
      const folder = pieces.length > 1 ? `${fileName(state.document.name)}/` : '';
      files.push(...own.map((f) => ({ ...f, name: `${folder}${f.name}` })));
    }
    if (pictures.length > 1) {
      await Promise.all((['drawings', 'font'] as const).map((what) => kits.load(what)));
      files.push({
        name: 'contact-sheet.png',
        bytes: encodePng(contactSheet(pictures, kits.loaded)),
        what: `${pictures.length} pictures side by side, sRGB`,
      });
    }
    return { zip: bytes(archive(files)), files: files.map((f) => ({ name: f.name, bytes: f.bytes.length, what: f.what })), levelSeconds };
  },
};

/** Pictures of artworks that were looked at last. */
let artworks: Map<string, PrintPicture> = new Map();
/** Prints on a preview: their artworks are opened once. */
async function printedOn({ document, files }: Printing, { ground, laid }: PreparedSurface): Promise<SetPrint[]> {
  const prints = printsOf(document);
  if (prints.length === 0 || !laid) return [];
  await kitFor(prints.map((p) => p.artwork));
  const { parts } = laid.boards;
  artworks = await openPrints(document, parts, ground.size, { kit: kits.loaded, read: (blob) => files[blob] }, artworks);
  return setPrints(document, parts, artworks, ground.size);
}

/** Loads what artworks are drawn with. */
const kitFor = async (list: readonly Artwork[]): Promise<void> =>
  void (await Promise.all([...new Set(list.flatMap(neededFor))].map((what) => kits.load(what))));

/** Widest sheet that is drawn as pixels, px. */
const LARGEST_TEMPLATE = 8192;
/** Longer side of the small picture of an artwork, px. */
const CHIP_PX = 72;
function chipOf(picture: CutPicture): { width: number; height: number; rgba: Uint8Array } {
  const scale = Math.min(1, CHIP_PX / Math.max(picture.width, picture.height));
  const [width, height] = [picture.width, picture.height].map((n) => Math.max(1, Math.round(n * scale)));
  const from = printPicture(picture);
  const level = levelOf(from, 1 / scale);
  const rgba = new Uint8Array(4 * width * height);
  const sum = new Float64Array(4);
  for (let i = 0; i < width * height; i++) {
    sum.fill(0);
    addSample(from, level, ((i % width) + 0.5) / width, (Math.floor(i / width) + 0.5) / height, sum);
    for (let k = 0; k < 3; k++) rgba[4 * i + k] = sum[3] > 0 ? Math.round(255 * linearToSrgb(Math.min(1, sum[k] / sum[3]))) : 0;
    rgba[4 * i + 3] = Math.round(255 * sum[3]);
  }
  return { width, height, rgba };
}

/** The size a picture file says, mm; null where it says none. */
function pictureMm(artwork: PictureArtwork, file: Uint8Array | undefined): { width: number; height: number } | null {
  if (artwork.mime === 'image/svg+xml') return file ? svgSize(artwork.fileName, new TextDecoder().decode(new Uint8Array(file))) : null;
  return sizeByDots(artwork.widthPx, artwork.heightPx, artwork.dpi ?? null);
}

/** A photograph in the size of the picture that stands in it; what was cut out of it is black. */
async function behind(photo: Uint8Array, { widthPx, heightPx }: Shot): Promise<Development['behind']> {
  const { width, height, channels, data } = await unpacked(photo, { width: widthPx, height: heightPx });
  if (channels === 3) return { width, height, data };
  const rgb = new Uint8Array(new SharedArrayBuffer(3 * width * height));
  for (let i = 0; i < width * height; i++) for (let k = 0; k < 3; k++) rgb[3 * i + k] = data[4 * i + k];
  return { width, height, data: rgb };
}

/** Three bytes a texel as four, opaque: what a graphics card takes. */
function asQuads(rgb: Uint8Array): Uint8Array {
  const out = new Uint8Array((rgb.length / 3) * 4);
  for (let i = 0, o = 0; i < rgb.length; i += 3, o += 4) {
    out[o] = rgb[i];
    out[o + 1] = rgb[i + 1];
    out[o + 2] = rgb[i + 2];
    out[o + 3] = 255;
  }
  return out;
}

/** Points as seen from above: x and z. */
const fromAbove = (points: Float64Array): [number, number][] =>
  Array.from({ length: points.length / 3 }, (_, i) => [points[3 * i], points[3 * i + 2]]);
