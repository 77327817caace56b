import { stormLantern } from '../../demo/src/lantern';
import { aboutParts, bakeSettings } from '../src/pipeline/bake';
import { bake, bakeTexels, finishBake } from '../src/pipeline/bake-finish';
import type { AssetDocument } from '../src/pipeline/document';
import { formAsset } from '../src/pipeline/form';
import { solveStage, stageScene } from '../src/pipeline/render';
import { usedMaterials } from '../src/pipeline/results';
import { solveAsset } from '../src/pipeline/solve';
import { composeAsset, composePrepared, groundInput, prepareSurface } from '../src/pipeline/surface';
import { unwrap, unwrapSettings } from '../src/pipeline/unwrap';
import { atlasTable } from './atlas/atlas';
import { calibrate, median } from './calibrate';
import { benchChangers } from './changers';
import { benchFiles } from './files';
import { benchInspect } from './inspect';
import { benchPicture } from './picture';
import { rayTable } from './rays';
import { benchRecipe } from './recipe';
import { castBy, sharedBake, shareInRays } from './thread';

/** Prints the project's speeds as ratios in one run, beside a calibration loop so that runs can be compared. */
export async function table(): Promise<void> {
  const none = () => {
    throw new Error('the lantern needs no stored mesh');
  };
  const loop = median([calibrate(), calibrate(), calibrate()]);
  const line = (what: string, seconds: number, more = '') =>
    console.log(
      `${what.padEnd(58)} ${seconds.toFixed(2).padStart(7)} s  ${(seconds / loop).toFixed(2).padStart(7)} × calibration  ${more}`,
    );
  console.log(`calibration loop ${loop.toFixed(3)} s`);

  const raw = stormLantern();
  const document: AssetDocument = { ...raw, form: { ...raw.form, counts: solveAsset(raw).counts } };
  const timed = <T>(work: () => T): [T, number] => {
    const start = performance.now();
    const made = work();
    return [made, (performance.now() - start) / 1000];
  };

  const high = formAsset(document, 'high', none);
  await rayTable();

  const [low, forming] = timed(() => formAsset(document, 'low', none));
  line('forming the lantern, low', forming);
  line('solving its budget', median([1, 2, 3].map(() => timed(() => solveAsset(raw))[1])));
  const r = benchRecipe();
  line(
    `an edit of a recipe of 20 steps, ${r.triangles.toLocaleString('en')} triangles (wanted ≤ 0.25 s)`,
    r.whole,
    `of it forming ${(1000 * r.formed).toFixed(0)} ms; from nothing ${(1000 * r.fresh).toFixed(0)} ms`,
  );
  const c = await benchChangers();
  line(`a bevel of ${c.edges.toLocaleString('en')} edges (wanted ≤ 0.5 s)`, c.bevel);
  line(`cutting one solid of ${c.triangles.toLocaleString('en')} triangles by another (wanted ≤ 1 s)`, c.solids);
  line(`a shell of ${c.shelled.toLocaleString('en')} triangles (wanted ≤ 0.5 s)`, c.shell);
  const [laid, laying] = timed(() => unwrap(low.parts, unwrapSettings(document)));
  line(
    'unwrap of the lantern, 4 992 triangles drawn',
    laying,
    `${laid.figures.islands} islands, ${(100 * laid.figures.coverage).toFixed(1)} % covered`,
  );
  const about = [laid.parts, high.parts, aboutParts(document), bakeSettings(document)] as const;
  const [bakedAt, bakeClock] = [performance.now(), () => performance.now() / 1000];
  const made = await bake(...about, bakeClock);
  line(
    'bake of the lantern, 1024², normal 2 × 2, occlusion 16 rays',
    (performance.now() - bakedAt) / 1000,
    `${(made.figures.rays / 1e6).toFixed(1)} M rays, one thread`,
  );
  const [sharedMade, preparing] = timed(() => sharedBake(...about));
  const [one, two] = [await castBy(1, sharedMade.prepared), await castBy(2, sharedMade.prepared)];
  const texels = bakeTexels(sharedMade.prepared);
  const finished = performance.now();
  await finishBake(sharedMade, texels, bakeSettings(document), laid.parts, 0);
  const finishing = (performance.now() - finished) / 1000;
  line(
    'the same bake by two threads (wanted ≤ 10 s)',
    preparing + two + finishing,
    `measuring and trees ${preparing.toFixed(1)} · casting ${two.toFixed(1)}, one thread ${one.toFixed(1)}: ${(one / two).toFixed(2)} × (wanted ≥ 1.7), ${(100 * shareInRays(sharedMade.prepared)).toFixed(0)} % of it in rays · maps and judge ${finishing.toFixed(1)}`,
  );

  const clock = () => performance.now() / 1000;
  const composed = [1, 2, 3]
    .map(() => composeAsset(document, laid.parts, made.files, 1024, clock))
    .sort((a, b) => a.figures.seconds - b.figures.seconds)[1];
  line('composing its set, 1024² (wanted ≤ 3 s)', composed.figures.seconds, 'one thread, textures written');
  const small = prepareSurface(groundInput(document, laid.parts, made.files, 256));
  const looks = Array.from({ length: 9 }, () => timed(() => composePrepared(small, usedMaterials(document)))[1]);
  line('a slider’s answer at 256² (wanted ≤ 0.15 s)', median(looks));
  const [solved, solving] = timed(() => solveStage(document, laid.parts));
  line('light and shot solved', solving);
  const [scene, building] = timed(() => stageScene(document, laid.parts, { ...composed.files, normal: made.files.glbNormal }, solved));
  line('its scene built', building);
  const p = benchPicture(scene);
  console.log(
    `path tracing the lantern at 256², one thread: ${Math.round(p.own).toLocaleString('en')} samples/s, ${p.raysPerSample.toFixed(1)} rays each; ${Math.round(p.own * loop).toLocaleString('en')} samples in the time of the calibration loop; own rays / same integrator on three-mesh-bvh = ${p.ratio.toFixed(2)} ×, pictures ${(100 * p.apart).toFixed(2)} % apart`,
  );

  for (const { triangles, whole, parts } of benchInspect())
    line(
      `inspection of an import of ${triangles} triangles`,
      whole,
      Object.entries(parts)
        .map(([what, s]) => `${what} ${s.toFixed(2)}`)
        .join(' · '),
    );

  const files = await benchFiles();
  line('a million triangles brought down to 20 000 (wanted ≤ 25 s)', files.simplify);
  line(`${files.cases} damaged files read or refused`, files.damaged);
  await atlasTable();
}
