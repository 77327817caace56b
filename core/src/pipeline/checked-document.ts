import { instanceToPlain, Type } from 'class-transformer';
import {
  ArrayMaxSize,
  ArrayMinSize,
  Equals,
  IsArray,
  IsBoolean,
  IsDefined,
  IsIn,
  IsInt,
  IsObject,
  IsString,
  Length,
  MaxLength,
  Min,
  ValidateNested,
} from 'class-validator';
import { briefFor } from '../brief/brief';
import { InputError, WellmorphError } from '../errors';
import type { Counts } from '../form/budget/solve';
import { checkDimension } from '../form/dimensions';
import { checkSeams } from '../form/regions';
import type { Step } from '../form/steps';
import { checkPlacements, type Mat4 } from '../maths/mat4';
import type { Vec3 } from '../maths/vec3';
import { MOST_PRINTS } from '../print/print';
import type { Material } from '../surface/material';
import { checkedAs } from './checked';
import { BakePatch } from './commands/bake-set';
import { BriefPatch, LimitsShape, OverridesShape } from './commands/brief-set';
import { Between, CheckedBy, FAR, IsBlob, IsId, IsNumbers, Maybe, OrNull } from './commands/checks';
import { DimensionShape } from './commands/dimension-set';
import { checkCounts } from './commands/form-counts';
import { GatherPatch } from './commands/gather-set';
import { HandoffPatch } from './commands/handoff-set';
import { MaterialShape } from './commands/material';
import { HighShape, MeshRefShape } from './commands/mesh';
import { checkRegions, checkSteps, PartBase, RecipeShape } from './commands/part-add';
import { PhotoShape } from './commands/photo-set';
import { PrintShape } from './commands/print-set';
import { ProjectPatch } from './commands/project-set';
import { ReferenceShape } from './commands/reference-set';
import { RelationShape } from './commands/relation-set';
import { RenderPatch } from './commands/render-set';
import { RigPatch } from './commands/rig-set';
import { ShotPatch } from './commands/shot-set';
import { SurfacePatch } from './commands/surface-set';
import { UnwrapPatch } from './commands/unwrap-set';
import { WaiverShape } from './commands/waive';
import {
  type AssetDocument,
  type Group,
  newDocument,
  type Part,
  type PartOrigin,
  type Relation,
  type Shape,
  upgradeDocument,
} from './document';
import { asVariant, MOST_VARIANTS, type Variant, variantBetween } from './variants';

/** A whole document as a file brings it: every part of it by the shape that its own commands have. */
class WholeBrief extends BriefPatch {
  @IsNumbers(3, 0.01, FAR) declare sizeMm: [number, number, number];
  @Between(1, 1e6) declare closestMm: number;
  @IsDefined() @ValidateNested() @Type(() => LimitsShape) declare limits: LimitsShape;
  @IsDefined() @ValidateNested() @Type(() => OverridesShape) declare overrides: OverridesShape;
}

class MeshShape {
  @Equals('mesh') kind!: 'mesh';
  @IsDefined() @ValidateNested() @Type(() => MeshRefShape) low!: MeshRefShape;
  @IsArray() @ArrayMinSize(1) @ArrayMaxSize(10_000) @CheckedBy(checkPlacements) placements!: Mat4[];
  @Maybe() @IsArray() @CheckedBy((came: unknown) => checkPlacements([came])) came?: Mat4;
  @Maybe() @IsArray() @ArrayMaxSize(200) @CheckedBy(checkSteps) steps?: Step[];
}
/** Which of the three a shape is, said by its kind. */
function checkShape(shape: unknown): void {
  const kind = (shape as { kind?: unknown } | null)?.kind;
  checkedAs<object>(
    shape,
    kind === 'mesh' ? MeshShape : kind === 'copy' ? CopyShape : RecipeShape,
    (said) => new InputError('asset/shape', said),
  );
}
class CopyShape {
  @Equals('copy') kind!: 'copy';
  @IsString() @Length(1, 60) of!: string;
  @OrNull() @IsIn(['x', 'y', 'z']) mirror!: 'x' | 'y' | 'z' | null;
}
class GroupShape implements Group {
  @IsString() @Length(1, 60) id!: string;
  @IsString() @Length(1, 80) name!: string;
}
class WholePart extends PartBase {
  @IsObject() @CheckedBy(checkShape) shape!: Shape;
  @Maybe() @ValidateNested() @Type(() => HighShape) high?: NonNullable<Part['high']>;
  @Maybe() @IsObject() @CheckedBy(checkOrigin) origin?: PartOrigin;
  @Maybe() @IsString() @Length(1, 60) group?: string;
}
class ExactShape {
  @IsBlob() blob!: string;
  @Between(1e-3, 1e3) toleranceMm!: number;
  @IsIn(['y', 'z']) up!: 'y' | 'z';
}
class FileOrigin {
  @Equals('file') kind!: 'file';
  @IsString() @MaxLength(300) fileName!: string;
  @IsString() @MaxLength(300) name!: string;
  @Maybe() @ValidateNested() @Type(() => ExactShape) exact?: ExactShape;
  @Maybe() @IsBoolean() gone?: boolean;
}
class PieceOrigin {
  @Equals('piece') kind!: 'piece';
  @IsString() @MaxLength(60) asset!: string;
  @IsString() @MaxLength(200) piece!: string;
  @IsString() @MaxLength(60) part!: string;
  @IsString() @MaxLength(100) state!: string;
  @IsBoolean() frozen!: boolean;
  @Maybe() @IsBoolean() gone?: boolean;
}
/** Which of the two an origin is, said by its kind. */
function checkOrigin(origin: unknown): PartOrigin {
  const isPiece = (origin as { kind?: unknown } | null)?.kind === 'piece';
  return checkedAs<FileOrigin | PieceOrigin>(
    origin,
    isPiece ? PieceOrigin : FileOrigin,
    (said) => new InputError('asset/origin', said),
  ) as PartOrigin;
}
class TextureShape {
  @IsString() @MaxLength(200) name!: string;
  @IsString() @MaxLength(100) mime!: string;
  @IsBlob() blob!: string;
  @Maybe() @IsInt() @Min(1) width?: number;
  @Maybe() @IsInt() @Min(1) height?: number;
}
class SourceShape {
  @IsString() @MaxLength(300) fileName!: string;
  @IsString() @MaxLength(300) licence!: string;
  @IsString() @MaxLength(5000) note!: string;
  @Maybe() @IsArray() @ArrayMaxSize(1000) @ValidateNested({ each: true }) @Type(() => TextureShape) textures?: TextureShape[];
}
class FormShape {
  @IsObject() @CheckedBy(checkCounts) counts!: Counts;
  @IsObject() @CheckedBy(checkCounts) locks!: Counts;
  @Between(1e-5, 1e3) highToleranceMm!: number;
  @Maybe() @IsObject() @CheckedBy(checkShares) shares?: Record<string, number>;
  @Maybe() @IsArray() @ArrayMaxSize(5000) @IsString({ each: true, message: 'ties are lists of counts' }) ties?: string[][];
}
function checkShares(shares: unknown): void {
  if (typeof shares !== 'object' || Object.values(shares ?? {}).some((n) => !Number.isInteger(n) || n < 1 || n > 1e8))
    throw new InputError('asset/shares', 'shares are whole numbers of triangles.');
}
class HighPartShape extends MeshRefShape {
  @IsString() @Length(1, 120) name!: string;
  @IsNumbers(3, -1e8, 1e8) centre!: Vec3;
}

class DocumentShape {
  @Equals(2) schema!: 2;
  @IsString() @Length(1, 200) name!: string;
  @IsDefined() @ValidateNested() @Type(() => WholeBrief) brief!: WholeBrief;
  @IsArray() @ArrayMaxSize(2000) @ValidateNested({ each: true }) @Type(() => MaterialShape) materials!: Material[];
  @IsArray() @ArrayMaxSize(20_000) @ValidateNested({ each: true }) @Type(() => WholePart) parts!: Part[];
  @Maybe() @IsArray() @ArrayMaxSize(2000) @ValidateNested({ each: true }) @Type(() => GroupShape) groups?: GroupShape[];
  @IsArray() @ArrayMaxSize(2000) @ValidateNested({ each: true }) @Type(() => DimensionShape) dimensions!: DimensionShape[];
  @IsArray() @ArrayMaxSize(50) @ValidateNested({ each: true }) @Type(() => ReferenceShape) references!: ReferenceShape[];
  @Maybe() @IsArray() @ArrayMaxSize(5000) @ValidateNested({ each: true }) @Type(() => RelationShape) relations?: Relation[];
  @IsArray() @ArrayMaxSize(1000) @ValidateNested({ each: true }) @Type(() => SourceShape) sources!: SourceShape[];
  @IsDefined() @ValidateNested() @Type(() => FormShape) form!: FormShape;
  @IsDefined() @ValidateNested() @Type(() => UnwrapPatch) unwrap!: UnwrapPatch;
  @IsDefined() @ValidateNested() @Type(() => BakePatch) bake!: BakePatch;
  @Maybe() @ValidateNested() @Type(() => GatherPatch) gather?: GatherPatch;
  @Maybe() @IsArray() @ArrayMaxSize(50) @ValidateNested({ each: true }) @Type(() => PhotoShape) photos?: PhotoShape[];
  @Maybe() @ValidateNested() @Type(() => ProjectPatch) project?: ProjectPatch;
  @IsDefined() @ValidateNested() @Type(() => SurfacePatch) surface!: SurfacePatch;
  @Maybe() @IsArray() @ArrayMaxSize(MOST_PRINTS) @ValidateNested({ each: true }) @Type(() => PrintShape) prints?: PrintShape[];
  @IsDefined() @ValidateNested() @Type(() => RigPatch) rig!: RigPatch;
  @IsDefined() @ValidateNested() @Type(() => ShotPatch) shot!: ShotPatch;
  @IsDefined() @ValidateNested() @Type(() => RenderPatch) render!: RenderPatch;
  @IsDefined() @ValidateNested() @Type(() => HandoffPatch) handoff!: HandoffPatch;
  @IsArray() @ArrayMaxSize(20_000) @ValidateNested({ each: true }) @Type(() => WaiverShape) waivers!: WaiverShape[];
  @IsArray() @ArrayMaxSize(20_000) @ValidateNested({ each: true }) @Type(() => HighPartShape) highParts!: HighPartShape[];
}

/** What variants are otherwise in, as the piece itself has it. */
class LookShape {
  @IsArray() @ArrayMaxSize(2000) @ValidateNested({ each: true }) @Type(() => MaterialShape) materials!: Material[];
  @Maybe() @IsArray() @ArrayMaxSize(MOST_PRINTS) @ValidateNested({ each: true }) @Type(() => PrintShape) prints?: PrintShape[];
}
class VariantShape {
  @IsId() id!: string;
  @IsString() @Length(1, 80) name!: string;
}

/** Variants of a document that is checked itself: each is looked at as the piece it makes, and kept as how that differs. */
function checkVariants(piece: AssetDocument, variants: unknown, said: (sentence: string) => InputError): Variant[] {
  if (!Array.isArray(variants) || variants.length > MOST_VARIANTS) throw said('its variants are no list of them');
  const ids = new Set<string>();
  return variants.map((raw: Variant) => {
    const { id, name } = checkedAs(raw, VariantShape, said);
    if (ids.has(id)) throw said(`two variants have the id ${id}`);
    ids.add(id);
    const look = asVariant({ ...piece, variants: [raw] }, id);
    const { materials, prints } = instanceToPlain(
      checkedAs({ materials: look.materials, prints: look.prints }, LookShape, said),
    ) as LookShape;
    return variantBetween({ id, name }, piece, JSON.parse(JSON.stringify({ ...look, materials, prints })) as AssetDocument);
  });
}

/** What a new document decides in each of its pieces has to stand in one from a file too: what may be left out of a change may not be here. */
function checkComplete(document: AssetDocument, wrong: (why: string) => InputError): void {
  const whole = newDocument('', briefFor(document.brief.purpose ?? 'game')) as unknown as Record<string, unknown>;
  for (const [piece, fresh] of Object.entries(whole)) {
    if (typeof fresh !== 'object' || fresh === null || Array.isArray(fresh)) continue;
    const own = (document as unknown as Record<string, Record<string, unknown>>)[piece];
    for (const key of Object.keys(fresh)) if (own[key] === undefined) throw wrong(`its ${piece} says nothing of “${key}”`);
  }
}

/**
 * A document from outside, looked over before it is believed: upgraded, each piece checked by the shape that the commands for it have,
 * steps and regions by their own descriptions. What none of them names is left out.
 *
 * @param wrong makes the error from what is wrong, words without a full stop
 * @throws what `wrong` made
 */
export function checkedDocument(plain: unknown, wrong: (why: string) => InputError): AssetDocument {
  const isObject = (x: unknown): x is Record<string, unknown> => typeof x === 'object' && x !== null && !Array.isArray(x);
  if (!isObject(plain)) throw wrong('it is not one JSON object');
  if (plain.schema !== 1 && plain.schema !== 2) throw wrong('its schema is not one that is known here');
  if (typeof plain.name !== 'string' || !isObject(plain.brief) || !isObject(plain.brief.limits)) throw wrong('it has no name or no brief');
  const { triangles, textureSize, textureSets, memoryMB } = plain.brief.limits;
  for (const x of [triangles, textureSize, textureSets, memoryMB])
    if (!(typeof x === 'number' && Number.isFinite(x) && x > 0)) throw wrong('a limit of its brief is no number above 0');
  if (!Array.isArray(plain.parts)) throw wrong('it has no list of parts');
  const ids = new Set<string>();
  for (const p of plain.parts as unknown[]) {
    if (!isObject(p) || typeof p.id !== 'string' || typeof p.name !== 'string' || !isObject(p.shape))
      throw wrong('a part has no id, name or shape');
    if (ids.has(p.id)) throw wrong(`two parts have the id ${p.id}`);
    ids.add(p.id);
    if (p.shape.kind !== 'recipe' && p.shape.kind !== 'mesh' && p.shape.kind !== 'copy')
      throw wrong(`“${p.name}” is neither made by steps nor a mesh nor a copy`);
  }
  let upgraded: AssetDocument;
  try {
    upgraded = upgradeDocument(plain);
  } catch {
    throw wrong('its parts or materials are not what they should be');
  }
  const said = (sentence: string) => wrong(sentence.replace(/\.$/, '').replace(/^(The|In) /, (word) => word.toLowerCase()));
  try {
    const made = checkedAs(upgraded, DocumentShape, said);
    const document = JSON.parse(JSON.stringify(instanceToPlain(made))) as AssetDocument;
    checkComplete(document, wrong);
    const steps = new Set<string>();
    const whole: AssetDocument = {
      ...document,
      dimensions: document.dimensions.map((x, i, all) => {
        checkDimension(x, all.slice(0, i));
        return x;
      }),
      parts: document.parts.map((p, i) => {
        const { shape } = upgraded.parts[i];
        const own = shape.steps && checkSteps(shape.steps);
        for (const s of own ?? []) {
          if (steps.has(s.id)) throw wrong(`two steps have the id ${s.id}`);
          steps.add(s.id);
        }
        return {
          ...p,
          shape:
            shape.kind === 'recipe'
              ? { kind: 'recipe', steps: own ?? [] }
              : shape.kind === 'copy'
                ? { kind: 'copy', of: shape.of, mirror: shape.mirror }
                : {
                    kind: 'mesh',
                    low: { blob: shape.low.blob, triangles: shape.low.triangles },
                    placements: shape.placements,
                    ...(shape.came && { came: shape.came }),
                    ...(own && { steps: own }),
                  },
          ...(p.regions && { regions: checkRegions(upgraded.parts[i].regions) }),
          ...(p.seams && { seams: checkSeams(upgraded.parts[i].seams) }),
          ...(p.origin && { origin: checkOrigin(upgraded.parts[i].origin) }),
        } as Part;
      }),
      form: { ...document.form, ...(upgraded.form.ties && { ties: upgraded.form.ties.map((t) => t.map(String)) }) },
    };
    return upgraded.variants === undefined ? whole : { ...whole, variants: checkVariants(whole, upgraded.variants, said) };
  } catch (error) {
    if (error instanceof WellmorphError && !error.code.startsWith('asset/')) throw said(error.message);
    throw error;
  }
}
