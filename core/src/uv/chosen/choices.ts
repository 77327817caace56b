import { InputError } from '../../errors';
import { dot, length, type Vec3 } from '../../maths/vec3';
import { CHOSEN, type ChosenMethod } from '../words';

/** How an island, or a whole part, is to be laid flat where somebody wants it otherwise than it would be. */
export interface FlatChoice {
  part: string;
  /** A place of the part and the direction the surface faces there, in its own space: the island there. The whole part when absent. */
  at?: { from: Vec3; facing: Vec3 };
  method: ChosenMethod;
  /** From the piece to whoever looks at it; the axis of a cylinder or of a ball. In the part’s own space. */
  towards?: Vec3;
  /** What is upright as it is seen so. */
  up?: Vec3;
  /** Width and height of a rectangle, mm. */
  size?: [number, number];
  /** Its stretch is meant, for this reason. */
  meant?: string;
}

/** Choices there may be at most. */
export const MOST_CHOICES = 2000;
const LONGEST = 1e5;

/** Methods that need a direction. */
export const needsDirection = (method: ChosenMethod): boolean => method === 'direction' || method === 'cylinder' || method === 'sphere';

/** Whether two choices are about the same: the part, or the same place of it. */
export const sameTarget = (a: Pick<FlatChoice, 'part' | 'at'>, b: Pick<FlatChoice, 'part' | 'at'>): boolean =>
  a.part === b.part && JSON.stringify(a.at ?? null) === JSON.stringify(b.at ?? null);

const isVector = (v: unknown, most: number): v is Vec3 =>
  Array.isArray(v) && v.length === 3 && v.every((x) => typeof x === 'number' && Math.abs(x) <= most);
/** Directions are units, to what JSON and typing leave of them. */
const isDirection = (v: unknown): v is Vec3 => isVector(v, 1.001) && Math.abs(length(v) - 1) < 1e-3;

/** Choices as they came from a request, checked. @throws InputError in one sentence */
export function checkFlatChoices(value: unknown): FlatChoice[] {
  if (!Array.isArray(value)) throw new InputError('flat/list', 'How islands are laid flat is not a list.');
  if (value.length > MOST_CHOICES) throw new InputError('flat/many', `At most ${MOST_CHOICES} islands can be laid flat by choice.`);
  return value.map((v): FlatChoice => {
    const c = v as FlatChoice;
    if (typeof c !== 'object' || c === null || typeof c.part !== 'string' || c.part.length > 60)
      throw new InputError('flat/part', 'A way to lay an island flat doesn’t say which part it is for.');
    if (typeof c.method !== 'string' || !Object.hasOwn(CHOSEN, c.method))
      throw new InputError('flat/method', 'There is no such way to lay an island flat.');
    if (c.at !== undefined && (!isVector(c.at?.from, 1e6) || !isDirection(c.at?.facing)))
      throw new InputError('flat/at', 'The island to be laid flat is at no place of the piece.');
    if (needsDirection(c.method) && !isDirection(c.towards))
      throw new InputError('flat/towards', `“${CHOSEN[c.method]}” needs a direction.`);
    if (c.up !== undefined && (!isDirection(c.up) || (c.towards && Math.abs(dot(c.up, c.towards)) > 0.9999)))
      throw new InputError('flat/up', 'What is upright has to lie across the direction it is seen from.');
    if (c.method === 'rectangle' && !(Array.isArray(c.size) && c.size.length === 2 && c.size.every((x) => x > 0 && x <= LONGEST)))
      throw new InputError('flat/size', `A rectangle needs a width and a height, up to ${LONGEST / 1000} m.`);
    if (c.meant !== undefined && (typeof c.meant !== 'string' || c.meant.trim().length < 3 || c.meant.length > 300))
      throw new InputError('flat/meant', 'Say in 3 to 300 characters why the stretch is meant.');
    const { part, at, method, towards, up, size, meant } = c;
    return {
      part,
      ...(at && { at: { from: at.from, facing: at.facing } }),
      method,
      ...(needsDirection(method) && { towards }),
      ...(method === 'direction' && up && { up }),
      ...(method === 'rectangle' && { size }),
      ...(meant !== undefined && { meant: meant.trim() }),
    };
  });
}

/** Why faces were not laid as chosen. */
export type Refusal = 'away' | 'over' | 'quads' | 'corners' | 'folds' | 'rim';
export const REFUSED: Record<Refusal, string> = {
  away: 'face away, or are seen too flat',
  over: 'would lie over each other',
  quads: 'are not quads in rows and columns',
  corners: 'have no four corners',
  folds: 'would fold',
  rim: 'have no single rim',
};

/** What came of one choice. */
export interface ChoiceResult {
  islands: number;
  areaMm2: number;
  stretchL2: number;
  stretchLinf: number;
  /** Faces that were laid as they would have been, and why; a few of their places, in the part’s own space. */
  refused: { why: Refusal; faces: number; places: Vec3[] }[];
  /** The place it is for is on no island any more. */
  lost?: boolean;
}

/** Stretch of a layout but for what is stretched on purpose, L². */
export function stretchNotMeant(
  f: { stretchL2: number; parts: readonly { areaMm2: number }[]; choices?: readonly (ChoiceResult & Pick<FlatChoice, 'part' | 'at'>)[] },
  choices: readonly FlatChoice[] = [],
): number {
  const meant = f.choices?.filter((r) => choices.some((c) => c.meant && sameTarget(c, r))) ?? [];
  if (meant.length === 0) return f.stretchL2;
  let area = f.parts.reduce((s, p) => s + p.areaMm2, 0);
  let weighted = area * f.stretchL2 ** 2;
  for (const { areaMm2, stretchL2 } of meant) {
    area -= areaMm2;
    weighted -= areaMm2 * stretchL2 ** 2;
  }
  // What is left can’t be stretched less than not at all, whatever rounding says.
  return area > 1e-9 ? Math.sqrt(Math.max(1, weighted / area)) : 1;
}
