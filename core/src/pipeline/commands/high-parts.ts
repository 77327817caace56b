import { Equals, IsArray } from 'class-validator';
import type { AssetDocument, Part, Source } from '../document';
import { Maybe } from './checks';
import { type CommandKind, partIn } from './command';

class HighParts {
  @Equals('high.parts') type!: 'high.parts';
  @IsArray() parts!: AssetDocument['highParts'];
  @IsArray() pairs!: { part: string; high: NonNullable<Part['high']> }[];
  /** Where the file came from, and under which licence. */
  @Maybe() source?: Source;
}

export const highParts: CommandKind<HighParts> = {
  type: 'high.parts',
  shape: HighParts,
  byServer: true,
  blobs: ({ parts, pairs }) => [...parts.map((p) => p.blob), ...pairs.map((p) => p.high.blob)],
  apply(d, { parts, pairs, source }) {
    d.highParts = parts;
    for (const { part, high } of pairs) partIn(d, part).high = high;
    if (source) d.sources = [...d.sources.filter((s) => s.fileName !== source.fileName), source];
  },
  words: ({ parts, pairs }) => `brought ${parts.length} high meshes, ${pairs.length} paired`,
  touches: ({ pairs }) => ['high', ...pairs.map((p) => `part/${p.part}/high`)],
};
