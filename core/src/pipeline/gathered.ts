import type { CamePicture } from '../io/glb-came';
import { secondAsFirst } from '../uv/second';
import { type AssetDocument, usedMaterials } from './document';
import { exportGlb, exportOptions } from './export';
import type { PartMesh } from './form';
import { drawnTogether, GATHERED, GATHERED_CHANNELS, type GatheredMap, gatheredMaterials, type SetFigures } from './gather-figures';

/** A gathered set as it goes along with a piece. */
export interface GatheredSet<F extends SetFigures = SetFigures> {
  figures: F;
  files: Partial<Record<GatheredMap, Uint8Array>>;
}

/** The pictures of a set by the names that {@link asGathered} gives them here. */
export const picturesOfSet = ({ files }: GatheredSet, base: string): Map<string, CamePicture> =>
  new Map(
    GATHERED.flatMap((map) => {
      const bytes = files[map];
      return bytes ? [[map, { name: `${base}_${GATHERED_CHANNELS[map].channel}`, mime: 'image/png', bytes }] as const] : [];
    }),
  );

/** A gathered piece as a GLB. */
export function gatheredGlb(document: AssetDocument, laid: readonly PartMesh[], set: GatheredSet, base: string): Promise<Uint8Array> {
  const made = asGathered(document, laid, set.figures, (map) => (set.files[map] ? map : undefined));
  const options = exportOptions(made.document, { pictures: picturesOfSet(set, base) });
  return exportGlb(made.parts, { ...options, together: drawnTogether(document, set.figures) });
}

/** A piece as it is handed over gathered: the materials of the set in place of its own, and the layout drawn to as the first. */
export function asGathered(
  document: AssetDocument,
  laid: readonly PartMesh[],
  f: SetFigures,
  name: (map: GatheredMap) => string | undefined,
): { document: AssetDocument; parts: PartMesh[] } {
  const made = gatheredMaterials(f, name);
  const group = new Map(f.parts.map((p) => [p.id, p.group === 'clear' ? 'gathered-clear' : 'gathered']));
  // A second layout of our own stays beside the first.
  const spent = f.to === 'first' && document.unwrap.second?.on ? /^(uv[34]|colour)$/ : /^(uv[2-4]|island2|colour)$/;
  return {
    document: {
      ...document,
      materials: [...made, ...usedMaterials(document).filter((m) => document.parts.some((p) => p.material === m.id && !group.has(p.id)))],
      parts: document.parts.map((p) => ({ ...p, material: group.get(p.id) ?? p.material })),
      unwrap: { ...document.unwrap, filed: 'kept' },
    },
    parts: laid.map((p) => {
      if (!group.has(p.id)) return p;
      const { mesh } = f.to === 'second' ? secondAsFirst(p) : p;
      // Nothing of the old layouts goes along: whoever reads the file can’t take one for another.
      return { ...p, mesh: { ...mesh, attributes: mesh.attributes.filter((a) => !spent.test(a.name)) } };
    }),
  };
}
