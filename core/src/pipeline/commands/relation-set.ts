import { Type } from 'class-transformer';
import { Equals, IsDefined, IsIn, ValidateNested } from 'class-validator';
import { InputError } from '../../errors';
import { type Relation, WANTED } from '../document';
import { Between, FAR, IsId } from './checks';
import { type CommandKind, partIn, partName, withOne } from './command';

/** A wanted relation as a request may hold it. */
export class RelationShape implements Relation {
  @IsId() id!: string;
  @IsId() a!: string;
  @IsId() b!: string;
  @IsIn(Object.keys(WANTED)) wanted!: Relation['wanted'];
  @Between(0, FAR) mm!: number;
  @Between(1e-6, 1000) tolerance!: number;
}

class RelationSet {
  @Equals('relation.set') type!: 'relation.set';
  @IsDefined() @ValidateNested() @Type(() => RelationShape) relation!: Relation;
}

export const relationSet: CommandKind<RelationSet> = {
  type: 'relation.set',
  shape: RelationSet,
  apply(d, { relation }) {
    if (relation.a === relation.b) throw new InputError('command/relation', 'A part stands in no relation to itself.');
    partIn(d, relation.a);
    partIn(d, relation.b);
    d.relations = withOne(d.relations, relation);
  },
  words: ({ relation }, before) =>
    `wanted ${WANTED[relation.wanted]} between ${partName(before, relation.a)} and ${partName(before, relation.b)}`,
  touches: ({ relation }) => [`relation/${relation.id}`],
};
