import { drawnOn, noticeBox, TAKEN } from '@wellmorph/demo/notice-box';
import type { SourcePicture } from '../src/gather/picture';
import { projectAll } from '../src/photo/project/projector';
import type { AssetDocument } from '../src/pipeline/document';
import { formAsset } from '../src/pipeline/form';
import { finishProject, prepareProjectOf } from '../src/pipeline/project';
import { unwrap, unwrapSettings } from '../src/pipeline/unwrap';
import { laps } from './laps';

/** Sides of a photograph of 48 megapixels, and how many times as large it is as the demo’s. */
const [WIDTH, HEIGHT, TIMES] = [8000, 6000, 10 / 3];

/** A photograph of 48 megapixels laid on a box, 2048², on this thread; unpacked already. */
export function photoTable(): void {
  const drawn = drawnOn(TAKEN[0], 'unpacked');
  const larger = (p: readonly [number, number]): [number, number] => [TIMES * p[0], TIMES * p[1]];
  const photo = {
    ...drawn,
    widthPx: WIDTH,
    heightPx: HEIGHT,
    lens: {},
    // It goes on below the demo’s: the lens looks elsewhere than at its middle.
    cropped: true,
    edges: drawn.edges.map((e) => ({ ...e, points: e.points.map(larger) })),
    pins: drawn.pins.map((p) => ({ ...p, at: larger(p.at) })),
  };
  const document: AssetDocument = { ...noticeBox([photo]), project: { size: 2048 } };
  const none = () => {
    throw new Error('The notice box needs no stored mesh.');
  };
  const laid = unwrap(formAsset(document, 'low', none).parts, unwrapSettings(document)).parts;
  const data = Uint8Array.from({ length: 3 * WIDTH * HEIGHT }, (_, i) => (i * 7) & 255);
  const picture: SourcePicture = { width: WIDTH, height: HEIGHT, channels: 3, data };
  const { timed, whole: wholeOf, words } = laps();
  const prepared = timed('camera and smaller levels', () => prepareProjectOf(document, laid, new Map([[photo.id, picture]])));
  const { projected, counts } = timed('drawing', () => projectAll(prepared.job));
  const { figures } = timed('measuring and writing', () => finishProject(document, prepared, projected, counts, 0));
  const whole = wholeOf();
  console.log(
    `a photograph of 48 megapixels laid on at 2048²: ${whole.toFixed(1)} s on one thread (${words()}), ${(figures.samples / 1e6).toFixed(1)} M places (wanted ≤ 15 s in the browser, unpacking included)`,
  );
}
