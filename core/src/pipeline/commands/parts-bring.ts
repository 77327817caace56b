import { ArrayMaxSize, Equals, IsArray, IsDefined } from 'class-validator';
import { InputError } from '../../errors';
import type { Group, Material, Part, Source } from '../document';
import { blobsOfPart, texturesOf } from '../stored';
import { Maybe } from './checks';
import { type CommandKind, withOne } from './command';

class PartsBring {
  @Equals('parts.bring') type!: 'parts.bring';
  /** With ids that are nobody’s yet. */
  @IsArray() @ArrayMaxSize(10_000) parts!: Part[];
  /** Those the parts name. */
  @IsArray() @ArrayMaxSize(10_000) materials!: Material[];
  /** The file they came in. */
  @IsDefined() source!: Source;
  /** The group they are, where they are several. */
  @Maybe() group?: Group;
}

/** The first of a name, “name 2”, “name 3” … that nobody has yet; it is then taken. */
export function free(name: string, taken: Set<string>): string {
  let own = name;
  for (let n = 2; taken.has(own); n++) own = `${name} ${n}`;
  taken.add(own);
  return own;
}

export const partsBring: CommandKind<PartsBring> = {
  type: 'parts.bring',
  shape: PartsBring,
  byServer: true,
  blobs: ({ parts, materials, source }) => [
    ...parts.flatMap(blobsOfPart),
    ...materials.flatMap(texturesOf),
    ...(source.textures ?? []).map((t) => t.blob),
  ],
  apply(d, { parts, materials, source, group }) {
    const ids = new Set([...d.parts, ...d.materials].map((x) => x.id));
    if ([...parts, ...materials].some((x) => ids.has(x.id)))
      throw new InputError('command/id', 'A part or a material with that id is there already.');
    const [partNames, materialNames] = [new Set(d.parts.map((p) => p.name)), new Set(d.materials.map((m) => m.name))];
    d.materials.push(...materials.map((m) => ({ ...m, name: free(m.name, materialNames) })));
    d.parts.push(...parts.map((p) => ({ ...p, name: free(p.name, partNames) })));
    if (group) d.groups = withOne(d.groups, group);
    d.sources = [...d.sources.filter((s) => s.fileName !== source.fileName), source];
  },
  words: ({ parts, source }) => `brought ${parts.length === 1 ? parts[0].name : `${parts.length} parts`} in from ${source.fileName}`,
  touches: ({ parts, materials }) => [...parts.map((p) => `part/${p.id}`), ...materials.map((m) => `material/${m.id}`)],
};
