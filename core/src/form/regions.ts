import { InputError } from '../errors';
import type { Vec3 } from '../maths/vec3';
import { edgesOf } from '../mesh/connectivity';
import { triangleArea } from '../mesh/measures';
import { attribute, cornerCount, faceCount, type PolyMesh, triangleCount, withAttribute } from '../mesh/polymesh';
import { GRAINS, type Grain } from '../uv/grain';
import { angle, checkFields, choice, type Field, place, words } from './fields';
import { checkLines, checkPlaces, edgesAt, facesAt, MOST_PLACES, type PatchIndex, type Place, patchIndex, patchOf } from './places';
import { checkPath, isPath, PathFinder, type PickedSeam, sidesOf } from './seam-paths';
import { facesFacing, facesFrom, strayFaces } from './select';

/** Which faces a rule means. */
export type Rule =
  /** Facing a direction, within an angle. */
  | { kind: 'facing'; x: number; y: number; z: number; degrees: number }
  /** What a file calls so: a face of it, or all it gave one colour. */
  | { kind: 'named'; name: string }
  /** Made by a step. */
  | { kind: 'step'; step: string }
  /** Beyond a plane across an axis, mm. */
  | { kind: 'side'; axis: 'x' | 'y' | 'z'; beyond: number; way: 'above' | 'below' }
  /** On the inside of walls. */
  | { kind: 'inside' }
  /** Every second one, in columns, rows or chequered; of what was chosen before it. */
  | { kind: 'alternate'; pattern: 'columns' | 'rows' | 'chequered' }
  /** From a picked face as far as the surface doesn't turn by more than an angle. */
  | { kind: 'angle'; degrees: number; places: Place[] }
  /** Picked by hand. */
  | { kind: 'picked'; places: Place[] };

/** A named set of faces: rules one after the other. */
export interface Region {
  id: string;
  name: string;
  rules: { id: string; how: 'add' | 'keep' | 'remove'; rule: Rule }[];
  /** Share of texels against the rest of the part: 2 is twice the density. Its border then is a seam. */
  weight: number;
  /** Its density, px/cm, whatever the others come to, and which way its grain runs; as its part’s where absent. Its border then is a seam too. */
  pxPerCm?: number;
  grain?: Grain;
  /** The material a file gave these faces; the part's own where there is none. */
  material?: string;
}

/** Whether a region has islands of its own. */
const isLaidApart = (r: Region): boolean => r.weight !== 1 || (r.pxPerCm ?? 0) > 0 || (r.grain ?? 'none') !== 'none';

/** What a region is on a mesh. */
export interface RegionFound {
  id: string;
  name: string;
  faces: number[];
  /** mm² */
  area: number;
  /** Patches and steps it speaks of that are gone. */
  lost: string[];
  /** Lone faces that seem missed or taken by mistake. */
  stray: number[];
}

const INSIDE = /(^|\/| )(inside|floor|opening)( |$)/;

/** The faces of a region. */
export function findRegion(mesh: PolyMesh, region: Region, index: PatchIndex = patchIndex(mesh)): RegionFound {
  const chosen = new Uint8Array(faceCount(mesh));
  const lost = new Set<string>();
  for (const { how, rule } of region.rules) {
    const mine = new Uint8Array(chosen.length);
    for (const f of facesOf(mesh, rule, index, chosen, lost)) mine[f] = 1;
    for (let f = 0; f < chosen.length; f++) {
      if (how === 'add') chosen[f] |= mine[f];
      else if (how === 'keep') chosen[f] &= mine[f];
      else if (mine[f]) chosen[f] = 0;
    }
  }
  const faces: number[] = [];
  for (let f = 0; f < chosen.length; f++) if (chosen[f]) faces.push(f);
  let area = 0;
  for (let t = 0; t < triangleCount(mesh); t++) if (chosen[mesh.triangleFace[t]]) area += triangleArea(mesh, t);
  // Only picking by hand misses faces; rules mean what they say.
  const picked = region.rules.some((r) => r.rule.kind === 'picked');
  const { taken, missed } = picked ? strayFaces(mesh, chosen) : { taken: [], missed: [] };
  return { id: region.id, name: region.name, faces, area, lost: [...lost], stray: [...taken, ...missed] };
}

function facesOf(mesh: PolyMesh, rule: Rule, index: PatchIndex, before: Uint8Array, lost: Set<string>): Iterable<number> {
  const all = Array.from({ length: faceCount(mesh) }, (_, f) => f);
  switch (rule.kind) {
    case 'facing':
      return facesFacing(mesh, [rule.x, rule.y, rule.z], rule.degrees);
    case 'named': {
      const patch = attribute(mesh, 'patch', 'face')?.data;
      const wanted = mesh.patches.map((p) => p === rule.name || p.startsWith(`${rule.name}/`));
      const mine = patch ? all.filter((f) => wanted[patch[f]]) : [];
      if (mine.length === 0) lost.add(rule.name);
      return mine;
    }
    case 'step': {
      const mine = all.filter((f) => patchOf(mesh, f).startsWith(`${rule.step}/`));
      if (mine.length === 0) lost.add(`${rule.step}/`);
      return mine;
    }
    case 'side': {
      const k = { x: 0, y: 1, z: 2 }[rule.axis];
      const sign = rule.way === 'above' ? 1 : -1;
      return all.filter((f) => sign * (centreOf(mesh, f)[k] - rule.beyond) >= 0);
    }
    case 'inside':
      return all.filter((f) => INSIDE.test(patchOf(mesh, f)));
    case 'alternate':
      return alternate(index, before, rule.pattern);
    case 'angle': {
      const { faces, lost: gone } = facesAt(index, rule.places);
      for (const p of gone) lost.add(p);
      return new Set(faces.flatMap((f) => facesFrom(mesh, f, 'spread', rule.degrees)));
    }
    case 'picked': {
      const { faces, lost: gone } = facesAt(index, rule.places);
      for (const p of gone) lost.add(p);
      return faces;
    }
  }
}

/** Of the faces chosen so far, those in every second column or row of their patch. */
function alternate(index: PatchIndex, before: Uint8Array, pattern: 'columns' | 'rows' | 'chequered'): number[] {
  const out: number[] = [];
  for (const faces of index.faces.values()) {
    const mine = faces.filter((f) => before[f]);
    const rank = (k: 0 | 2) => {
      const at = (f: number) => Math.round(((index.box[4 * f + k] + index.box[4 * f + k + 1]) / 2) * 1e6);
      const places = new Map([...new Set(mine.map(at))].sort((a, b) => a - b).map((x, i) => [x, i]));
      return (f: number) => places.get(at(f)) ?? 0;
    };
    const [column, row] = [rank(0), rank(2)];
    for (const f of mine) {
      const n = (pattern === 'rows' ? 0 : column(f)) + (pattern === 'columns' ? 0 : row(f));
      if (n % 2 === 0) out.push(f);
    }
  }
  return out;
}

/** The middle of a face's corners, mm. */
export function centreOf(mesh: PolyMesh, f: number): Vec3 {
  const [from, to] = [mesh.faceStart[f], mesh.faceStart[f + 1]];
  const c: [number, number, number] = [0, 0, 0];
  for (let i = from; i < to; i++) for (let k = 0; k < 3; k++) c[k] += mesh.positions[3 * mesh.faceVert[i] + k] / (to - from);
  return c;
}

/** What regions and picked seams of a part came to on its mesh. */
export interface Marks {
  regions: RegionFound[];
  /** Seams whose patch is gone. */
  lostSeams: string[];
}

/**
 * Puts a part's picked seams (`seam`, corner, and `joined` where they are closed) and regions with a weight of their own (`region`, face: place in the list + 1)
 * on its mesh, for the unwrap to cut along.
 */
export function marked(mesh: PolyMesh, regions: readonly Region[], seams: readonly PickedSeam[]): { mesh: PolyMesh; marks: Marks } {
  if (regions.length === 0 && seams.length === 0) return { mesh, marks: { regions: [], lostSeams: [] } };
  const index = patchIndex(mesh);
  const found = regions.map((r) => findRegion(mesh, r, index));
  let out = mesh;
  if (regions.some(isLaidApart)) {
    const data = new Uint8Array(faceCount(mesh));
    for (const [i, r] of found.entries()) if (isLaidApart(regions[i])) for (const f of r.faces) data[f] = i + 1;
    out = withAttribute(out, { name: 'region', domain: 'face', size: 1, data });
  }
  const lostSeams: string[] = [];
  if (seams.length > 0) {
    const data = new Uint8Array(cornerCount(mesh));
    const own = attribute(mesh, 'seam', 'corner')?.data;
    if (own) for (let c = 0; c < data.length; c++) data[c] = own[c];
    const joined = new Uint8Array(data.length);
    const finder = seams.some(isPath) ? new PathFinder(mesh) : null;
    // Later ones count where two meet.
    for (const s of seams) {
      const corners = cornersOf(s);
      if (!corners) lostSeams.push(s.id);
      else
        for (const c of corners) {
          const open = !isPath(s) || s.how === 'open';
          data[c] = open ? 1 : 0;
          joined[c] = open ? 0 : 1;
        }
    }
    out = withAttribute(out, { name: 'seam', domain: 'corner', size: 1, data });
    if (joined.includes(1)) out = withAttribute(out, { name: 'joined', domain: 'corner', size: 1, data: joined });

    function cornersOf(s: PickedSeam): number[] | null {
      if (!isPath(s)) return edgesAt(mesh, index, s);
      const edges = edgesOf(mesh);
      return finder?.edgesAlong(s)?.flatMap((e) => sidesOf(edges, e)) ?? null;
    }
  }
  return { mesh: out, marks: { regions: found, lostSeams } };
}

/** Patches a region or seam lost, with the step they belonged to. */
export const stepOfPatch = (patch: string): string => patch.split('/')[0];

/** The description of a rule's own figures, for the sheet. */
export const RULE_FIELDS: Record<Rule['kind'], { name: string; fields: readonly Field[] }> = {
  facing: {
    name: 'facing a direction',
    fields: [
      place('x', 'x', { min: -1, max: 1 }),
      place('y', 'y', { min: -1, max: 1 }),
      place('z', 'z', { min: -1, max: 1 }),
      angle('degrees', 'Within', { min: 0, max: 180 }),
    ],
  },
  named: { name: 'named by its file', fields: [words('name', 'Name')] },
  step: { name: 'made by a step', fields: [words('step', 'Step', { names: 'step' })] },
  side: {
    name: 'on one side',
    fields: [
      choice('axis', 'Along', [
        ['x', 'x'],
        ['y', 'y'],
        ['z', 'z'],
      ]),
      choice('way', 'Lies', [
        ['above', 'beyond'],
        ['below', 'before'],
      ]),
      place('beyond', 'Plane at'),
    ],
  },
  inside: { name: 'on the inside of walls', fields: [] },
  alternate: {
    name: 'every second one',
    fields: [
      choice('pattern', 'In', [
        ['columns', 'columns'],
        ['rows', 'rows'],
        ['chequered', 'both'],
      ]),
    ],
  },
  angle: { name: 'spread by angle', fields: [angle('degrees', 'Up to a turn of', { min: 0, max: 180 })] },
  picked: { name: 'picked by hand', fields: [] },
};

/** A region as it came from a request, checked. @throws InputError in one sentence */
export function checkRegion(plain: unknown): Region {
  const { id, name, rules, weight, pxPerCm = 0, grain = 'none', material } = (plain ?? {}) as Partial<Region>;
  const where = `the region “${String(name ?? '')}”`;
  if (typeof id !== 'string' || id.length === 0 || id.length > 60) throw new InputError('region/id', `${where} needs an id.`);
  if (typeof name !== 'string' || !name.trim() || name.length > 60)
    throw new InputError('region/name', 'A region needs a name of 1 to 60 letters.');
  if (typeof weight !== 'number' || !(weight >= 0.05 && weight <= 20))
    throw new InputError('region/weight', `The weight of ${where} can be 0.05 to 20.`);
  if (typeof pxPerCm !== 'number' || !(pxPerCm >= 0 && pxPerCm <= 10_000))
    throw new InputError('region/density', `The density of ${where} can be 0 to 10 000 px/cm.`);
  if (!Object.hasOwn(GRAINS, grain)) throw new InputError('region/grain', `The grain of ${where} is none there is.`);
  if (material !== undefined && (typeof material !== 'string' || material.length === 0 || material.length > 60))
    throw new InputError('region/material', `The material of ${where} is none.`);
  if (!Array.isArray(rules) || rules.length > 40) throw new InputError('region/rules', `${where} can have up to 40 rules.`);
  return {
    id,
    name: name.trim(),
    weight,
    ...(pxPerCm > 0 && { pxPerCm }),
    ...(grain !== 'none' && { grain }),
    ...(material !== undefined && { material }),
    rules: rules.map((r) => {
      const kind = (r?.rule as Rule | undefined)?.kind;
      if (kind === undefined || !Object.hasOwn(RULE_FIELDS, kind))
        throw new InputError('region/rule', `${where} has a rule of no known kind.`);
      if (r.how !== 'add' && r.how !== 'keep' && r.how !== 'remove')
        throw new InputError('region/how', `A rule of ${where} adds, keeps or removes.`);
      const own = checkFields(RULE_FIELDS[kind].fields, r.rule, `a rule of ${where}`);
      const places = kind === 'picked' || kind === 'angle' ? { places: checkPlaces((r.rule as { places?: unknown }).places, where) } : {};
      return { id: String(r.id).slice(0, 60), how: r.how, rule: { kind, ...own, ...places } as Rule };
    }),
  };
}

/** Picked seams as they came from a request, checked. @throws InputError in one sentence */
export function checkSeams(plain: unknown): PickedSeam[] {
  if (!Array.isArray(plain) || plain.length > MOST_PLACES) return checkLines(plain, 'the part');
  return plain.map((s) =>
    s !== null && typeof s === 'object' && 'points' in s ? checkPath(s, 'the part') : checkLines([s], 'the part')[0],
  );
}
