import { Type } from 'class-transformer';
import { Equals, IsBoolean, IsDefined, IsIn, IsObject, IsString, Length, ValidateNested } from 'class-validator';
import { InputError } from '../../errors';
import { checkSpot } from '../../form/places';
import { artworkFault } from '../../print/check';
import { type Artwork, MOST_PRINTS, PRINT_MM, type Print } from '../../print/print';
import { BLENDS, type BlendMode } from '../../surface/blend';
import { MOST_RELIEF } from '../../surface/layers/layer';
import { Between, CheckedBy, FAR, IsId, IsNumbers, IsShare, Maybe } from './checks';
import { type CommandKind, partIn, partName, withOne } from './command';

/** @throws InputError with what is wrong with an artwork */
function checkArtwork(x: unknown): void {
  const fault = artworkFault(x);
  if (fault) throw new InputError('print/artwork', `What can’t be used of its artwork: ${fault}.`);
}

class AtShape {
  @IsNumbers(3, -FAR, FAR) point!: [number, number, number];
  @IsNumbers(3, -1.01, 1.01) normal!: [number, number, number];
  @Maybe() @CheckedBy((x) => checkSpot(x, 'a print')) spot?: { patch: string; u: number; v: number };
}
class OffsetShape {
  @IsIn(['put', 'low', 'high', 'middle']) from!: 'put' | 'low' | 'high' | 'middle';
  @Between(-FAR, FAR) mm!: number;
}
class InkShape {
  @IsShare() opacity!: number;
  @IsIn(Object.keys(BLENDS)) blend!: BlendMode;
  @Maybe() @IsShare() roughness?: number;
  @Maybe() @IsShare() metallic?: number;
  @Maybe() @IsShare() coat?: number;
  @Maybe() @Between(-MOST_RELIEF, MOST_RELIEF) relief?: number;
}

/** A print as a request may hold it. */
export class PrintShape implements Print {
  @IsId() id!: string;
  @IsString() @Length(1, 80) name!: string;
  @IsBoolean() on!: boolean;
  @IsId() part!: string;
  @IsDefined() @IsObject() @CheckedBy(checkArtwork) artwork!: Artwork;
  @Between(PRINT_MM.min, PRINT_MM.max) width!: number;
  @Between(PRINT_MM.min, PRINT_MM.max) height!: number;
  @IsDefined() @ValidateNested() @Type(() => AtShape) at!: AtShape;
  @IsDefined() @ValidateNested() @Type(() => OffsetShape) across!: OffsetShape;
  @IsDefined() @ValidateNested() @Type(() => OffsetShape) up!: OffsetShape;
  @Between(-360, 360) turn!: number;
  @Maybe() @IsBoolean() mirrored?: boolean;
  @Maybe() @IsId() region?: string;
  @IsDefined() @ValidateNested() @Type(() => InkShape) ink!: InkShape;
  @Maybe() @Between(0.05, 1000) smallest?: number;
  @Maybe() @Between(0, 100) keepClear?: number;
}

class PrintSet {
  @Equals('print.set') type!: 'print.set';
  @IsDefined() @ValidateNested() @Type(() => PrintShape) print!: Print;
}

/** The blob an artwork refers to. */
export const blobsOfArtwork = (artwork: Artwork): string[] => (artwork.kind === 'picture' ? [artwork.blob] : []);

export const printSet: CommandKind<PrintSet> = {
  type: 'print.set',
  shape: PrintSet,
  blobs: ({ print }) => blobsOfArtwork(print.artwork),
  apply(d, { print }) {
    partIn(d, print.part);
    const prints = withOne(d.prints, print);
    if (prints.length > MOST_PRINTS) throw new InputError('print/many', `A piece can have up to ${MOST_PRINTS} prints.`);
    d.prints = prints;
  },
  words({ print }, before) {
    const old = before.prints?.find((p) => p.id === print.id);
    if (!old) return `put ${print.name} on ${partName(before, print.part)}`;
    const changed = (key: keyof Print) => JSON.stringify(old[key]) !== JSON.stringify(print[key]);
    if (changed('artwork')) return `changed the artwork of ${print.name}`;
    if (changed('on')) return `switched ${print.name} ${print.on ? 'on' : 'off'}`;
    if (changed('name')) return `called ${old.name} ${print.name}`;
    if ((['at', 'across', 'up', 'turn', 'part', 'mirrored'] as const).some(changed)) return `moved ${print.name}`;
    if (changed('width') || changed('height')) return `changed the size of ${print.name}`;
    if (changed('ink')) return `changed the ink of ${print.name}`;
    return `changed ${print.name}`;
  },
  touches: ({ print }) => [`print/${print.id}`],
};
