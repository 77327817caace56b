import { StageError } from '../errors';
import { linearToSrgb } from '../image/srgb';
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
  /** What it is baked from: where colours are painted. */
  painted: PolyMesh;
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

/** Every face’s place in a legend. */
export interface Ids {
  by: IdBy;
  legend: IdEntry[];
  /** By part: of each triangle its place in the legend, counted from 1; of the high mesh where colours were painted, else of the low one. */
  triangles: Map<string, Uint16Array>;
  strays: IdStray[];
  /** The strays have taken the colour round them. */
  cleaned: boolean;
}

const WITHOUT = 'without a material';
/** More colours than this are no ids: shades that were painted, or light that was baked. */
const MOST_COLOURS = 64;

/**
 * Colours for parts, materials or regions, or those that were painted on the vertices of what is baked from.
 *
 * @param clean whether patches that went astray take the colour round them
 * @throws StageError `bake/ids` where there are no painted colours, or more than could be ids
 */
export function idsOf(parts: readonly IdPart[], by: IdBy, clean = false): Ids {
  const legend: IdEntry[] = [];
  const places = new Map<string, number>();
  const place = (key: string, name: string, colour?: string): number => {
    const known = places.get(key);
    if (known !== undefined) return known;
    legend.push({ name, colour: colour ?? hex(idColour(legend.length + 1)) });
    places.set(key, legend.length);
    return legend.length;
  };
  const triangles = new Map<string, Uint16Array>();
  const strays: IdStray[] = [];
  let painted = 0;
  for (const p of parts) {
    const mesh = by === 'colour' ? p.painted : p.mesh;
    const colours = by === 'colour' ? coloursOf(mesh) : null;
    if (colours) painted++;
    const faces = colours
      ? Uint16Array.from(colours, (c) => place(c, c, c))
      : by === 'colour'
        ? new Uint16Array(faceCount(mesh)).fill(place(`part ${p.id}`, p.name))
        : markedFaces(p, by, place);
    if (legend.length > MOST_COLOURS && by === 'colour')
      throw new StageError('bake/ids', `“${p.name}” has more than ${MOST_COLOURS} colours on its vertices: these are shades, not ids.`);
    const own = straysOf(mesh, faces);
    for (const s of own) {
      strays.push({ part: p.id, partName: p.name, ...s });
      if (clean) for (const f of s.faces) faces[f] = s.in;
    }
    triangles.set(
      p.id,
      Uint16Array.from(mesh.triangleFace, (f) => faces[f]),
    );
  }
  if (by === 'colour' && painted === 0)
    throw new StageError('bake/ids', 'Nothing that is baked from has colours on its vertices; choose another kind of id.');
  return { by, legend, triangles, strays, cleaned: clean };
}

/** The place in the legend of every low face, by part, material or region; where a part has no region, the part’s own. */
function markedFaces(p: IdPart, by: IdBy, place: (key: string, name: string) => number): Uint16Array {
  const region = attribute(p.mesh, 'region', 'face')?.data;
  const whole = by === 'material' ? place(p.material ?? WITHOUT, p.material ?? WITHOUT) : place(`part ${p.id}`, p.name);
  const own = p.regions.map((r, i) =>
    by === 'part' ? whole : by === 'material' ? (r.material ? place(r.material, r.material) : whole) : place(`region ${p.id} ${i}`, r.name),
  );
  return Uint16Array.from({ length: faceCount(p.mesh) }, (_, f) => (region?.[f] ? (own[region[f] - 1] ?? whole) : whole));
}

/** The colour that most corners of each face have, `#rrggbb` as a screen shows it; null where vertices have none. */
function coloursOf(mesh: PolyMesh): string[] | null {
  const found = attribute(mesh, 'colour', 'corner');
  if (!found) return null;
  const { data, size } = found;
  const known = new Map<number, string>();
  const of = (c: number): string => {
    const [r, g, b] = [0, 1, 2].map((k) => Math.round(255 * linearToSrgb(Math.min(1, Math.max(0, data[size * c + k])))));
    const key = (r << 16) | (g << 8) | b;
    const made = known.get(key) ?? hex([r, g, b]);
    known.set(key, made);
    return made;
  };
  return Array.from({ length: faceCount(mesh) }, (_, f) => {
    const counts = new Map<string, number>();
    let best = '';
    for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++) {
      const colour = of(c);
      const n = (counts.get(colour) ?? 0) + 1;
      counts.set(colour, n);
      if (n > (counts.get(best) ?? 0)) best = colour;
    }
    return best;
  });
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
