import { IDENTITY } from '../maths/mat4';
import { attribute } from '../mesh/polymesh';
import { type Camera, SHOT_DEFAULTS, solveShot } from '../shot/shot';
import type { Flattened } from '../uv/charts';
import type { ChoiceResult, FlatChoice } from '../uv/chosen/choices';
import type { ResolvedChoice } from '../uv/chosen/chosen';
import { FaceFinder } from '../uv/hand/finder';
import type { LayoutFigures } from '../uv/measure';
import type { PartMesh } from './form';
import { outlinePoints } from './outline';
import type { UnwrapSettings } from './unwrap';

/** The ways somebody chose to lay islands flat, handed to the parts they are for. */
export class ChosenWays {
  /** What came of each, in their order; those for parts that aren’t there are lost. */
  readonly results: ChoiceResult[];
  private readonly choices: readonly FlatChoice[];
  private readonly camera: Camera | null;

  constructor(all: readonly PartMesh[], settings: UnwrapSettings) {
    this.choices = settings.choices ?? [];
    this.results = this.choices.map(() => ({ islands: 0, areaMm2: 0, stretchL2: 1, stretchLinf: 1, refused: [], lost: true }));
    const through = settings.shot && this.choices.some((c) => c.method === 'shot');
    this.camera = through && settings.shot ? solveShot({ ...SHOT_DEFAULTS, ...settings.shot }, outlinePoints(all)).camera : null;
  }

  /** Those for a part. */
  of(part: PartMesh): ResolvedChoice[] {
    return this.mine(part).map((i) => {
      const { part: _, meant: __, ...choice } = this.choices[i];
      return choice.method === 'shot' && this.camera
        ? { ...choice, eye: { ...this.camera, placement: part.placements[0] ?? IDENTITY } }
        : choice;
    });
  }

  /** Keeps what came of them. */
  keep(part: PartMesh, { choices }: Flattened): void {
    for (const [k, i] of this.mine(part).entries()) if (choices?.[k]) this.results[i] = choices[k];
  }

  private mine({ id }: PartMesh): number[] {
    return [...this.choices.keys()].filter((i) => this.choices[i].part === id);
  }
}

/** What a layout says of the choices, with the island that each is on. */
export function choiceFigures(
  results: readonly ChoiceResult[],
  choices: readonly FlatChoice[],
  parts: readonly PartMesh[],
): NonNullable<LayoutFigures['choices']> {
  const finders = new Map<string, FaceFinder>();
  const islandOf = ({ part, at }: FlatChoice): number | undefined => {
    const mesh = parts.find((p) => p.id === part)?.mesh;
    const island = mesh && attribute(mesh, 'island', 'face')?.data;
    if (!mesh || !island || !at) return undefined;
    const finder = finders.get(part) ?? new FaceFinder(mesh);
    finders.set(part, finder);
    const t = finder.at(at);
    return t < 0 ? undefined : island[mesh.triangleFace[t]];
  };
  return choices.map(({ part, at, ...rest }, i) => {
    const island = islandOf({ part, at, ...rest });
    return { ...results[i], part, ...(at && { at }), ...(island !== undefined && { island }) };
  });
}
