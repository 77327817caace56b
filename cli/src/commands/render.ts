import { availableParallelism } from 'node:os';
import { InputError } from '@wellmorph/core/errors';
import type { Model } from '@wellmorph/core/io/model';
import { sceneTexture, type Use, withFactors } from '@wellmorph/core/io/textures';
import { newDocument } from '@wellmorph/core/pipeline/document';
import type { PartMesh } from '@wellmorph/core/pipeline/form';
import { documentFromModel } from '@wellmorph/core/pipeline/import';
import { figuresOf, picturePng, sceneOf, solveStage } from '@wellmorph/core/pipeline/render';
import { rayWords } from '@wellmorph/core/rays/kernel/host';
import { sharedRoom } from '@wellmorph/core/rays/tree';
import { develop, emptyFilm } from '@wellmorph/core/render/film';
import { plainSceneMaterial, type SceneMaterial, type SceneTexture } from '@wellmorph/core/render/scene';
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
  const document = documentFromModel(calledAs(files[0]), model, { fileName: calledAs(files[0]), licence: '', note: '' }, meshStore().keep);
  document.shot = { ...newDocument('', document.brief).shot, widthPx: width, heightPx: height };
  const parts = model.parts.map((p, i): PartMesh => ({ id: `part${i + 1}`, name: p.name, mesh: p.mesh, placements: p.placements }));
  const { materials, textures } = look(model);
  const solved = solveStage(document, parts);
  const scene = sceneOf(
    document,
    parts.map((part, i) => ({ part, material: model.parts[i].material })),
    materials,
    textures,
    solved,
    sharedRoom(),
  );
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

/** The model's materials with the textures it brings. */
function look(model: Model): { materials: SceneMaterial[]; textures: SceneTexture[] } {
  const textures: SceneTexture[] = [];
  const known = new Map<string, number>();
  const number = (texture: number | undefined, use: Use, factors: readonly number[], alpha = false): number => {
    if (texture === undefined) return -1;
    const key = `${texture} ${use} ${factors.join()}`;
    const seen = known.get(key);
    if (seen !== undefined) return seen;
    const { name, bytes } = model.textures[texture];
    const made = withFactors(sceneTexture(name, bytes, use, alpha), factors, use);
    const data = new Uint8Array(new SharedArrayBuffer(made.data.length));
    data.set(made.data);
    known.set(key, textures.push({ ...made, data }) - 1);
    return textures.length - 1;
  };
  const materials = model.materials.map((m): SceneMaterial => {
    const plain = plainSceneMaterial({ ...m, id: m.name });
    return {
      ...plain,
      // A description of our own stands beside textures that are already whole; other files multiply the two.
      colourMap: number(m.maps?.baseColour, 'base colour', m.touched ? [1, 1, 1] : plain.colour, m.maps?.alpha),
      ormMap: number(m.maps?.orm, 'roughness and metallic', m.touched ? [1, 1, 1] : [1, m.roughness, m.metallic]),
      normalMap: number(m.maps?.normal, 'normal', [1, 1, 1]),
    };
  });
  return { materials, textures };
}
