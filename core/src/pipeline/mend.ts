import { InputError } from '../errors';
import { FIX_NAMES, type Finding, type FixId } from '../inspect/finding';
import { FLICKER_MM } from '../inspect/findings/coincident';
import { applyFix, LOOPS_MOVE } from '../inspect/fixes';
import { applyScale } from '../inspect/mend';
import { removableFaces } from '../inspect/unseen';
import type { Mat4 } from '../maths/mat4';
import { keepFaces } from '../mesh/edit';
import type { PolyMesh } from '../mesh/polymesh';
import { transform } from '../mesh/transform';
import { QUIET, type Task } from '../task';
import { millimetres } from '../units/lengths';
import type { Command } from './commands';
import { type AssetDocument, type Part, stepsOf } from './document';
import { type FormResult, fallbackTolerance, type LoadMesh, type PartMesh } from './form';
import { originOff, sharedPlanes } from './inspect';
import { neverSeen, standingStill } from './views';

/** What a fix comes to: a part's new mesh, and where its copies stand now, or commands that change the document alone. */
export type Mended = { part: string; mesh: PolyMesh; placements?: Mat4[]; what: string } | { commands: Command[] };

/** Two parts in one plane are moved apart by this, mm: twice what flickers, and less than anyone sees. */
export const GAP_MM = 2.5 * FLICKER_MM;

/**
 * Mends what a finding is about. Nothing is changed here: the caller keeps the mesh and sends the commands, so that it can all be
 * taken back.
 *
 * @param formed the low meshes the finding was found on
 * @param newId an id no step has
 * @throws InputError in one sentence when it can't be mended safely
 */
export function mend(
  document: AssetDocument,
  formed: Pick<FormResult, 'parts'>,
  finding: Finding,
  fix: FixId,
  load: LoadMesh,
  newId: string,
  task: Task = QUIET,
): Mended {
  const what = FIX_NAMES[fix].toLowerCase();
  if (fix === 'move-origin') {
    const by = originOff(document, formed.parts);
    return { commands: by ? [{ type: 'parts.move', by }] : [] };
  }
  const part = document.parts.find((p) => p.id === finding.part);
  if (!part) throw new InputError('fix/part', 'The part that finding was about is not there any more.');
  if (fix === 'leave-gap') return { commands: [leaveGap(document, formed, finding)] };
  if (fix === 'add-clear') return { commands: [clearing(document, part, finding, newId)] };
  if (fix === 'add-shade')
    return {
      commands: [
        {
          type: 'step.add',
          part: part.id,
          step: {
            kind: 'shade',
            id: newId,
            name: 'Shading',
            enabled: true,
            hard: 'creases',
            degrees: 40,
            weighted: finding.kind === 'ngon',
          },
        },
      ],
    };
  if (part.shape.kind !== 'mesh') throw new InputError('fix/recipe', `“${part.name}” is made by steps; mend it there.`);
  const mesh = load(part.shape.low.blob);
  if (fix === 'apply-scale') return { part: part.id, ...applyScale(mesh, part.shape.placements), what };
  if (fix === 'remove-hidden') return { part: part.id, mesh: withoutHidden(document, formed, part.id, task), what };
  return { part: part.id, mesh: applyFix(mesh, fix, fallbackTolerance(document)), what };
}

/** A step that takes away what a finding is about: the last such step of the part, or a new one. */
function clearing(document: AssetDocument, part: Part, finding: Finding, newId: string): Command {
  const within = Math.round(fallbackTolerance(document) * LOOPS_MOVE * 1e5) / 1e5;
  const wanted = { ...(finding.kind === 'hidden' && { unseen: true }), ...(finding.kind === 'flats' && { flats: true }) };
  const last = stepsOf(part).at(-1);
  if (last?.kind === 'clear' && last.enabled && last.in !== 'high')
    return {
      type: 'step.set',
      part: part.id,
      step: { ...last, ...wanted, within: Math.max(last.within, finding.kind === 'idle-loops' ? within : 0) },
    };
  return {
    type: 'step.add',
    part: part.id,
    step: {
      kind: 'clear',
      id: newId,
      name: 'Idle triangles',
      enabled: true,
      in: 'low',
      within: finding.kind === 'idle-loops' ? within : 0,
      unseen: false,
      flats: false,
      ...wanted,
    },
  };
}

function withoutHidden(document: AssetDocument, formed: Pick<FormResult, 'parts'>, id: string, task: Task): PolyMesh {
  const still = standingStill(document, formed.parts);
  const own = still.find((p) => p.id === id);
  if (!own) throw new InputError('fix/moves', 'What moves is looked at from more places than one; nothing of it was removed.');
  const hidden = neverSeen(document, still, task)[still.indexOf(own)];
  const goes = removableFaces(own.mesh, hidden);
  if (!goes.includes(0)) throw new InputError('fix/all', `All of “${own.name}” is hidden: take the part away instead.`);
  return keepFaces(own.mesh, (f) => goes[f] === 0);
}

/** Moves the first of two parts off the plane they share, when that parts them everywhere. */
function leaveGap(document: AssetDocument, formed: Pick<FormResult, 'parts'>, finding: Finding): Command {
  const [a, b] = finding.id
    .replace(/^coincident:/, '')
    .split('+')
    .map((id) => formed.parts.find((p) => p.id === id));
  const part = document.parts.find((p) => p.id === a?.id);
  if (!a || !b || !part) throw new InputError('fix/part', 'The part that finding was about is not there any more.');
  const copies = (p: PartMesh) => p.placements.map((m) => transform(p.mesh, m));
  const { facing } = sharedPlanes(copies(a), copies(b));
  const by = facing?.map((c) => Math.round(c * GAP_MM * 1e6) / 1e6);
  const moved = by && copies(a).map((m) => transform(m, [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, by[0], by[1], by[2], 1]));
  if (!by || !moved || sharedPlanes(moved, copies(b)).area > finding.limit)
    throw new InputError(
      'fix/planes',
      `Moving “${a.name}” by ${millimetres(GAP_MM, 2)} doesn’t part the two: they share planes in several directions.`,
    );
  return {
    type: 'part.set',
    part: a.id,
    patch: { move: [part.move[0] + by[0], part.move[1] + by[1], part.move[2] + by[2]] },
  };
}
