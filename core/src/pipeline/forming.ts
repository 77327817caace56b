import type { Finding } from '../inspect/finding';
import type { Kit } from '../kit';
import { QUIET, type Task } from '../task';
import { encodeParts } from './bundle';
import { type AssetDocument, sharers } from './document';
import { deliversTangents } from './export';
import { type FormResult, fallbackTolerance, formAsset, type LoadMesh } from './form';
import { inspectAsset, type Ledger, ledgerOf } from './inspect';
import { unlabelled } from './labels';
import type { MeshCache } from './mesh-cache';
import { measuredOf, trianglesAtTolerance } from './solve';
import { type Standings, standingsOf } from './standings';

/** What is kept of forming, beside the meshes. */
export interface FormFigures extends Pick<FormResult, 'marks' | 'strewn' | 'steps'> {
  ledger: Ledger;
  /** Triangles that the tolerance in force asks for. */
  neededTriangles: number;
}

/** What is kept of looking a formed piece over; waivers are laid over it when it is shown. */
export interface FindingsFigures {
  findings: Finding[];
  standings: Standings;
}

/** A formed asset that was looked over, and the bytes it is kept as. */
export interface Formed {
  /** As formed, with marks for labels. */
  result: FormResult;
  figures: FormFigures;
  found: FindingsFigures;
  parts: Uint8Array<ArrayBuffer>;
  aids: Uint8Array<ArrayBuffer>;
  /** False where a library was missing, so that a step could not be made which could be elsewhere: not to be kept. */
  whole: boolean;
}

/** Forms the low meshes and looks them over, without labels: what comes of it can be kept under its name. */
export function formAndInspect(document: AssetDocument, load: LoadMesh, memory: MeshCache, kit: Kit, task: Task = QUIET): Formed {
  const bare = { ...unlabelled(document), waivers: [] };
  const result = formAsset(bare, 'low', load, memory, kit);
  const ledger = ledgerOf(result.parts, memory, deliversTangents(bare), [], sharers(bare));
  const standings = standingsOf(bare, result.parts, memory);
  const findings = inspectAsset(bare, result, ledger, task, memory, standings);
  const { marks, strewn, steps } = result;
  const neededTriangles = trianglesAtTolerance(bare, fallbackTolerance(bare), measuredOf(bare, result)).triangles;
  return {
    result,
    figures: { ledger, neededTriangles, marks, strewn, steps },
    found: { findings, standings },
    parts: encodeParts(result.parts),
    aids: encodeParts(result.aids),
    whole: !result.problems.some((p) => p.code === 'kit/missing'),
  };
}
