import { InputError } from '../errors';
import type { Layer } from './layers/layer';
import { type Material, materialFrom } from './material';

/** What a file of one material says of itself. */
const KIND = 'wellmorph material';
/** The longest such file that is read, bytes: 24 layers of six fields are some 20 kB. */
const LONGEST = 1e6;

/** A material as a file, JSON: its numbers and layers, without pictures that it came with and without what was painted on one piece. */
export function materialFile({ id: _, texturing: __, derived: ___, ...material }: Material): string {
  return `${JSON.stringify({ kind: KIND, version: 1, material: { ...material, layers: unpainted(material.layers) } }, null, 2)}\n`;
}

/** Whether strokes by hand lie on it. */
export const isPainted = (m: Pick<Material, 'layers'>): boolean =>
  m.layers.some((l) => l.mask.some(({ field: f }) => f.kind === 'strokes' && f.strokes.length > 0));

/** Layers without their strokes: these lie on one piece. */
export const unpainted = (layers: readonly Layer[]): Layer[] =>
  layers.map((l) => ({
    ...l,
    mask: l.mask.map((m) => (m.field.kind === 'strokes' ? { ...m, field: { ...m.field, strokes: [] } } : m)),
  }));

/**
 * A material read from such a file.
 *
 * @param name of the file, for the sentence @throws InputError where it is none, or not whole
 */
export function materialFromFile(name: string, text: string, id: string): Material {
  const none = new InputError('material/file', `“${name}” is no file of a material, or not a whole one.`);
  if (text.length > LONGEST) throw none;
  let read: { kind?: unknown; version?: unknown; material?: unknown } | null;
  try {
    read = JSON.parse(text);
  } catch {
    throw none;
  }
  if (typeof read !== 'object' || read === null || read.kind !== KIND) throw none;
  if (read.version !== 1) throw new InputError('material/newer', `“${name}” was saved by a newer version; it is not read.`);
  const material = materialFrom(read.material);
  if (!material || material.name.length < 1 || material.name.length > 80 || material.source.length < 1 || material.source.length > 300)
    throw none;
  const { colour, metallic, roughness, ior, transmission, coat, coatRoughness, emission, layers, base, source } = material;
  return {
    id,
    name: material.name,
    base,
    source,
    touched: true,
    colour,
    metallic,
    roughness,
    ior,
    transmission,
    coat,
    coatRoughness,
    emission,
    layers,
  };
}
