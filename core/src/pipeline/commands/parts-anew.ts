import { ArrayMaxSize, Equals, IsArray, IsDefined, IsString } from 'class-validator';
import { InputError } from '../../errors';
import type { Texturing } from '../../surface/texturing';
import type { Anew } from '../anew';
import type { Material, Part, Source } from '../document';
import { blobsOfPart, texturesOf } from '../stored';
import { Maybe } from './checks';
import { type CommandKind, partIn } from './command';
import { partsBring } from './parts-bring';

class PartsAnew {
  @Equals('parts.anew') type!: 'parts.anew';
  @IsArray() @ArrayMaxSize(10_000) anew!: Anew[];
  /** Parts the newer one has and the piece had not, and the materials they name. */
  @IsArray() @ArrayMaxSize(10_000) parts!: Part[];
  @IsArray() @ArrayMaxSize(10_000) materials!: Material[];
  /** Newer pictures for materials that are still textured as they came. */
  @Maybe() @IsArray() @ArrayMaxSize(10_000) dressed?: { material: string; texturing: Texturing }[];
  /** Parts the newer one has no more. */
  @IsArray() @IsString({ each: true }) gone!: string[];
  @IsDefined() source!: Source;
  /** What of it was taken, for the history: `a newer bracket.step`. */
  @IsString() what!: string;
}

export const partsAnew: CommandKind<PartsAnew> = {
  type: 'parts.anew',
  shape: PartsAnew,
  byServer: true,
  blobs: ({ anew, parts, source, dressed = [] }) => [
    ...dressed.flatMap(texturesOf),
    ...anew.flatMap((a) => [
      a.low.blob,
      ...(a.high ? [a.high.blob] : []),
      ...(a.origin.kind === 'file' && a.origin.exact ? [a.origin.exact.blob] : []),
    ]),
    ...parts.flatMap(blobsOfPart),
    ...(source.textures ?? []).map((t) => t.blob),
  ],
  apply(d, { anew, parts, materials, gone, source, dressed = [] }) {
    for (const { part, low, placements, came, high, origin, regions } of anew) {
      const p = partIn(d, part);
      if (p.shape.kind !== 'mesh') throw new InputError('command/mesh', `“${p.name}” is made by steps; nothing can be put in their place.`);
      p.shape.low = low;
      p.shape.placements = placements;
      if (came) p.shape.came = came;
      else delete p.shape.came;
      if (high) p.high = high;
      p.origin = origin;
      if (regions) p.regions = regions;
    }
    for (const { material, texturing } of dressed) {
      const own = d.materials.find((m) => m.id === material);
      // Pictures that were taken off stay off.
      if (own?.texturing) own.texturing = texturing;
    }
    for (const id of gone) {
      const { origin } = partIn(d, id);
      if (origin) origin.gone = true;
    }
    partsBring.apply(d, { type: 'parts.bring', parts, materials, source });
  },
  words: ({ what }) => `took ${what}`,
  touches: ({ anew, parts, materials, gone, dressed = [] }) => [
    ...dressed.map(({ material }) => `material/${material}/texturing`),
    ...anew.flatMap(({ part }) => ['mesh', 'high', 'origin', 'region'].map((field) => `part/${part}/${field}`)),
    ...gone.map((part) => `part/${part}/origin`),
    ...parts.map((p) => `part/${p.id}`),
    ...materials.map((m) => `material/${m.id}`),
  ],
};
