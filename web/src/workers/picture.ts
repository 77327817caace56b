import { spread } from '@wellmorph/core/bake/spread';
import { InputError } from '@wellmorph/core/errors';
import { codecsFor } from '@wellmorph/core/io/codecs';
import { convexHull } from '@wellmorph/core/maths/hull';
import { triangleCount } from '@wellmorph/core/mesh/polymesh';
import { decodeParts } from '@wellmorph/core/pipeline/bundle';
import { sharers } from '@wellmorph/core/pipeline/document';
import { deliversTangents, exportGlb, exportOptions, fileName } from '@wellmorph/core/pipeline/export';
import { assetBounds } from '@wellmorph/core/pipeline/form';
import { asGathered, gatheredGlb } from '@wellmorph/core/pipeline/gathered';
import { archive, handoffFiles } from '@wellmorph/core/pipeline/handoff';
import { ledgerOf } from '@wellmorph/core/pipeline/inspect';
import { labelled } from '@wellmorph/core/pipeline/labels';
import { outlinePoints } from '@wellmorph/core/pipeline/outline';
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
  stripsOf,
} from '@wellmorph/core/pipeline/surface';
import { kernelNote } from '@wellmorph/core/rays/kernel/host';
import { sharedRoom } from '@wellmorph/core/rays/tree';
import { clippedShare, type Development, develop, heldBackShare, noiseOf, traceTile } from '@wellmorph/core/render/film';
import type { Scene } from '@wellmorph/core/render/scene';
import { PathTracer } from '@wellmorph/core/render/tracer';
import type { Shot } from '@wellmorph/core/shot/shot';
import { KeptSet } from '@wellmorph/core/surface/compose';
import { ballOf } from '@wellmorph/core/surface/layers/ball';
import { strokeFrom } from '@wellmorph/core/surface/layers/stroke-grid';
import { checkpoint } from '@wellmorph/core/task';
import type { Handlers } from './handlers';
import { bytes } from './handlers';
import { kits } from './kit';
import type { Work } from './protocol';
import { unpacked } from './unpack';

const shared = (n: number) => new SharedArrayBuffer(n);
const seconds = () => performance.now() / 1000;

/** Side of the picture round the ball that a material is shown on, px. */
const BALL_PX = 256;
/** What was composed last on the ground that is looked at. */
let looked: { prepared: PreparedSurface; kept: KeptSet } | null = null;
/** The tracer of the scene that is held. */
let tracing: { scene: Scene; tracer: PathTracer } | null = null;

/** The second half's work: surface, light, picture, hand-off. */
export const pictureHandlers: Pick<
  Handlers,
  | 'ground'
  | 'look'
  | 'strokes'
  | 'ball'
  | 'composePrepare'
  | 'composeStrips'
  | 'composeFinish'
  | 'light'
  | 'scene'
  | 'tile'
  | 'develop'
  | 'export'
  | 'handoff'
> = {
  ground: ({ document, laid, maps, size }, task) =>
    prepareSurface(groundInput(document, decodeParts(laid), maps, size), task, shared, true, maps.normal),
  look({ materials }, task, held) {
    const prepared = held as PreparedSurface;
    if (looked?.prepared !== prepared) looked = { prepared, kept: new KeptSet() };
    const { set } = composePrepared(prepared, materials, task, looked.kept);
    // Carried past the islands' edges, so that smaller levels of the texture mix nothing else in.
    const quads = (rgb: Uint8Array) => asQuads(spread(rgb, 3, prepared.spread));
    const normal = previewNormals(prepared, set);
    return { size: set.size, baseColour: quads(set.baseColour), orm: quads(set.orm), normal: normal && asQuads(normal) };
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
  composePrepare: ({ document, laid, maps }, task) =>
    prepareSet(document, decodeParts(laid), maps, document.brief.limits.textureSize, task, shared),
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
  async handoff({ state, parts, maps, madeOn }, task) {
    await codecsFor(maps.pictures?.values() ?? []);
    const decoded = labelled(decodeParts(parts), state.document);
    if (state.document.handoff.include.levels) await kits.load('simplifier');
    const kit = await kits.best(state.document);
    const files = await handoffFiles(
      state,
      decoded,
      maps,
      decoded.length > 0 ? solveStage(state.document, decoded) : null,
      madeOn,
      task,
      kit,
    );
    return { zip: bytes(archive(files)), files: files.map((f) => ({ name: f.name, bytes: f.bytes.length, what: f.what })) };
  },
};

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
