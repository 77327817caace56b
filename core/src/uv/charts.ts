import { cornerCount, faceCount, type PolyMesh } from '../mesh/polymesh';
import { UNLAID } from '../mesh/rework';
import { checkpoint, QUIET, type Task } from '../task';
import type { ChoiceResult } from './chosen/choices';
import { Chosen, type ResolvedChoice } from './chosen/chosen';
import { Flattening, type Laid, MOST, WORTH } from './flatten/flattening';
import { ownLayout } from './flatten/own';
import { faceGraph } from './seams/regions';
import type { FlatteningMethod } from './words';

/** A mesh cut into islands and laid flat, each at its true size. */
export interface Flattened {
  /** Face → island. */
  island: Int32Array;
  /** Corner → place in its island, mm. */
  flat: Float64Array;
  islands: number;
  /** How each island was laid out. */
  method: FlatteningMethod[];
  /** What came of each choice, in their order; absent where there were none. */
  choices?: ChoiceResult[];
}

/** Where a surface is cut and how far it may be stretched. */
export interface FlattenOptions {
  /** Faces that turn by more than this are cut apart, degrees. */
  seamAngle: number;
  /** Islands stretched more than this (L²) are cut again. */
  stretchLimit?: number;
  /** What a mm of seam is worth against stretch; larger: fewer and larger islands. */
  worth?: number;
  /** What share of the looks at each face arrives, 0 … 1: seams go where few do. */
  looks?: ArrayLike<number>;
  /** What is to be laid flat otherwise. */
  choices?: readonly ResolvedChoice[];
}

export const STRETCH_LIMIT = 1.05;

/**
 * Lays a mesh flat. Makers of steps bring exact layouts of their own; everything else is cut along its seams and put together into
 * islands that lie flat without much stretch, those with several rims slit, and each laid by what suits it: planes and what can be
 * unrolled exactly, the rest conformal or, where that would fold or overlap, by barycentric mapping, and then relaxed. Islands stretched
 * beyond the limit are cut again. What somebody chose a way for is laid so; faces that can’t be are laid like all others.
 */
export function flatten(mesh: PolyMesh, options: FlattenOptions, task: Task = QUIET): Flattened {
  const chosen = options.choices?.length ? new Chosen(mesh, options.choices) : null;
  const own = chosen?.part ? null : ownLayout(mesh, chosen?.faces);
  if (own && !own.island.includes(UNLAID)) return chosen ? { ...own, choices: chosen.results } : own;
  const out: Flattened = own ?? {
    island: new Int32Array(faceCount(mesh)).fill(UNLAID),
    flat: new Float64Array(2 * cornerCount(mesh)),
    islands: 0,
    method: [],
  };
  const left = [...out.island.keys()].filter((f) => out.island[f] === UNLAID);
  const worth = options.worth ?? WORTH;
  const work = new Flattening(mesh, faceGraph(mesh, options.seamAngle, options.looks), options.stretchLimit ?? STRETCH_LIMIT);
  let settled = 0;
  const put = ({ chart, uv, method }: Laid): void => {
    for (const f of chart.faces) out.island[f] = out.islands;
    const { corners, local } = chart;
    for (let i = 0; i < corners.length; i++) {
      out.flat[2 * corners[i]] = uv[2 * local[i]];
      out.flat[2 * corners[i] + 1] = uv[2 * local[i] + 1];
    }
    out.islands++;
    out.method.push(method);
    settled += chart.faces.length;
    task.progress(settled / left.length, 'laying islands flat');
  };
  const cluster = (faces: readonly number[]): number[][] => work.cluster(faces, worth, MOST * Math.min(4, Math.max(1, worth / WORTH)));
  const waiting: number[][] = [];
  const regions = chosen?.mapsPart ? work.regions(left) : cluster(left);
  for (const faces of regions) {
    const laid = chosen?.lay(work, faces, options.looks);
    if (!laid) waiting.push(faces);
    else {
      for (const island of laid.islands) put(island);
      if (laid.left.length > 0) waiting.push(...cluster(laid.left));
    }
    checkpoint(task);
  }
  while (waiting.length > 0) {
    checkpoint(task);
    const faces = waiting.pop() as number[];
    const laid = work.layOut(faces);
    if (laid) put(laid);
    else waiting.push(...work.divided(faces));
  }
  return chosen ? { ...out, choices: chosen.results } : out;
}
