import { areaOf } from '../mesh/measures';
import { attribute, cornerFaces, nextCorner, type PolyMesh, withAttribute, withoutAttribute } from '../mesh/polymesh';
import type { Task } from '../task';
import type { LayoutFigures } from '../uv/measure';
import { findTwins, type Twins, withoutFaces } from '../uv/twins';
import type { PartMesh } from './form';
import type { UnwrapSettings } from './unwrap';

/** Parts without the faces that have the texels of others, and how the layout of those gets back to them. */
export interface TwinsLeftOut {
  whole: readonly PartMesh[];
  parts: PartMesh[];
  found: Twins;
  /** Part id → which corners and faces of it are left, where not all are. */
  left: Map<string, { corner: Int32Array; face: Int32Array }>;
  figures: NonNullable<LayoutFigures['twins']>;
}

/** Looks for shells of one shape and leaves out all but the first of them; null where there are none. */
export function leaveTwinsOut(whole: readonly PartMesh[], settings: UnwrapSettings, task: Task): TwinsLeftOut | null {
  if (!settings.alike) return null;
  // A print would be repeated or mirrored, a grain turned; a layout that is kept says itself who has whose texels.
  const alone = (p: PartMesh): boolean =>
    settings.alike?.[p.id] === undefined ||
    settings.wholeParts?.includes(p.id) === true ||
    settings.grain?.[p.id] !== undefined ||
    settings.regionWays?.[p.id] !== undefined ||
    ((settings.filed ?? 'anew') !== 'anew' && attribute(p.mesh, 'uv', 'corner') !== undefined);
  const found = findTwins(
    whole.map((p) => ({ mesh: p.mesh, group: alone(p) ? null : (settings.alike?.[p.id] ?? null) })),
    task,
  );
  if (found.shells === 0) return null;
  const left: TwinsLeftOut['left'] = new Map();
  const parts = whole.flatMap((p, i): PartMesh[] => {
    const { corner } = found.of[i];
    const gone = facesGone(p.mesh, corner);
    if (!gone.includes(1)) return [p];
    if (!gone.includes(0)) return [];
    const { mesh, ...kept } = withoutFaces(p.mesh, gone);
    left.set(p.id, kept);
    return [{ ...p, mesh }];
  });
  const all = whole.reduce((s, p) => s + areaOf(p.mesh), 0);
  const { shells, mirrored, areaMm2 } = found;
  return { whole, parts, found, left, figures: { shells, mirrored, savedShare: areaMm2 / (all || 1) } };
}

/** The looks at the faces of a part that are left of it, each the mean of those at it and at its twins, which have its texels. */
export function leftLooks(
  { whole, found, left }: TwinsLeftOut,
  id: string,
  looks: ReadonlyMap<string, Float32Array>,
): Float32Array | undefined {
  const mine = whole.findIndex((p) => p.id === id);
  const own = looks.get(id);
  if (!own || mine < 0) return own;
  const [sum, count] = [Float64Array.from(own), new Uint32Array(own.length).fill(1)];
  const faceOf = cornerFaces(whole[mine].mesh);
  for (const [i, { part, corner }] of found.of.entries()) {
    const theirs = looks.get(whole[i].id);
    if (part !== mine || !theirs) continue;
    const { faceStart } = whole[i].mesh;
    for (let f = 0; f < theirs.length; f++) {
      const of = corner[faceStart[f]];
      if (of < 0) continue;
      sum[faceOf[of]] += theirs[f];
      count[faceOf[of]]++;
    }
  }
  const mean = Float32Array.from(sum, (s, f) => s / count[f]);
  const faces = left.get(id)?.face;
  return faces ? Float32Array.from(faces, (f) => mean[f]) : mean;
}

/** Parts that are twins altogether come after what they are twins of. */
const firstsFirst = ({ of }: Twins): number[] =>
  [...of.keys()].sort((a, b) => Number(of[a].part !== a) - Number(of[b].part !== b) || a - b);

const facesGone = (mesh: PolyMesh, corner: Int32Array): Uint8Array =>
  Uint8Array.from({ length: mesh.faceStart.length - 1 }, (_, f) => Number(corner[mesh.faceStart[f]] >= 0));

/** Parts whole again: twins with the layout of what they are twins of, and marked as such (face attribute `twin`). */
export function withTwins({ whole, found, left }: TwinsLeftOut, out: readonly PartMesh[]): PartMesh[] {
  const made: PartMesh[] = [];
  for (const i of firstsFirst(found)) {
    const p = whole[i];
    const { part, corner } = found.of[i];
    const own = out.find((q) => q.id === p.id)?.mesh;
    const gone = facesGone(p.mesh, corner);
    if (own && !gone.includes(1)) {
      made[i] = { ...p, mesh: own };
      continue;
    }
    const uv = new Float64Array(2 * corner.length);
    const island = new Int32Array(gone.length);
    const kept = left.get(p.id);
    const [ownUv, ownIsland] = own ? [attribute(own, 'uv', 'corner')?.data, attribute(own, 'island', 'face')?.data] : [];
    kept?.corner.forEach((c, k) => {
      uv[2 * c] = ownUv?.[2 * k] ?? 0;
      uv[2 * c + 1] = ownUv?.[2 * k + 1] ?? 0;
    });
    kept?.face.forEach((f, k) => {
      island[f] = ownIsland?.[k] ?? 0;
    });
    const from = part === i ? { uv, island, mesh: p.mesh } : layoutOf(made[part].mesh);
    const faceOf = cornerFaces(from.mesh);
    for (let f = 0; f < gone.length; f++) {
      if (!gone[f]) continue;
      for (let c = p.mesh.faceStart[f]; c < p.mesh.faceStart[f + 1]; c++) {
        uv[2 * c] = from.uv[2 * corner[c]];
        uv[2 * c + 1] = from.uv[2 * corner[c] + 1];
      }
      island[f] = from.island[faceOf[corner[p.mesh.faceStart[f]]]];
    }
    const bare = withoutAttribute(withoutAttribute(p.mesh, 'chart'), 'flat');
    const laid = withAttribute(withAttribute(bare, { name: 'uv', domain: 'corner', size: 2, data: uv }), {
      name: 'island',
      domain: 'face',
      size: 1,
      data: island,
    });
    made[i] = { ...p, mesh: withAttribute(laid, { name: 'twin', domain: 'face', size: 1, data: gone }) };
  }
  return made;
}

/** What is said of the edges of the corners that are left, for all of them: those of twins as those they are twins of. */
export function edgesWithTwins(of: ReadonlyMap<string, Uint8Array>, { whole, found, left }: TwinsLeftOut): Map<string, Uint8Array> {
  const out = new Map<string, Uint8Array>();
  for (const i of firstsFirst(found)) {
    const { id, mesh } = whole[i];
    const { part, corner } = found.of[i];
    const own = of.get(id);
    const kept = left.get(id);
    const mine = own && !kept ? own.slice() : new Uint8Array(corner.length);
    kept?.corner.forEach((c, k) => {
      mine[c] = own?.[k] ?? 0;
    });
    const from = part === i ? { mesh, said: mine } : { mesh: whole[part].mesh, said: out.get(whole[part].id) ?? mine };
    const faceOf = cornerFaces(from.mesh);
    for (let f = 0; f + 1 < mesh.faceStart.length; f++)
      for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++) {
        if (corner[c] < 0) continue;
        const next = corner[nextCorner(mesh, f, c)];
        // Of what is mirrored the edge belongs to the corner at its other end.
        mine[c] = from.said[nextCorner(from.mesh, faceOf[corner[c]], corner[c]) === next ? corner[c] : next];
      }
    out.set(id, mine);
  }
  return out;
}

const layoutOf = (mesh: PolyMesh) => ({
  mesh,
  uv: attribute(mesh, 'uv', 'corner')?.data as Float64Array,
  island: attribute(mesh, 'island', 'face')?.data as Int32Array,
});
