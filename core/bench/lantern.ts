import { stormLantern } from '../../demo/src/lantern';
import type { AssetDocument } from '../src/pipeline/document';
import { formAsset, type PartMesh } from '../src/pipeline/form';
import { solveAsset } from '../src/pipeline/solve';
import { unwrap, unwrapSettings } from '../src/pipeline/unwrap';

/** The demo’s lantern, solved and laid out, with its dense meshes. */
export function lantern(): { document: AssetDocument; laid: PartMesh[]; dense: PartMesh[] } {
  const none = () => {
    throw new Error('a recipe needs no stored mesh');
  };
  const raw = stormLantern();
  const document = { ...raw, form: { ...raw.form, counts: solveAsset(raw).counts } };
  const laid = unwrap(formAsset(document, 'low', none).parts, unwrapSettings(document)).parts;
  return { document, laid, dense: formAsset(document, 'high', none).parts };
}
