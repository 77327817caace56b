import { enablePatches, type Patch, produceWithPatches } from 'immer';
import type { Brief } from '../brief/brief';
import { InputError } from '../errors';
import type { Counts } from '../form/budget/solve';
import { checkDimension, type Dimension } from '../form/dimensions';
import type { Reference } from '../form/reference';
import type { PickedSeam, Region } from '../form/regions';
import { kindOf, type Step, stepName } from '../form/steps';
import type { Travel } from '../inspect/relations';
import type { Rig } from '../light/rig';
import type { Mat4 } from '../maths/mat4';
import type { Vec3 } from '../maths/vec3';
import type { Shot } from '../shot/shot';
import { figure } from '../units/lengths';
import {
  type AssetDocument,
  type BakeChoices,
  type HandoffChoices,
  type Material,
  type MeshRef,
  type Part,
  type Relation,
  type RenderChoices,
  type SurfaceChoices,
  type UnwrapChoices,
  WANTED,
  type Waiver,
} from './document';

enablePatches();

/** Every change to an asset is one of these. They are logged, can be taken back, and say in words what they did. */
export type Command =
  | { type: 'rename'; name: string }
  | { type: 'brief.set'; patch: Partial<Brief> }
  | { type: 'part.add'; part: Part }
  | { type: 'part.remove'; part: string }
  | {
      type: 'part.set';
      part: string;
      patch: Partial<Pick<Part, 'name' | 'role' | 'material' | 'move' | 'turnDegrees' | 'weight' | 'declaredOpen' | 'aid'>>;
    }
  /** At the end, or right after another step. */
  | { type: 'step.add'; part: string; step: Step; after?: string }
  | { type: 'step.remove'; part: string; step: string }
  | { type: 'step.set'; part: string; step: Step }
  | { type: 'step.move'; part: string; step: string; by: -1 | 1 }
  | { type: 'dimension.set'; dimension: Dimension }
  | { type: 'dimension.remove'; dimension: string }
  | { type: 'reference.set'; reference: Reference }
  | { type: 'reference.remove'; reference: string }
  | { type: 'region.set'; part: string; region: Region }
  | { type: 'region.remove'; part: string; region: string }
  /** All parts together: where the piece's own origin lies. */
  | { type: 'parts.move'; by: Vec3 }
  | { type: 'travel.set'; part: string; travel: Travel | null }
  | { type: 'relation.set'; relation: Relation }
  | { type: 'relation.remove'; relation: string }
  | { type: 'seams.set'; part: string; seams: PickedSeam[] }
  | { type: 'form.counts'; counts: Counts; triangles: number }
  | { type: 'form.lock'; key: string; label: string; count: number | null }
  /** Pins a part's triangles, or leaves them to the solver. */
  | { type: 'form.share'; part: string; triangles: number | null }
  /** Ties two counts so that they stay equal, or lets one go. */
  | { type: 'form.tie'; key: string; label: string; to: string | null }
  | { type: 'unwrap.set'; patch: Partial<UnwrapChoices> }
  | { type: 'bake.set'; patch: Partial<BakeChoices> }
  | { type: 'material.add'; material: Material; parts?: string[] }
  | { type: 'material.set'; material: string; patch: Partial<Omit<Material, 'id'>> }
  | { type: 'material.remove'; material: string }
  | { type: 'surface.set'; patch: Partial<SurfaceChoices> }
  | { type: 'rig.set'; patch: Partial<Rig> }
  | { type: 'shot.set'; patch: Partial<Shot> }
  | { type: 'render.set'; patch: Partial<RenderChoices> }
  | { type: 'handoff.set'; patch: Partial<HandoffChoices> }
  | { type: 'waive'; waiver: Waiver }
  | { type: 'unwaive'; finding: string }
  /** A mended mesh, and where its copies stand when that changed. */
  | { type: 'mesh.replace'; part: string; low: MeshRef; placements?: Mat4[]; what: string }
  | { type: 'high.parts'; parts: AssetDocument['highParts']; pairs: { part: string; high: NonNullable<Part['high']> }[] }
  | { type: 'high.pair'; part: string; high: NonNullable<Part['high']> | null };

export interface Applied {
  document: AssetDocument;
  patches: Patch[];
  inverse: Patch[];
}

/** @throws InputError when it refers to something that isn't there; nothing has changed then */
export function applyCommand(document: AssetDocument, command: Command): Applied {
  const [next, patches, inverse] = produceWithPatches(document, (d) => {
    const part = (id: string): Part => {
      const found = d.parts.find((p) => p.id === id);
      if (!found) throw new InputError('command/part', 'The part this change is for is no longer there.');
      return found as Part;
    };
    const steps = (id: string): Step[] => {
      const p = part(id);
      p.shape.steps ??= [];
      return p.shape.steps as Step[];
    };
    const material = (id: string): Material => {
      const found = d.materials.find((m) => m.id === id);
      if (!found) throw new InputError('command/material', 'The material this change is for is no longer there.');
      return found as Material;
    };
    const stepAt = (list: Step[], id: string): number => {
      const i = list.findIndex((s) => s.id === id);
      if (i < 0) throw new InputError('command/step', 'The step this change is for is no longer there.');
      return i;
    };
    switch (command.type) {
      case 'rename':
        if (!command.name.trim()) throw new InputError('command/name', 'A name needs at least one letter.');
        d.name = command.name.trim().slice(0, 120);
        break;
      case 'brief.set':
        Object.assign(d.brief, command.patch);
        break;
      case 'part.add':
        if (d.parts.some((p) => p.id === command.part.id)) throw new InputError('command/id', 'A part with that id is there already.');
        (d.parts as Part[]).push(command.part);
        break;
      case 'part.remove': {
        part(command.part);
        d.parts = d.parts.filter((p) => p.id !== command.part);
        if (d.form.shares) delete d.form.shares[command.part];
        if (d.relations) d.relations = d.relations.filter((r) => r.a !== command.part && r.b !== command.part);
        break;
      }
      case 'part.set':
        Object.assign(part(command.part), command.patch);
        break;
      case 'step.add': {
        const list = steps(command.part);
        if (d.parts.some((p) => p.shape.steps?.some((s) => s.id === command.step.id)))
          throw new InputError('command/id', 'A step with that id is there already.');
        if (kindOf(command.step.kind).maker && part(command.part).shape.kind === 'mesh')
          throw new InputError(
            'command/recipe',
            `“${part(command.part).name}” was imported: steps can change it; a step that makes something goes into a part of its own.`,
          );
        list.splice(command.after === undefined ? list.length : stepAt(list, command.after) + 1, 0, command.step);
        break;
      }
      case 'step.remove': {
        const list = steps(command.part);
        list.splice(stepAt(list, command.step), 1);
        break;
      }
      case 'step.set': {
        const list = steps(command.part);
        list[stepAt(list, command.step.id)] = command.step;
        break;
      }
      case 'step.move': {
        const list = steps(command.part);
        const i = stepAt(list, command.step);
        const j = i + command.by;
        if (j >= 0 && j < list.length) [list[i], list[j]] = [list[j], list[i]];
        break;
      }
      case 'dimension.set': {
        const list = d.dimensions as Dimension[];
        checkDimension(command.dimension, list);
        const i = list.findIndex((x) => x.id === command.dimension.id);
        if (i < 0) list.push(command.dimension);
        else list[i] = command.dimension;
        break;
      }
      case 'dimension.remove':
        d.dimensions = d.dimensions.filter((x) => x.id !== command.dimension);
        break;
      case 'reference.set': {
        const i = d.references.findIndex((r) => r.id === command.reference.id);
        if (i < 0) d.references.push(command.reference);
        else d.references[i] = command.reference;
        break;
      }
      case 'reference.remove':
        d.references = d.references.filter((r) => r.id !== command.reference);
        break;
      case 'region.set': {
        const p = part(command.part);
        const list = p.regions ?? [];
        const i = list.findIndex((r) => r.id === command.region.id);
        p.regions = i < 0 ? [...list, command.region] : list.map((r, k) => (k === i ? command.region : r));
        break;
      }
      case 'region.remove': {
        const p = part(command.part);
        p.regions = (p.regions ?? []).filter((r) => r.id !== command.region);
        break;
      }
      case 'parts.move':
        for (const p of d.parts as Part[]) p.move = [p.move[0] + command.by[0], p.move[1] + command.by[1], p.move[2] + command.by[2]];
        break;
      case 'travel.set': {
        const p = part(command.part);
        if (command.travel) p.travel = command.travel;
        else delete p.travel;
        break;
      }
      case 'relation.set': {
        const { relation } = command;
        if (relation.a === relation.b) throw new InputError('command/relation', 'A part stands in no relation to itself.');
        part(relation.a);
        part(relation.b);
        const list = d.relations ?? [];
        const i = list.findIndex((r) => r.id === relation.id);
        d.relations = i < 0 ? [...list, relation] : list.map((r, k) => (k === i ? relation : r));
        break;
      }
      case 'relation.remove':
        d.relations = (d.relations ?? []).filter((r) => r.id !== command.relation);
        break;
      case 'seams.set':
        part(command.part).seams = command.seams;
        break;
      case 'form.counts':
        d.form.counts = command.counts;
        break;
      case 'form.lock':
        if (command.count === null) delete d.form.locks[command.key];
        else d.form.locks[command.key] = command.count;
        break;
      case 'form.share': {
        part(command.part);
        const shares = { ...d.form.shares };
        if (command.triangles === null) delete shares[command.part];
        else shares[command.part] = command.triangles;
        d.form.shares = shares;
        break;
      }
      case 'form.tie':
        d.form.ties = tied(d.form.ties ?? [], command.key, command.to);
        break;
      case 'unwrap.set':
        Object.assign(d.unwrap, command.patch);
        break;
      case 'bake.set':
        Object.assign(d.bake, command.patch);
        break;
      case 'material.add':
        if (d.materials.some((m) => m.id === command.material.id))
          throw new InputError('command/id', 'A material with that id is there already.');
        d.materials.push(command.material);
        for (const id of command.parts ?? []) part(id).material = command.material.id;
        break;
      case 'material.set':
        Object.assign(material(command.material), command.patch, { touched: true });
        break;
      case 'material.remove':
        material(command.material);
        d.materials = d.materials.filter((m) => m.id !== command.material);
        for (const p of d.parts) if (p.material === command.material) p.material = null;
        break;
      case 'surface.set':
        Object.assign(d.surface, command.patch);
        break;
      case 'rig.set':
        Object.assign(d.rig, command.patch);
        break;
      case 'shot.set':
        if (d.shot.locked && command.patch.locked !== false)
          throw new InputError('command/locked', 'The shot is locked; unlock it before changing it.');
        Object.assign(d.shot, command.patch);
        break;
      case 'render.set':
        Object.assign(d.render, command.patch);
        break;
      case 'handoff.set':
        Object.assign(d.handoff, command.patch);
        break;
      case 'waive':
        (d.waivers as Waiver[]) = [...(d.waivers as Waiver[]).filter((w) => w.finding !== command.waiver.finding), command.waiver];
        break;
      case 'unwaive':
        d.waivers = d.waivers.filter((w) => w.finding !== command.finding);
        break;
      case 'mesh.replace': {
        const p = part(command.part);
        if (p.shape.kind !== 'mesh') throw new InputError('command/mesh', `“${p.name}” is made by steps; mend it there.`);
        p.shape.low = command.low;
        if (command.placements) p.shape.placements = command.placements;
        break;
      }
      case 'high.parts':
        (d.highParts as AssetDocument['highParts']) = command.parts;
        for (const { part: id, high } of command.pairs) part(id).high = high;
        break;
      case 'high.pair': {
        const p = part(command.part);
        if (command.high) p.high = command.high;
        else delete p.high;
        break;
      }
    }
  });
  return { document: next, patches, inverse };
}

/** Groups of tied counts after one was tied to another, or let go; groups of one are none. */
function tied(groups: readonly string[][], key: string, to: string | null): string[][] {
  const rest = groups.map((g) => g.filter((k) => k !== key));
  if (to === null) return rest.filter((g) => g.length > 1);
  const with_ = rest.find((g) => g.includes(to));
  return (with_ ? rest.map((g) => (g === with_ ? [...g, key] : g)) : [...rest, [to, key]]).filter((g) => g.length > 1);
}

/** What a change did, for the history. `before` is the document it was made on. */
export function inWords(command: Command, before: AssetDocument): string {
  const part = (id: string) => before.parts.find((p) => p.id === id)?.name ?? 'a part';
  const step = (partId: string, id: string) => {
    const p = before.parts.find((x) => x.id === partId);
    return p?.shape.steps?.find((s) => s.id === id)?.name ?? 'a step';
  };
  const fields = (patch: object) => Object.keys(patch).join(', ');
  switch (command.type) {
    case 'rename':
      return `named it “${command.name}”`;
    case 'brief.set':
      return `set the brief: ${fields(command.patch)}`;
    case 'part.add':
      return `added the part ${command.part.name}`;
    case 'part.remove':
      return `removed the part ${part(command.part)}`;
    case 'part.set':
      return `set ${fields(command.patch)} of ${part(command.part)}`;
    case 'step.add':
      return `added a ${stepName(command.step.kind)} to ${part(command.part)}`;
    case 'step.remove':
      return `removed ${step(command.part, command.step)}`;
    case 'step.set':
      return `changed ${command.step.name}`;
    case 'step.move':
      return `moved ${step(command.part, command.step)} ${command.by < 0 ? 'up' : 'down'}`;
    case 'dimension.set':
      return `set ${command.dimension.name} = ${command.dimension.formula}`;
    case 'dimension.remove':
      return `removed the dimension ${before.dimensions.find((x) => x.id === command.dimension)?.name ?? ''}`;
    case 'reference.set':
      return `set the picture ${command.reference.name} behind the piece`;
    case 'reference.remove':
      return 'removed a picture behind the piece';
    case 'region.set':
      return `set the region ${command.region.name} of ${part(command.part)}`;
    case 'region.remove':
      return `removed a region of ${part(command.part)}`;
    case 'parts.move':
      return `moved the piece by ${command.by.map((x) => figure(x, 2)).join(', ')} mm`;
    case 'travel.set':
      return command.travel ? `let ${part(command.part)} ${command.travel.kind}` : `fixed ${part(command.part)} in place`;
    case 'relation.set':
      return `wanted ${WANTED[command.relation.wanted]} between ${part(command.relation.a)} and ${part(command.relation.b)}`;
    case 'relation.remove':
      return 'dropped a wanted relation';
    case 'seams.set':
      return `picked ${command.seams.length} seams on ${part(command.part)}`;
    case 'form.counts':
      return `took the solver’s counts: ${command.triangles} triangles`;
    case 'form.lock':
      return command.count === null ? `left ${command.label} to the solver` : `fixed ${command.label} at ${command.count}`;
    case 'form.share':
      return command.triangles === null
        ? `left the triangles of ${part(command.part)} to the solver`
        : `pinned ${figure(command.triangles, 0)} triangles to ${part(command.part)}`;
    case 'form.tie':
      return command.to === null ? `let ${command.label} go` : `tied ${command.label}`;
    case 'unwrap.set':
      return `set the layout: ${fields(command.patch)}`;
    case 'bake.set':
      return `set the bake: ${fields(command.patch)}`;
    case 'material.add':
      return command.parts?.length
        ? `gave ${command.parts.map(part).join(', ')} ${command.material.name}`
        : `added the material ${command.material.name}`;
    case 'material.set':
      return `set ${fields(command.patch)} of ${before.materials.find((m) => m.id === command.material)?.name ?? 'a material'}`;
    case 'material.remove':
      return `removed the material ${before.materials.find((m) => m.id === command.material)?.name ?? ''}`;
    case 'surface.set':
      return `set the surface: ${fields(command.patch)}`;
    case 'rig.set':
      return `set the light: ${fields(command.patch)}`;
    case 'shot.set':
      return command.patch.locked === undefined
        ? `set the shot: ${fields(command.patch)}`
        : `${command.patch.locked ? 'locked' : 'unlocked'} the shot`;
    case 'render.set':
      return `set the render: ${fields(command.patch)}`;
    case 'handoff.set':
      return `set the hand-off: ${fields(command.patch)}`;
    case 'waive':
      return `waived a finding: ${command.waiver.reason}`;
    case 'unwaive':
      return 'took a waiver back';
    case 'mesh.replace':
      return `${command.what} on ${part(command.part)}`;
    case 'high.parts':
      return `brought ${command.parts.length} high meshes, ${command.pairs.length} paired`;
    case 'high.pair':
      return command.high ? `paired ${part(command.part)} with ${command.high.name}` : `unpaired ${part(command.part)}`;
  }
}
