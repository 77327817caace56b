import { at, cross, distance, dot, length, sub, type Vec3 } from '../maths/vec3';
import { type Edges, edgesOf, shellsOf, twin } from '../mesh/connectivity';
import { type Attribute, attribute, cornerCount, faceCount, makeMesh, type PolyMesh } from '../mesh/polymesh';
import { checkpoint, QUIET, type Task } from '../task';

/** A part that twins are looked for in. */
export interface TwinPart {
  mesh: PolyMesh;
  /** Only shells of one group can have each other’s texels: one material. Null where they are left alone: prints, grain. */
  group: string | null;
}

/** Which corner has whose texels. */
export interface Twins {
  /** Part → its corners’ counterparts: of which part each is, and which corner there; −1 where a corner has texels of its own. */
  of: { part: number; corner: Int32Array }[];
  /** Shells that have another’s texels, those of them that are mirrored, and their area, mm². */
  shells: number;
  mirrored: number;
  areaMm2: number;
}

/** Two lengths are one when they differ by less than this, as a share of the shell’s size: files keep single precision. */
const SAME = 2e-5;
/** Shells of a part that are looked at at most: of gravel no two are alike. */
const MOST_SHELLS = 4000;
/** Ways two shells are laid on each other that are tried at most. */
const MOST_TRIES = 600;

interface Shell {
  part: number;
  faces: number[];
  size: number;
  area: number;
  /** Area and number of sides of its faces, largest first: shells of one shape have one such list. */
  sides: { face: number; area: number; corners: number }[];
}

/**
 * Shells of one shape, as they are or mirrored, found whatever the order of their faces and vertices: faces are followed across edges from one
 * to the next on both, lengths of edges have to agree on the way, and the distances of all vertices from four of them in the end. The first of
 * them keeps its texels. A part whose shells are all twins of one other part’s is one of that; else they are only looked for within a part.
 */
export function findTwins(parts: readonly TwinPart[], task: Task = QUIET): Twins {
  const out: Twins = {
    of: parts.map((p, i) => ({ part: i, corner: new Int32Array(cornerCount(p.mesh)).fill(-1) })),
    shells: 0,
    mirrored: 0,
    areaMm2: 0,
  };
  const firsts: Shell[] = [];
  const followed = parts.map((p) => new Followed(p.mesh));
  for (const [i, { mesh, group }] of parts.entries()) {
    if (group === null) continue;
    const shells = shellsIn(mesh, i);
    if (shells.length > MOST_SHELLS) continue;
    const own: Shell[] = [];
    const found: { shell: Shell; match: Match }[] = [];
    const lookIn = (shell: Shell, list: readonly Shell[]): boolean => {
      checkpoint(task);
      for (const of of list) {
        const match = matched(followed, of, shell);
        if (!match) continue;
        found.push({ shell, match });
        return true;
      }
      return false;
    };
    // All of it another part's?
    const first = shells[0] && firsts.find((f) => parts[f.part].group === group && matched(followed, f, shells[0]));
    const others = first ? firsts.filter((f) => f.part === first.part) : [];
    if (!(first && shells.every((s) => lookIn(s, others)))) {
      found.length = 0;
      for (const s of shells) if (!lookIn(s, own)) own.push(s);
    } else out.of[i].part = first.part;
    firsts.push(...own);
    for (const { shell, match } of found) {
      for (const [from, to] of match.corners) out.of[i].corner[to] = from;
      out.shells++;
      out.areaMm2 += shell.area;
      if (match.mirrored) out.mirrored++;
    }
  }
  return out;
}

function shellsIn(mesh: PolyMesh, part: number): Shell[] {
  const { ofFace, count } = shellsOf(mesh);
  const shells = Array.from({ length: count }, (): Shell => ({ part, faces: [], size: 0, area: 0, sides: [] }));
  for (let f = 0; f < faceCount(mesh); f++) {
    const shell = shells[ofFace[f]];
    shell.faces.push(f);
    const area = faceArea(mesh, f);
    shell.area += area;
    shell.sides.push({ face: f, area, corners: mesh.faceStart[f + 1] - mesh.faceStart[f] });
  }
  for (const s of shells) {
    s.sides.sort((a, b) => b.area - a.area || a.face - b.face);
    const origin = at(mesh.positions, mesh.faceVert[mesh.faceStart[s.faces[0]]]);
    for (const f of s.faces)
      for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++)
        s.size = Math.max(s.size, distance(origin, at(mesh.positions, mesh.faceVert[c])));
  }
  return shells;
}

function faceArea(mesh: PolyMesh, f: number): number {
  const a = at(mesh.positions, mesh.faceVert[mesh.faceStart[f]]);
  let n: Vec3 = [0, 0, 0];
  for (let c = mesh.faceStart[f] + 1; c + 1 < mesh.faceStart[f + 1]; c++) {
    const one = cross(sub(at(mesh.positions, mesh.faceVert[c]), a), sub(at(mesh.positions, mesh.faceVert[c + 1]), a));
    n = [n[0] + one[0], n[1] + one[1], n[2] + one[2]];
  }
  return length(n) / 2;
}

interface Match {
  /** Corner of the first, corner of the second. */
  corners: Map<number, number>;
  mirrored: boolean;
}

/** How a shell lies on another, or null where it is none of its shape. */
function matched(parts: readonly Followed[], a: Shell, b: Shell): Match | null {
  if (a.faces.length !== b.faces.length) return null;
  const size = Math.max(a.size, b.size);
  const areas = 4 * SAME * size * size;
  if (Math.abs(a.area - b.area) > areas) return null;
  for (let i = 0; i < a.sides.length; i++) if (Math.abs(a.sides[i].area - b.sides[i].area) > areas) return null;
  const [A, B] = [parts[a.part].mesh, parts[b.part].mesh];
  // From the face that has the fewest like it: the ways to lay one on the other are then fewest too.
  const like = (s: Shell, of: Shell['sides'][number]) =>
    s.sides.filter((x) => x.corners === of.corners && Math.abs(x.area - of.area) <= areas);
  let seed = a.sides[0];
  let fewest = Infinity;
  for (const side of a.sides.slice(0, 64)) {
    const n = like(a, side).length;
    if (n < fewest) [seed, fewest] = [side, n];
  }
  let tries = 0;
  for (const { face } of like(b, seed))
    for (const mirrored of [false, true])
      for (let c = B.faceStart[face]; c < B.faceStart[face + 1]; c++) {
        if (tries++ > MOST_TRIES) return null;
        const corners = walked(parts[a.part], parts[b.part], [A.faceStart[seed.face], c], {
          mirrored,
          same: SAME * size,
          faces: a.faces.length,
        });
        if (corners && sameShape(A, B, corners, mirrored, SAME * size)) return { corners, mirrored };
      }
  return null;
}

/** A mesh that is followed from face to face. */
class Followed {
  private made: Edges | null = null;
  /** What was drawn by hand on one and not on the other makes two shells different. */
  readonly marks: (ArrayLike<number> | undefined)[];
  readonly region: ArrayLike<number> | undefined;

  constructor(readonly mesh: PolyMesh) {
    this.marks = ['seam', 'joined'].map((name) => attribute(mesh, name, 'corner')?.data);
    this.region = attribute(mesh, 'region', 'face')?.data;
  }

  get edges(): Edges {
    this.made ??= edgesOf(this.mesh);
    return this.made;
  }

  /** The corner before another round its face. */
  before(c: number): number {
    const f = this.edges.faceOf[c];
    return c > this.mesh.faceStart[f] ? c - 1 : this.mesh.faceStart[f + 1] - 1;
  }

  place(c: number): Vec3 {
    return at(this.mesh.positions, this.mesh.faceVert[c]);
  }
}

interface Way {
  mirrored: boolean;
  same: number;
  faces: number;
}

/** All corners of the shell of a corner of A, each with that of B, when those two are each other’s; null when they part somewhere. */
function walked(A: Followed, B: Followed, begin: [number, number], { mirrored, same, faces }: Way): Map<number, number> | null {
  const [ea, eb] = [A.edges, B.edges];
  const corners = new Map<number, number>();
  const vertices = new Map<number, number>();
  const waiting = [begin];
  const sides = (m: PolyMesh, f: number): number => m.faceStart[f + 1] - m.faceStart[f];
  let done = 0;
  while (waiting.length > 0) {
    const [first, other] = waiting.pop() as [number, number];
    const known = corners.get(first);
    if (known !== undefined) {
      if (known !== other) return null;
      continue;
    }
    const [f, g] = [ea.faceOf[first], eb.faceOf[other]];
    if (++done > faces || sides(A.mesh, f) !== sides(B.mesh, g) || (A.region?.[f] ?? 0) !== (B.region?.[g] ?? 0)) return null;
    let [x, y] = [first, other];
    do {
      const [v, w] = [A.mesh.faceVert[x], B.mesh.faceVert[y]];
      if ((vertices.get(v) ?? w) !== w) return null;
      vertices.set(v, w);
      corners.set(x, y);
      const [nextX, nextY] = [ea.next[x], mirrored ? B.before(y) : eb.next[y]];
      if (Math.abs(distance(A.place(x), A.place(nextX)) - distance(B.place(y), B.place(nextY))) > same) return null;
      // The edge from here on; the other way round it belongs to the corner it leads to.
      const edge = mirrored ? nextY : y;
      if (A.marks.some((m, k) => Boolean(m?.[x]) !== Boolean(B.marks[k]?.[edge]))) return null;
      const [across, beyond] = [twin(ea, x), twin(eb, edge)];
      if (across < 0 !== beyond < 0) return null;
      // Across it the corner stands at the vertex that comes next here.
      if (across >= 0) waiting.push([across, mirrored ? eb.next[beyond] : beyond]);
      [x, y] = [nextX, nextY];
    } while (x !== first);
  }
  return done === faces ? corners : null;
}

/** Whether vertices lie to each other as their counterparts do: all as far from four of them that lie well apart, and on the same side. */
function sameShape(A: PolyMesh, B: PolyMesh, corners: ReadonlyMap<number, number>, mirrored: boolean, same: number): boolean {
  const pairs = [...new Map([...corners].map(([x, y]) => [A.faceVert[x], B.faceVert[y]]))].map(
    ([v, w]) => [at(A.positions, v), at(B.positions, w)] as const,
  );
  const far = (of: (p: Vec3) => number): readonly [Vec3, Vec3] => pairs.reduce((best, x) => (of(x[0]) > of(best[0]) ? x : best), pairs[0]);
  const p = pairs[0];
  const q = far((x) => distance(x, p[0]));
  const r = far((x) => length(cross(sub(x, p[0]), sub(q[0], p[0]))));
  const n = cross(sub(q[0], p[0]), sub(r[0], p[0]));
  const s = far((x) => Math.abs(dot(sub(x, p[0]), n)));
  const stand = [p, q, r, s];
  for (const [x, y] of pairs) for (const [u, v] of stand) if (Math.abs(distance(x, u) - distance(y, v)) > 2 * same) return false;
  const volume = (k: 0 | 1): number => dot(sub(s[k], p[k]), cross(sub(q[k], p[k]), sub(r[k], p[k])));
  const [a, b] = [volume(0), volume(1)];
  const flat = Math.abs(a) <= same * length(n);
  return flat || a > 0 === (mirrored ? b < 0 : b > 0);
}

/** A mesh without some of its faces, and which corner each of its corners was. Vertices stay, whether a face has them or not. */
export function withoutFaces(mesh: PolyMesh, gone: ArrayLike<number>): { mesh: PolyMesh; corner: Int32Array; face: Int32Array } {
  const faces: number[] = [];
  const corners: number[] = [];
  const faceStart = [0];
  for (let f = 0; f < faceCount(mesh); f++) {
    if (gone[f]) continue;
    faces.push(f);
    for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++) corners.push(c);
    faceStart.push(corners.length);
  }
  const kept = { corner: corners, face: faces };
  const attributes = mesh.attributes.map((a): Attribute => {
    if (a.domain === 'vertex') return a;
    const from = kept[a.domain];
    const data = a.data.slice(0, a.size * from.length);
    from.forEach((x, i) => {
      for (let k = 0; k < a.size; k++) data[a.size * i + k] = a.data[a.size * x + k];
    });
    return { ...a, data };
  });
  const left = makeMesh({
    positions: mesh.positions,
    faceStart,
    faceVert: corners.map((c) => mesh.faceVert[c]),
    attributes,
    patches: mesh.patches,
  });
  return { mesh: left, corner: Int32Array.from(corners), face: Int32Array.from(faces) };
}

/** Faces that have another’s texels (face attribute `twin`): 1 where they do. */
export const twinFaces = (mesh: PolyMesh): ArrayLike<number> | undefined => attribute(mesh, 'twin', 'face')?.data;
/** Whether all of a part has another’s texels. */
export const isTwin = (mesh: PolyMesh): boolean => {
  const faces = twinFaces(mesh);
  return faces !== undefined && faces.length > 0 && Array.from(faces).every((x) => x === 1);
};
