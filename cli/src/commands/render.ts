import { availableParallelism } from 'node:os';
import { InputError } from '@wellmorph/core/errors';
import { pictureSize as sizeOf } from '@wellmorph/core/io/head';
import { decodeTexture } from '@wellmorph/core/io/textures';
import { codecsFor } from '@wellmorph/core/node/codecs';
import { picturesOfCame } from '@wellmorph/core/pipeline/came';
import { newDocument } from '@wellmorph/core/pipeline/document';
import type { PartMesh } from '@wellmorph/core/pipeline/form';
import { documentFromModel } from '@wellmorph/core/pipeline/import';
import { figuresOf, picturePng, solveStage, stageScene } from '@wellmorph/core/pipeline/render';
import { rayWords } from '@wellmorph/core/rays/kernel/host';
import { sharedRoom } from '@wellmorph/core/rays/tree';
import { develop, emptyFilm } from '@wellmorph/core/render/film';
import { traceFilm } from '@wellmorph/core/render/schedule';
import { figure } from '@wellmorph/core/units/lengths';
import { threadCrew } from '../crew';
import { calledAs, loadModel, wholeNumber } from '../input';
import { meshStore } from '../mesh-store';
import type { Values } from '../options';
import { type Outcome, stderrTask } from '../output';
import { outputTo, writeWhole } from '../write';

/** A picture of the model on the default backdrop, in the default rig, framed. */
export async function renderCommand(files: string[], values: Values): Promise<Outcome> {
  if (files.length !== 1) throw new InputError('cli/files', 'render takes one file.');
  const [width, height] = pictureSize(values.size ?? '512x512');
  const samples = wholeNumber(values, 'samples', 64, 2, 65536);
  const threads = wholeNumber(values, 'threads', Math.min(16, availableParallelism()), 1, 64);
  const seed = wholeNumber(values, 'seed', 1, 0, 2 ** 31 - 1);
  const out = await outputTo(values.out, '.png', 'render');
  const model = await loadModel(files[0], values);
  const store = meshStore();
  const source = { fileName: calledAs(files[0]), licence: '', note: '' };
  const document = documentFromModel(calledAs(files[0]), model, source, store.keep, undefined, store.keepPicture);
  document.shot = { ...newDocument('', document.brief).shot, widthPx: width, heightPx: height };
  const parts = model.parts.map((p, i): PartMesh => ({ id: `part${i + 1}`, name: p.name, mesh: p.mesh, placements: p.placements }));
  const solved = solveStage(document, parts);
  const pictures = await picturesOfCame(document, store.picture);
  await codecsFor(pictures.values());
  // Whoever asks for a file’s picture is told which of its textures can’t be read, and gets none without them.
  for (const { name, bytes } of pictures.values()) if (!sizeOf(bytes)) decodeTexture(name, bytes);
  const scene = stageScene(document, parts, { pictures }, solved, sharedRoom());
  const film = emptyFilm(width, height);
  const task = stderrTask(values);
  task.progress(0, rayWords('tracing'));
  const traced = await traceFilm(film, threadCrew(scene, threads), {
    samples,
    seed,
    development: solved.development,
    clock: () => performance.now() / 1000,
    task,
  });
  const picture = develop(film, solved.development);
  await writeWhole(out, picturePng(picture));
  const f = figuresOf(film, traced.seconds, traced.rays, traced.measured, picture);
  return {
    json: {
      file: out,
      width,
      height,
      samples: f.samples,
      noise: f.noise,
      seconds: f.seconds,
      threads,
      seed,
      clippedShare: f.clippedShare,
      heldBackShare: f.heldBackShare,
      aperture: solved.shot.aperture,
      watts: Object.fromEntries(solved.rig.figures.map((l) => [l.name, l.watts])),
    },
    text: `${width} × ${height} px, ${figure(f.samples, 0)} samples per pixel, noise ${figure(100 * f.noise, 2)} %, ${figure(f.seconds, 1)} s on ${threads} thread${threads > 1 ? 's' : ''}\nf/${solved.shot.aperture}; ${solved.rig.figures.map((l) => `${l.name} ${figure(l.watts, 2)} W`).join(', ')}\nWritten: ${out}\n`,
    failed: false,
  };
}

function pictureSize(text: string): [number, number] {
  const m = /^(\d{1,5})x(\d{1,5})$/.exec(text);
  const size = m ? [Number(m[1]), Number(m[2])] : [0, 0];
  if (!size.every((n) => n >= 16 && n <= 8192))
    throw new InputError('cli/size', `--size is ${text}; it can be a width and height from 16 to 8192, like 512x512.`);
  return size as [number, number];
}
