import { assetThumbnail, cardPictures } from '../drawing/asset';
import { layoutPng, layoutSvg } from '../drawing/layout';
import { FormError } from '../errors';
import { hashBytes } from '../hash';
import type { Kit } from '../kit';
import { checkpoint, QUIET, type Task } from '../task';
import { aboutParts, bakeFiles, bakeSettings } from './bake';
import { bake } from './bake-finish';
import { encodeParts } from './bundle';
import { type AssetDocument, canBake } from './document';
import { formAsset, type LoadMesh, type PartMesh } from './form';
import { formAndInspect } from './forming';
import { unlabelled } from './labels';
import { lookClosely } from './look';
import { MeshCache } from './mesh-cache';
import { openPrints } from './printed';
import { drawPicture } from './render';
import { drawnWithMaps, inputsOf, type Kept, nameOf, type Stage, type StoredResult, usedMaterials } from './results';
import { composeAsset, type SurfaceFiles } from './surface';
import { unwrap, unwrapSettings } from './unwrap';

/** A file that a result refers to by the hash of its bytes. */
export interface ResultFile {
  bytes: Uint8Array;
  kind: 'parts' | 'png' | 'svg' | 'exr';
}
/** Everything that was made of an asset. */
export interface Whole {
  /** In the order they were made. */
  results: (StoredResult & { /** What making it took. */ milliseconds: number })[];
  files: Map<string, ResultFile>;
  /** The picture for cards, PNG. */
  thumbnail: Uint8Array;
}

/**
 * Everything an asset's stages make, one after the other on this thread: the same names and the same bytes as when each is asked for by
 * itself.
 *
 * @param until the last stage that is made; what the asset does without is left out
 * @param clock gives seconds @param read gives bytes of stored artwork
 * @throws StageError when a stage has nothing to work on; FormError when a library that a step needs was not loaded: what comes of it is
 * not what its name says
 */
export async function makeWhole(
  document: AssetDocument,
  load: LoadMesh,
  kit: Kit,
  until: Stage,
  clock: () => number,
  task: Task = QUIET,
  read: (blob: string) => Uint8Array | undefined = () => undefined,
): Promise<Whole> {
  const files = new Map<string, ResultFile>();
  const results: Whole['results'] = [];
  let since = clock();
  const keep = (stage: Kept, figures: unknown, made: Record<string, ResultFile | undefined> = {}) => {
    const blobs: Record<string, string> = {};
    for (const [key, file] of Object.entries(made))
      if (file) {
        blobs[key] = hashBytes(file.bytes);
        files.set(blobs[key], file);
      }
    const inputs = inputsOf(document, stage).map((kind) => kind && nameOf(document, kind));
    results.push({ name: nameOf(document, stage), stage, inputs, figures, blobs, milliseconds: Math.round(1000 * (clock() - since)) });
    since = clock();
  };
  const png = (bytes: Uint8Array | null | undefined): ResultFile | undefined => (bytes ? { bytes, kind: 'png' } : undefined);
  const bare = unlabelled(document);
  const memory = new MeshCache();

  task.progress(0, 'forming');
  const formed = formAndInspect(document, load, memory, kit, task);
  if (!formed.whole) throw new FormError('kit/missing', 'A library that a step of this piece needs was not loaded.');
  const { parts, aids } = formed.result;
  keep('form', formed.figures, {
    parts: { bytes: formed.parts, kind: 'parts' },
    aids: aids.length > 0 ? { bytes: formed.aids, kind: 'parts' } : undefined,
  });
  keep('findings', formed.found);
  const pictures = await cardPictures(document, parts, { kit, read });
  const whole = { results, files, thumbnail: assetThumbnail(document, parts, pictures) };
  if (until === 'form') return whole;
  since = clock();
  keep('look', lookClosely(bare, formed.result, memory, task));

  checkpoint(task);
  task.progress(0.1, 'unwrapping');
  const laid = unwrap(parts, unwrapSettings(bare), task);
  const size = document.brief.limits.textureSize;
  keep('unwrap', laid.figures, {
    parts: { bytes: encodeParts(laid.parts), kind: 'parts' },
    png: png(layoutPng(laid.parts, size)),
    svg: { bytes: new TextEncoder().encode(layoutSvg(laid.parts, size)), kind: 'svg' },
  });
  if (until === 'unwrap') return whole;

  checkpoint(task);
  task.progress(0.2, 'baking');
  let maps: { occlusion?: Uint8Array; curvature?: Uint8Array; normal?: Uint8Array } = {};
  if (canBake(document)) {
    const high: PartMesh[] = formAsset(bare, 'high', load, memory, kit).parts;
    const { figures, files: made } = await bake(laid.parts, high, aboutParts(bare), bakeSettings(bare), clock, task);
    keep('bake', figures, bakeFiles(made));
    maps = { occlusion: made.occlusion, curvature: made.curvature, normal: made.glbNormal };
  }
  if (until === 'bake') return whole;

  checkpoint(task);
  task.progress(0.6, 'composing');
  let set: Pick<Partial<SurfaceFiles>, 'baseColour' | 'orm' | 'normal' | 'coat' | 'clear'> = {};
  if (usedMaterials(document).length > 0) {
    const printed = await openPrints(bare, laid.parts, size, { kit, read });
    const { figures, files: made } = composeAsset(bare, laid.parts, maps, size, clock, task, printed);
    keep('surface', figures, {
      baseColour: png(made.baseColour),
      orm: png(made.orm),
      emissive: png(made.emissive),
      coat: png(made.coat),
      clear: png(made.clear),
      normal: png(made.normal),
      validity: png(made.validity),
    });
    set = made;
  }
  if (until === 'surface') return whole;

  checkpoint(task);
  task.progress(0.7, 'drawing');
  const withMaps = drawnWithMaps(document);
  const drawn = withMaps ? laid.parts : parts;
  const { png: picture, figures } = await drawPicture(
    bare,
    drawn,
    withMaps ? { ...set, normal: set.normal ?? maps.normal } : {},
    clock,
    task,
  );
  keep('render', figures, { png: png(picture) });
  return whole;
}
