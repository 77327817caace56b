import { noCounts } from '@wellmorph/core/bake/bands';
import { BandBaker } from '@wellmorph/core/bake/cast';
import { emptyTexels } from '@wellmorph/core/bake/texels';
import { layoutMap, layoutPng, layoutSvg } from '@wellmorph/core/drawing/layout';
import { islandTemplate, templatePng, templateSheet, templateWords } from '@wellmorph/core/drawing/template';
import { sheetFile } from '@wellmorph/core/drawing/vector-sheet';
import { CancelledError, InputError, WellmorphError } from '@wellmorph/core/errors';
import { pickedFace } from '@wellmorph/core/form/fit';
import { lineOf, patchIndex, placesOf, spotOf } from '@wellmorph/core/form/places';
import { clickedWay, isCut } from '@wellmorph/core/form/seam-paths';
import { facesFrom } from '@wellmorph/core/form/select';
import { hashOf } from '@wellmorph/core/hash';
import { linearToSrgb } from '@wellmorph/core/image/srgb';
import { groundShade } from '@wellmorph/core/inspect/ground';
import { sectionThrough } from '@wellmorph/core/inspect/section';
import { at } from '@wellmorph/core/maths/vec3';
import { decodeMesh, encodeMesh } from '@wellmorph/core/mesh/codec';
import { boundaryLoops, type Edges, edgesOf, edgeValence } from '@wellmorph/core/mesh/connectivity';
import { gpuMesh } from '@wellmorph/core/mesh/gpu';
import { attribute, type PolyMesh, triangleCount } from '@wellmorph/core/mesh/polymesh';
import { packAsset } from '@wellmorph/core/pipeline/asset-file';
import { aboutParts, bakeSettings, prepareBake, previewOf } from '@wellmorph/core/pipeline/bake';
import { bakeTexels, finishBake } from '@wellmorph/core/pipeline/bake-finish';
import type { SidesKept } from '@wellmorph/core/pipeline/bake-sides';
import { bakeWindow } from '@wellmorph/core/pipeline/bake-window';
import { decodeParts, encodeParts } from '@wellmorph/core/pipeline/bundle';
import { type AssetDocument, sharers } from '@wellmorph/core/pipeline/document';
import { deliversTangents } from '@wellmorph/core/pipeline/export';
import { formAsset, type LoadMesh, type PartMesh } from '@wellmorph/core/pipeline/form';
import { formAndInspect } from '@wellmorph/core/pipeline/forming';
import { asGathered } from '@wellmorph/core/pipeline/gathered';
import { cardOf, inspectAsset, ledgerOf, withWaivers } from '@wellmorph/core/pipeline/inspect';
import { labelled, unlabelled } from '@wellmorph/core/pipeline/labels';
import { makeLevels } from '@wellmorph/core/pipeline/levels';
import { lookClosely } from '@wellmorph/core/pipeline/look';
import { mend } from '@wellmorph/core/pipeline/mend';
import { MeshCache } from '@wellmorph/core/pipeline/mesh-cache';
import { cagesOf, type DistancesKept, measurePairs } from '@wellmorph/core/pipeline/pair-lies';
import { reportOf, reportText } from '@wellmorph/core/pipeline/report';
import { setDown } from '@wellmorph/core/pipeline/rest';
import { nameOf } from '@wellmorph/core/pipeline/results';
import { seamsLit } from '@wellmorph/core/pipeline/seams-lit';
import { protectedFaces, simplifyParts, withoutSimplify } from '@wellmorph/core/pipeline/simplify';
import { solveFormed } from '@wellmorph/core/pipeline/solve';
import { givenBack } from '@wellmorph/core/pipeline/unstray';
import { type LaidAsset, layIslands, looksOf, placeIslands, unwrapSettings } from '@wellmorph/core/pipeline/unwrap';
import { viewAsset } from '@wellmorph/core/pipeline/views';
import { rayWords } from '@wellmorph/core/rays/kernel/host';
import { takeLane } from '@wellmorph/core/rays/kernel/lanes';
import { sharedRoom } from '@wellmorph/core/rays/tree';
import { checkpoint, part, type Task } from '@wellmorph/core/task';
import { placeAtTile } from '@wellmorph/core/uv/at-tile';
import { gapField } from '@wellmorph/core/uv/hand/gaps';
import { findPlaces, islandPlaces } from '@wellmorph/core/uv/hand/places';
import { edgesCut } from '@wellmorph/core/uv/seams/measure';
import { SECOND, secondAsFirst } from '@wellmorph/core/uv/second';
import { isTwin } from '@wellmorph/core/uv/twins';
import { layoutView } from '@wellmorph/core/uv/views';
import { rampOf } from '@/shared/ramp';
import { drawnCard } from './card';
import { drawnView } from './drawn';
import { gatherHandlers } from './gather';
import { bytes, type Handlers } from './handlers';
import { kits } from './kit';
import { pictureHandlers } from './picture';
import { projectHandlers } from './project';
import type { Answer, Ask, Bytes, GpuPart, IslandPath, Kind, Meshes, Work } from './protocol';

/** Where the heavy work of the sheet happens; one request at a time, stateless between them. */
const scope = self as unknown as {
  onmessage: ((e: MessageEvent<Ask>) => void) | null;
  postMessage(message: Answer, transfer?: Transferable[]): void;
};

const handlers: Handlers = {
  async form({ document, meshes, card, files }, task) {
    const made = formAndInspect(document, loader(meshes), memory, await kits.best(document), task);
    const { parts, aids } = made.result;
    return {
      parts: made.parts,
      gpu: parts.map((p) => gpuPart(p)),
      aids: made.aids,
      aidGpu: aids.map((p) => gpuPart(p)),
      figures: made.figures,
      found: made.found,
      whole: made.whole,
      thumbnail: card && (await drawnCard(card, parts, files)),
    };
  },
  show({ parts }) {
    const decoded = decodeParts(parts);
    return { gpu: decoded.map(gpuPart), islands: decoded.flatMap(islandPaths), second: secondPaths(decoded) };
  },
  async high({ document, meshes }) {
    const { parts, problems, steps } = labelled(
      formAsset(unlabelled(document), 'high', loader(meshes), memory, await kits.best(document)),
      document,
    );
    return {
      problems,
      steps,
      gpu: parts.map((p) => gpuPart(p, false)),
      triangles: parts.reduce((n, p) => n + triangleCount(p.mesh) * p.placements.length, 0),
    };
  },
  face({ parts, part, face, point, copy }) {
    const found = decodeParts(parts).find((p) => p.id === part);
    if (!found) throw new InputError('face/part', 'The part that was clicked is not there any more.');
    return pickedFace(found.mesh, face, point, found.placements[copy] ?? found.placements[0]);
  },
  rest({ parts, ids }, task) {
    const { by, contacts, gap, tipsAt } = setDown(decodeParts(parts), ids, task);
    return { by, contacts: contacts.length, gap, tipsAt };
  },
  shade: ({ parts }, task) => groundShade(parts, task),
  section: ({ parts, plane }) => sectionThrough(decodeParts(parts), plane),
  pick({ parts, part, face, reach, degrees, faces, remove }) {
    const mesh = meshOf(parts, part);
    const chosen = new Set(faces);
    for (const f of facesFrom(mesh, face, reach, degrees)) {
      if (remove) chosen.delete(f);
      else chosen.add(f);
    }
    const list = [...chosen];
    return { places: placesOf(mesh, patchIndex(mesh), list), faces: list };
  },
  seam({ parts, part, face, point, whole }) {
    const mesh = meshOf(parts, part);
    const line = lineOf(mesh, face, nearestEdge(mesh, face, point));
    return line && whole ? { ...line, from: 0, to: 1 } : line;
  },
  seamPath({ parts, part, at: clicked, reach, from }) {
    const mesh = meshOf(parts, part);
    const found = 'tile' in clicked ? placeAtTile(mesh, clicked.tile, clicked.island) : clicked;
    if (!found) throw new WellmorphError('layout/missing', 'That island is not there any more.');
    const { face, point } = found;
    const way = clickedWay(mesh, face, point, reach, from);
    const line = reach === 'path' ? null : lineOf(mesh, face, nearestEdge(mesh, face, point));
    return {
      points: way.map((v) => at(mesh.positions, v)),
      cut: isCut(mesh, way, attribute(mesh, 'seam', 'corner')?.data),
      line: line && reach === 'line' ? { ...line, from: 0, to: 1 } : line,
    };
  },
  spot({ parts, part, face, point }) {
    const mesh = meshOf(parts, part);
    return spotOf(mesh, face, point);
  },
  // What is only known when it is made (copies that lie on others, surfaces cut and joined) is made and counted.
  async solve({ document, meshes, limit }, task) {
    const kit = await kits.best(document);
    const formed = (d: AssetDocument) => {
      checkpoint(task);
      return formAsset(unlabelled(d), 'low', loader(meshes), memory, kit);
    };
    return solveFormed(document, formed, limit);
  },
  unwrap({ document, low }, task) {
    const settings = unwrapSettings(document);
    const laid = placeIslands(flatOf(document, low, task), settings, part(task, 0.6, 1));
    const size = document.brief.limits.textureSize;
    return {
      parts: encodeParts(laid.parts),
      gpu: laid.parts.map((p) => gpuPart(p)),
      islands: laid.parts.flatMap(islandPaths),
      second: secondPaths(laid.parts),
      figures: laid.figures,
      png: bytes(layoutPng(laid.parts, size)),
      svg: layoutSvg(laid.parts, size),
    };
  },
  places({ document, parts }) {
    const laid = ownLayouts(document, parts);
    const given = findPlaces(
      laid.map((p) => ({ ...p, island: attribute(p.mesh, 'island', 'face')?.data ?? [] })),
      document.unwrap.places ?? [],
    );
    const of = new Map(document.unwrap.places?.map((p, i) => [`${p.part}/${given.island[i]}`, i]));
    return islandPlaces(laid).map((p) => ({ ...p, given: of.get(`${p.place.part}/${p.island}`) ?? -1 }));
  },
  around: ({ document, parts, part: id, island }) => gapField(ownLayouts(document, parts), id, island, document.brief.limits.textureSize),
  layoutPicture({ parts, size, second, as }) {
    const laid = second ? decodeParts(parts).map(secondAsFirst) : decodeParts(parts);
    return { file: bytes(as === 'svg' ? new TextEncoder().encode(layoutSvg(laid, size)) : layoutPng(laid, size)) };
  },
  layoutView({ document, parts, kind }, task) {
    const laid = decodeParts(parts);
    const looks = kind === 'looks' ? looksOf(laid, unwrapSettings(document), task) : laid.map(() => new Float32Array(0));
    const made = layoutView(
      kind,
      laid.map((p, i) => ({ ...p, looks: looks[i] })),
      document.brief.limits.textureSize,
    );
    const ramp = rampOf(made.view);
    const values = made.view.parts.map((p) => p.values as Float32Array);
    return {
      ...made,
      drawn: Object.fromEntries(laid.map((p, i) => [p.id, drawnView(gpuPart(p), values[i], made.view)])),
      map: bytes(layoutMap(laid, MAP_SIZE, (i, t) => ramp(values[i][3 * t]).map((x) => Math.round(255 * linearToSrgb(x))))),
    };
  },
  async template({ parts, part, name, island, options, as }) {
    const found = decodeParts(parts).find((p) => p.id === part);
    if (!found) throw new WellmorphError('part/missing', 'That part is not there any more.');
    const template = islandTemplate({ name, mesh: found.mesh }, island, options);
    const words = templateWords(template);
    if (as === 'words') return { words, file: null };
    return { words, file: bytes(as === 'png' ? templatePng(found.mesh, template) : await sheetFile(templateSheet(template), as)) };
  },
  async pairs({ document, parts, meshes }, task) {
    const { parts: high } = formAsset(document, 'high', loader(meshes), memory, await kits.best(document));
    return measurePairs(decodeParts(parts), high, new Set(document.parts.flatMap((p) => (p.high ? [p.id] : []))), task);
  },
  seamsLit: ({ document, laid, seams }) => seamsLit(document, decodeParts(laid), seams),
  gathered({ document, laid, figures }) {
    const { parts } = asGathered(document, decodeParts(laid), figures, (m) => m);
    return { gpu: parts.map((p) => gpuPart(p)), islands: parts.flatMap(islandPaths) };
  },
  givenBack: ({ document, parts, strays }) => givenBack(document, decodeParts(parts), strays),
  async cage({ document, parts, meshes }, task) {
    const low = decodeParts(parts);
    const key = highKey(document, 'form');
    if (caged?.key !== key) {
      const { parts: high } = formAsset(document, 'high', loader(meshes), undefined, await kits.best(document));
      caged = { key, high, distances: new Map() };
    }
    return cagesOf(low, caged.high, bakeSettings(document), task, caged.distances);
  },
  async bakePreview({ document, laid, meshes }, task) {
    const { low, high, sides } = await measured(document, laid, meshes);
    const settings = previewOf(bakeSettings(document));
    const started = performance.now();
    const made = prepareBake(low, high, aboutParts(document), settings, part(task, 0, 0.4), undefined, sides);
    const texels = bakeTexels(made.prepared, part(task, 0.4, 0.9));
    return finishBake(made, texels, settings, low, (performance.now() - started) / 1000, part(task, 0.9, 1));
  },
  async bakeWarm({ document, laid, meshes }, task) {
    const { low, high, sides } = await measured(document, laid, meshes);
    prepareBake(low, high, aboutParts(document), previewOf(bakeSettings(document)), task, undefined, sides);
    return null;
  },
  async bakeWindow({ document, laid, meshes, rect, map }, task) {
    const { low, high, sides } = await measured(document, laid, meshes);
    const settings = bakeSettings(document);
    const made = prepareBake(low, high, aboutParts(document), settings, part(task, 0, 0.4), undefined, sides);
    return bakeWindow(made, settings, rect, map, part(task, 0.4, 1));
  },
  async prepare({ document, laid, meshes }, task) {
    const low = decodeParts(laid);
    const { parts: high, problems } = formAsset(document, 'high', loader(meshes), undefined, await kits.best(document));
    // A map without what a step should have engraved would only be seen when it is looked at closely.
    if (problems.length > 0) throw new WellmorphError('bake/high', `The high mesh isn’t whole: ${problems[0].message}`);
    const shared = sharedRoom();
    const settings = bakeSettings(document);
    const bake = prepareBake(low, high, aboutParts(document), settings, task, shared);
    return { bake, texels: emptyTexels(bake.prepared, shared) };
  },
  bands({ prepared, texels, bands, next }, task) {
    const baker = new BandBaker(prepared, texels);
    const done: Work['bands']['answer'] = [];
    for (let i = Atomics.add(next, 0, 1); i < bands.length; i = Atomics.add(next, 0, 1)) {
      checkpoint(task);
      texels.counts = noCounts(prepared.pairs.length);
      baker.bake(bands[i]);
      done.push({ band: bands[i], counts: texels.counts });
      task.progress((i + 1) / bands.length, rayWords('casting rays'));
    }
    return done;
  },
  async finish({ document, bake, texels, laid, seconds }, task) {
    return finishBake(bake, texels, bakeSettings(document), decodeParts(laid), seconds, task);
  },
  async inspect({ document, meshes }, task) {
    return lookClosely(document, await formed(document, meshes), memory, task);
  },
  async view({ document, meshes, kind }, task) {
    const { parts } = await formed(document, meshes);
    const view = viewAsset(document, parts, kind, task);
    const values = (id: string) => view.parts.find((v) => v.id === id)?.values;
    const drawn = parts.flatMap((p) => {
      const own = values(p.id);
      return own ? [[p.id, drawnView(gpuPart(p), own, view)] as const] : [];
    });
    return { view, drawn: Object.fromEntries(drawn) };
  },
  async fix({ document, meshes, finding, fix, newId }, task) {
    const mended = mend(document, await formed(document, meshes), finding, fix, loader(meshes), newId, task);
    if ('commands' in mended) return mended;
    return { ...mended, mesh: bytes(encodeMesh(mended.mesh)), triangles: triangleCount(mended.mesh) };
  },
  async report({ document, meshes, file }, task) {
    const made = await formed(document, meshes);
    const ledger = ledgerOf(made.parts, memory, deliversTangents(document), [], sharers(document));
    const look = lookClosely(document, made, memory, task);
    const findings = withWaivers(document, [...inspectAsset(document, made, ledger, task, memory), ...look.findings]);
    const report = reportOf(document, file, made.parts, ledger, findings, look.neighbours);
    return { json: `${JSON.stringify(report, null, 2)}\n`, text: reportText(report) };
  },
  pack: ({ document, meshes }) => bytes(packAsset(document, (blob) => meshes[blob])),
  async levels({ document, meshes }, task) {
    await kits.load('simplifier');
    const { parts } = await formed(document, meshes);
    return makeLevels(document, parts, await kits.best(document), task).map(({ parts: _, ...level }) => level);
  },
  async simplify({ document, meshes, triangles }, task) {
    await kits.load('simplifier');
    const kit = await kits.best(document);
    const { parts } = await formed(withoutSimplify(document), meshes);
    return simplifyParts(kit, parts, triangles, task, protectedFaces(document)).off;
  },
  ...pictureHandlers,
  ...gatherHandlers,
  ...projectHandlers,
};

/** Meshes that bakes were previewed of last, with all that follows from them alone. */
let previewed: { key: string; low: PartMesh[]; high: PartMesh[]; sides: SidesKept } | null = null;
async function measured(document: AssetDocument, laid: Bytes, meshes: Meshes): Promise<NonNullable<typeof previewed>> {
  const key = highKey(document, 'unwrap');
  if (previewed?.key === key) return previewed;
  const { parts: high } = formAsset(document, 'high', loader(meshes), undefined, await kits.best(document));
  previewed = { key, low: decodeParts(laid), high, sides: new Map() };
  return previewed;
}

/** Distances that a cage was last drawn by, and the meshes they were measured on. */
let caged: { key: string; high: PartMesh[]; distances: DistancesKept } | null = null;
/** What the two meshes of every part follow from. */
const highKey = (document: AssetDocument, low: 'form' | 'unwrap'): string =>
  hashOf([nameOf(document, low), document.form.highToleranceMm, document.parts.map((p) => [p.id, p.high?.blob])]);

/** Side of the picture of something measured in a tile, px. */
const MAP_SIZE = 1024;

/** What was worked out from meshes that have not changed: an edit costs only what it touches. */
const memory = new MeshCache();

/** Formed without labels, so that a new name costs nothing, and then labelled as the document says. */
const formed = async (document: AssetDocument, meshes: Meshes) =>
  labelled(formAsset(unlabelled(document), 'low', loader(meshes), memory, await kits.best(document)), document);

function meshOf(parts: Bytes, id: string): PolyMesh {
  const found = decodeParts(parts).find((p) => p.id === id);
  if (!found) throw new WellmorphError('part/missing', 'That part is not there any more.');
  return found.mesh;
}

/** The corner that starts the edge of a face nearest to a point. */
function nearestEdge(mesh: PolyMesh, face: number, point: readonly number[]): number {
  const [from, to] = [mesh.faceStart[face], mesh.faceStart[face + 1]];
  let best = { corner: from, off: Infinity };
  for (let c = from; c < to; c++) {
    const [a, b] = [3 * mesh.faceVert[c], 3 * mesh.faceVert[c + 1 < to ? c + 1 : from]];
    const d = [0, 1, 2].map((k) => mesh.positions[b + k] - mesh.positions[a + k]);
    const e = [0, 1, 2].map((k) => point[k] - mesh.positions[a + k]);
    const t = Math.max(0, Math.min(1, (d[0] * e[0] + d[1] * e[1] + d[2] * e[2]) / (d[0] ** 2 + d[1] ** 2 + d[2] ** 2 || 1)));
    const off = Math.hypot(...e.map((x, k) => x - t * d[k]));
    if (off < best.off) best = { corner: c, off };
  }
  return best.corner;
}

function loader(meshes: Meshes): LoadMesh {
  return (blob) => {
    const found = meshes[blob];
    if (!found) throw new WellmorphError('blob/missing', 'A stored mesh is not there.');
    return memory.open(blob, () => decodeMesh(found));
  };
}

function gpuPart(p: PartMesh, withEdges: boolean | number = true): GpuPart {
  // An import without marked edges is shown with the angle the delivery takes.
  const gpu = attribute(p.mesh, 'hard', 'corner')
    ? cardOf(p.mesh, memory)
    : memory.of(p.mesh, 'card 60', () => gpuMesh(p.mesh, { hardAngle: 60 }));
  const islands = attribute(p.mesh, 'island', 'face')?.data;
  return {
    id: p.id,
    name: p.name,
    placements: p.placements,
    index: gpu.index,
    position: gpu.position,
    normal: gpu.normal,
    ...(gpu.uv && { uv: gpu.uv }),
    ...(gpu.tangent && { tangent: gpu.tangent }),
    ...(gpu.more.length > 0 && { more: gpu.more }),
    face: p.mesh.triangleFace,
    seams: markedLines(p.mesh, 'seam'),
    closed: markedLines(p.mesh, 'joined'),
    ...(islands && { borders: borderLines(p.mesh) }),
    edges: withEdges === false ? new Float32Array(0) : memory.of(p.mesh, 'edges', () => edgeLines(p.mesh)),
    ...(islands && { island: Int32Array.from(p.mesh.triangleFace, (f) => islands[f]) }),
    ...(memory.of(p.mesh, 'open', () => boundaryLoops(p.mesh).length > 0) && { open: true }),
    triangles: triangleCount(p.mesh),
  };
}

/** Edges with a mark on a corner that starts them, as lines; 6 numbers each, mm. */
function markedLines(mesh: PolyMesh, name: 'seam' | 'joined'): Float32Array | undefined {
  const mark = attribute(mesh, name, 'corner')?.data;
  if (!mark) return undefined;
  return edgeLines(mesh, (edges, e) => edges.corners.subarray(edges.start[e], edges.start[e + 1]).some((c) => mark[c] > 0));
}

/** Where the layout of a mesh is cut, rims too. */
function borderLines(mesh: PolyMesh): Float32Array {
  const cut = edgesCut(mesh);
  return edgeLines(mesh, (edges, e) => cut[e] === 1 || edgeValence(edges, e) === 1);
}

function edgeLines(mesh: PolyMesh, chosen: (edges: Edges, e: number) => boolean = () => true): Float32Array {
  const edges = edgesOf(mesh);
  const out: number[] = [];
  for (let e = 0; e < edges.count; e++) {
    if (!chosen(edges, e)) continue;
    for (const v of [3 * edges.ends[2 * e], 3 * edges.ends[2 * e + 1]])
      out.push(mesh.positions[v], mesh.positions[v + 1], mesh.positions[v + 2]);
  }
  return Float32Array.from(out);
}

function islandPaths(p: PartMesh): IslandPath[] {
  const uv = attribute(p.mesh, 'uv', 'corner')?.data;
  const island = attribute(p.mesh, 'island', 'face')?.data;
  if (!uv || !island) return [];
  const paths = new Map<number, string[]>();
  for (let f = 0; f + 1 < p.mesh.faceStart.length; f++) {
    const points: string[] = [];
    for (let c = p.mesh.faceStart[f]; c < p.mesh.faceStart[f + 1]; c++)
      points.push(`${uv[2 * c].toFixed(5)} ${(1 - uv[2 * c + 1]).toFixed(5)}`);
    const list = paths.get(island[f]) ?? [];
    list.push(`M${points.join('L')}Z`);
    paths.set(island[f], list);
  }
  const twin = isTwin(p.mesh) ? { twin: true as const } : {};
  return [...paths].map(([i, list]) => ({ part: p.id, island: i, path: list.join(''), ...twin }));
}

/** Islands of the second layout; none where there is none. */
const secondPaths = (parts: readonly PartMesh[]): IslandPath[] =>
  parts.some((p) => attribute(p.mesh, SECOND.uv, 'corner')) ? parts.map(secondAsFirst).flatMap(islandPaths) : [];

/** Parts of a layout with texels of their own. */
function ownLayouts(document: AssetDocument, parts: Bytes): PartMesh[] {
  const copies = sharers(document);
  return decodeParts(parts).filter((p) => !Object.hasOwn(copies, p.id) && !isTwin(p.mesh));
}

/** What was laid flat last, and what of: while islands are only put elsewhere it stays as it is. */
let flat: { of: string; laid: LaidAsset } | null = null;

/** The formed parts cut and laid flat. */
function flatOf(document: AssetDocument, low: Bytes, task: Task): LaidAsset {
  const { places: _, ...choices } = document.unwrap;
  const of = nameOf({ ...document, unwrap: choices }, 'unwrap');
  if (flat?.of !== of) {
    flat = null;
    flat = { of, laid: layIslands(decodeParts(low), unwrapSettings(document), part(task, 0, 0.6)) };
  }
  return flat.laid;
}

/** What requests are about, as it was handed over last. */
let held: { id: number; value: unknown } | null = null;

/** Bytes that were made for the answer alone: they are handed over, not copied. */
const FRESH: { [K in Kind]?: readonly string[] } = {
  form: ['parts', 'aids', 'thumbnail'],
  unwrap: ['parts', 'png'],
  export: ['glb'],
  fix: ['mesh'],
  pack: [],
  handoff: ['zip'],
  develop: ['rgba', 'png'],
  layoutView: ['map'],
  template: ['file'],
  layoutPicture: ['file'],
  bakeWindow: ['png'],
  around: ['nearest', 'rim', 'inner'],
};
function handedOver(kind: Kind, answer: unknown): Transferable[] {
  const out = new Set<ArrayBuffer>();
  const take = (value: unknown) => {
    if (ArrayBuffer.isView(value) && value.buffer instanceof ArrayBuffer) out.add(value.buffer);
  };
  for (const key of FRESH[kind] ?? []) take((answer as Record<string, unknown>)[key]);
  if (kind === 'pack') take(answer);
  if (kind === 'finish' || kind === 'bakePreview') for (const file of Object.values((answer as Work['finish']['answer']).files)) take(file);
  if (kind === 'tile') for (const half of (answer as Work['tile']['answer']).halves) take(half);
  return [...out];
}

scope.onmessage = async (event) => {
  const { id, kind, ask, cancel, lane, held: about } = event.data;
  takeLane(lane);
  if (about && 'value' in about) held = { id: about.id, value: about.value };
  let last = 0;
  const task: Task = {
    cancelled: () => Atomics.load(cancel, 0) === 1,
    progress(share, words = '') {
      const now = performance.now();
      if (now - last < 80 && share < 1) return;
      last = now;
      scope.postMessage({ id, type: 'progress', share, words });
    },
  };
  try {
    checkpoint(task);
    const answer = await (handlers[kind] as (a: unknown, t: Task, h: unknown) => unknown)(ask, task, held?.value);
    scope.postMessage({ id, type: 'done', answer }, handedOver(kind, answer));
  } catch (error) {
    const known = error instanceof WellmorphError;
    if (!known) console.error(error);
    scope.postMessage({
      id,
      type: 'error',
      code: known ? error.code : error instanceof CancelledError ? 'cancelled' : 'worker/unforeseen',
      message: known ? error.message : 'The computation stopped unexpectedly; nothing was changed.',
    });
  }
};
