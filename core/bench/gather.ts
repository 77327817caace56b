import { briefFor } from '../src/brief/brief';
import { MOST_SAMPLES } from '../src/gather/bands';
import { gatherAll } from '../src/gather/gather';
import { hashBytes } from '../src/hash';
import { IDENTITY } from '../src/maths/mat4';
import { type PolyMesh, triangleCount, withAttribute } from '../src/mesh/polymesh';
import { type AssetDocument, gatherOf, newDocument } from '../src/pipeline/document';
import type { PartMesh } from '../src/pipeline/form';
import { finishGather, prepareGatherOf } from '../src/pipeline/gather';
import { unwrap, unwrapSettings } from '../src/pipeline/unwrap';
import { fromLibrary } from '../src/surface/library';
import { PLAIN_TEXTURING, type TextureUse } from '../src/surface/texturing';
import { part } from '../test/assets';
import { torusMesh } from '../test/shapes';
import { bumps, finish, painted, patchwork } from '../test/textured';
import { laps } from './laps';

/** A ring of 20 000 triangles, its picture once round it each way; in four pieces of the tile so that it can be packed. */
function ring(): PolyMesh {
  const [n, m] = [200, 50];
  const mesh = torusMesh(60, 22, n, m);
  const uv = new Float64Array(2 * mesh.faceVert.length);
  for (let f = 0; f < n * m; f++) {
    const [i, j] = [Math.floor(f / m), f % m];
    for (const [k, [a, b]] of [
      [i, j],
      [i + 1, j],
      [i + 1, j + 1],
      [i, j + 1],
    ].entries())
      uv.set([a / n, b / m], 2 * (4 * f + k));
  }
  return withAttribute(mesh, { name: 'uv', domain: 'corner', size: 2, data: uv });
}

/** Ten textured models of 20 000 triangles, six channels each, gathered on one set of 2048², on this thread. */
export function gatherTable(): void {
  const side = 1024;
  const made = [patchwork(side), finish(side), bumps(side), painted(side, 3, (x) => [x, x, x]), painted(side, 3, (x, y) => [x, y, 0])];
  const pictures = new Map(made.map((bytes) => [hashBytes(bytes), { name: 'picture', mime: 'image/png', bytes }]));
  const [colour, orm, normal, shade, glow] = [...pictures.keys()];
  const uses: TextureUse[] = [
    { picture: colour, slot: 'baseColour', layout: 0 },
    { picture: orm, slot: 'roughness', layout: 0, channel: 1 },
    { picture: orm, slot: 'metallic', layout: 0, channel: 2 },
    { picture: normal, slot: 'normal', layout: 0 },
    { picture: shade, slot: 'occlusion', layout: 0, channel: 0 },
    { picture: glow, slot: 'emission', layout: 0 },
  ];
  const mesh = ring();
  const formed = Array.from({ length: 10 }, (_, i): PartMesh => ({ id: `p${i}`, name: `ring ${i}`, mesh, placements: [IDENTITY] }));
  const document: AssetDocument = {
    ...newDocument('Rings', briefFor('game')),
    materials: [{ ...fromLibrary('enamel', 'm'), texturing: { ...PLAIN_TEXTURING, uses, emission: [1, 1, 1] } }],
    parts: formed.map(({ id }) => part(id, [], { material: 'm' })),
  };
  document.unwrap = { ...document.unwrap, filed: 'kept', second: { on: true, size: 2048, padding: 8 } };
  document.gather = { ...gatherOf(document), size: 2048 };
  const laid = unwrap(formed, unwrapSettings(document)).parts;
  const { timed, times, whole: wholeOf, words } = laps();
  const prepared = timed('unpacking and frames', () => prepareGatherOf(document, formed, laid, pictures, {}));
  const { gathered, counts } = timed('drawing', () => gatherAll(prepared.job));
  const { figures } = timed('comparing and writing', () => finishGather(document, prepared, gathered, counts, 0));
  const whole = wholeOf();
  const [, drawing] = times[1];
  console.log(
    `ten models of ${triangleCount(mesh)} triangles, six channels to 2048²: ${whole.toFixed(1)} s on one thread, about ${(whole - drawing / 2).toFixed(1)} s on two (wanted ≤ 40 s): ${words()}; ${(counts.samples / 1e6).toFixed(1)} M places, at most ${MOST_SAMPLES}² a texel; mean colour ${figures.comparison.meanColourOff.toFixed(2)} of 255 off, normals ${figures.comparison.channels.normal?.p95.toFixed(2)}° in 95 of 100 places`,
  );
}
