import type { IdStray } from '../bake/ids';
import { InputError } from '../errors';
import { patchIndex, placesOf } from '../form/places';
import type { Region } from '../form/regions';
import type { Command } from './commands';
import type { AssetDocument } from './document';
import type { PartMesh } from './form';

/**
 * The changes that give faces which went astray to what lies round them: taken out of the region they are in, put into the one they
 * lie in.
 *
 * @param parts as they were when the strays were found
 * @throws InputError `id/gone` when the part or a region is gone
 */
export function givenBack(document: AssetDocument, parts: readonly PartMesh[], strays: readonly IdStray[]): Command[] {
  const changed = new Map<string, { part: string; region: Region }>();
  for (const s of strays) {
    const mesh = parts.find((p) => p.id === s.part)?.mesh;
    const part = document.parts.find((p) => p.id === s.part);
    if (!mesh || !part) throw new InputError('id/gone', 'The part that these faces were found on is not there any more.');
    const places = placesOf(mesh, patchIndex(mesh), s.faces);
    const put = (at: number, how: 'add' | 'remove') => {
      if (at === 0) return;
      const region = part.regions?.[at - 1];
      if (!region) throw new InputError('id/gone', `A region of “${part.name}” is not there any more.`);
      const key = `${part.id}/${region.id}`;
      const now = changed.get(key)?.region ?? region;
      const rule: Region['rules'][number] = { id: ruleId(now), how, rule: { kind: 'picked', places } };
      changed.set(key, { part: part.id, region: { ...now, rules: [...now.rules, rule] } });
    };
    put(s.from, 'remove');
    put(s.to, 'add');
  }
  return [...changed.values()].map(({ part, region }) => ({ type: 'region.set', part, region }));
}

/** An id that no rule of the region has. */
function ruleId(region: Region): string {
  let n = region.rules.length + 1;
  while (region.rules.some((r) => r.id === `given-${n}`)) n++;
  return `given-${n}`;
}
