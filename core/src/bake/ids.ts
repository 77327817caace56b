import { edgesOf, edgeValence, Groups } from '../mesh/connectivity';
import { triangleArea } from '../mesh/measures';
import { attribute, faceCount, type PolyMesh } from '../mesh/polymesh';
import { hex, idColour } from './maps/files';
import type { IdBy } from './maps/further';

/** What the id map knows of a part beside its mesh. */
export interface IdPart {
  id: string;
  name: string;
  mesh: PolyMesh;
  material: string | null;
  /** In the order that the mesh’s `region` counts them from 1; with a material of their own where a file gave them one. */
  regions: readonly { name: string; material: string | null }[];
}

/** A colour of the map. */
export interface IdEntry {
  name: string;
  /** `#rrggbb` */
  colour: string;
}

/** Faces that have another colour than all round them. */
export interface IdStray {
  part: string;
  partName: string;
  /** Colour they have, and the one round them: places in the legend. */
  is: number;
  in: number;
  /** The region of the part they are in, and the one round them: counted from 1, 0 for none. */
  from: number;
  to: number;
  faces: number[];
  areaMm2: number;
}

/** Every low face’s place in a legend. */
export interface Ids {
  by: IdBy;
  legend: IdEntry[];
  /** By part: of each triangle its place in the legend, counted from 1. */
  triangles: Map<string, Uint16Array>;
  strays: IdStray[];
}

const WITHOUT = 'without a material';

/** Colours for parts, materials or regions; where a part has no region, itself. */
export function idsOf(parts: readonly IdPart[], by: IdBy): Ids {
  const names = new Map<string, number>();
  const entry = (key: string): number => {
    const known = names.get(key) ?? names.size + 1;
    names.set(key, known);
    return known;
  };
  const labels: string[] = [];
  const named = (key: string, label: string): number => {
    const at = entry(key);
    labels[at - 1] = label;
    return at;
  };
  const triangles = new Map<string, Uint16Array>();
  const strays: IdStray[] = [];
  for (const p of parts) {
    const region = attribute(p.mesh, 'region', 'face')?.data;
    const whole = by === 'material' ? named(p.material ?? WITHOUT, p.material ?? WITHOUT) : named(`part ${p.id}`, p.name);
    const own = p.regions.map((r, i) =>
      by === 'part'
        ? whole
        : by === 'material'
          ? r.material
            ? named(r.material, r.material)
            : whole
          : named(`region ${p.id} ${i}`, r.name),
    );
    const faces = Uint16Array.from({ length: faceCount(p.mesh) }, (_, f) => (region?.[f] ? (own[region[f] - 1] ?? whole) : whole));
    triangles.set(
      p.id,
      Uint16Array.from(p.mesh.triangleFace, (f) => faces[f]),
    );
    for (const s of straysOf(p.mesh, faces)) strays.push({ part: p.id, partName: p.name, ...s });
  }
  return { by, legend: labels.map((name, i) => ({ name, colour: hex(idColour(i + 1)) })), triangles, strays };
}

/** A patch of a colour is astray when it is no larger than this share of all that has its colour, and than that of what is round it. */
const SHARE = 0.05;

/** Patches of faces that lie wholly inside another colour while most of their own lies elsewhere. */
function straysOf(mesh: PolyMesh, ids: Uint16Array): Omit<IdStray, 'part' | 'partName'>[] {
  const edges = edgesOf(mesh);
  const region = attribute(mesh, 'region', 'face')?.data;
  const groups = new Groups(ids.length);
  const pairs: [number, number][] = [];
  for (let e = 0; e < edges.count; e++) {
    if (edgeValence(edges, e) !== 2) continue;
    const [f, g] = [edges.faceOf[edges.corners[edges.start[e]]], edges.faceOf[edges.corners[edges.start[e] + 1]]];
    if (ids[f] === ids[g]) groups.join(f, g);
    else pairs.push([f, g]);
  }
  if (pairs.length === 0) return [];
  const area = new Map<number, number>();
  const ofColour = new Map<number, number>();
  const add = (to: Map<number, number>, key: number, x: number) => to.set(key, (to.get(key) ?? 0) + x);
  for (let t = 0; t < mesh.triangleFace.length; t++) {
    const f = mesh.triangleFace[t];
    const a = triangleArea(mesh, t);
    add(area, groups.find(f), a);
    add(ofColour, ids[f], a);
  }
  /** Of each patch the colours round it, each with a face that has it. */
  const round = new Map<number, Map<number, number>>();
  for (const [f, g] of pairs)
    for (const [a, b] of [
      [f, g],
      [g, f],
    ]) {
      const r = groups.find(a);
      round.set(r, (round.get(r) ?? new Map()).set(ids[b], b));
    }
  const out = new Map<number, Omit<IdStray, 'part' | 'partName'>>();
  for (let f = 0; f < ids.length; f++) {
    const r = groups.find(f);
    const others = round.get(r);
    if (others?.size !== 1) continue;
    const [[around, beside]] = others;
    const own = area.get(r) ?? 0;
    if (own > SHARE * (ofColour.get(ids[f]) ?? 0) || own > SHARE * (ofColour.get(around) ?? 0)) continue;
    const known = out.get(r) ?? { is: ids[f], in: around, from: region?.[f] ?? 0, to: region?.[beside] ?? 0, faces: [], areaMm2: own };
    known.faces.push(f);
    out.set(r, known);
  }
  return [...out.values()];
}
