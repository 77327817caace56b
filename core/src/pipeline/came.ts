import type { CamePicture } from '../io/glb-came';
import { picturesIn, type Texturing } from '../surface/texturing';
import { type AssetDocument, type Material, usedMaterials } from './document';

/** Whether layouts that files brought are still the ones the parts have. */
export const keepsLayouts = ({ unwrap }: Pick<AssetDocument, 'unwrap'>): boolean => unwrap.filed === 'kept';

/** Materials that parts have and that are still textured as they came: their pictures fit the layouts there are. */
export const cameMaterials = (document: AssetDocument): (Material & { texturing: Texturing })[] =>
  keepsLayouts(document) ? usedMaterials(document).filter((m): m is Material & { texturing: Texturing } => m.texturing !== undefined) : [];

/** Whether all that parts are made of is still textured as it came: there is nothing to compose. */
export const isAllCame = (document: AssetDocument): boolean => {
  const came = cameMaterials(document).length;
  return came > 0 && came === usedMaterials(document).length;
};

/** Pictures that came with files, are in use and fit the layouts there are, by blob. @param bytes of a blob */
export const picturesOfCame = (document: AssetDocument, bytes: BytesOf): Promise<Map<string, CamePicture>> =>
  keepsLayouts(document) ? picturesOf(document, bytes) : Promise.resolve(new Map());

type BytesOf = (blob: string) => Promise<Uint8Array> | Uint8Array;

/** Pictures that came with files and that materials of parts have, whatever layouts there are, by blob. */
export async function picturesOf(document: AssetDocument, bytes: BytesOf): Promise<Map<string, CamePicture>> {
  const out = new Map<string, CamePicture>();
  for (const blob of new Set(usedMaterials(document).flatMap((m) => (m.texturing ? picturesIn(m.texturing) : [])))) {
    const known = document.sources.flatMap((s) => s.textures ?? []).find((t) => t.blob === blob);
    out.set(blob, { name: known?.name ?? 'texture', mime: known?.mime ?? 'image/png', bytes: await bytes(blob) });
  }
  return out;
}
