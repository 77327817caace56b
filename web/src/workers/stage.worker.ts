import { BandBaker, emptyTexels } from '@wellmorph/core/bake/texels';
import { CancelledError, WellmorphError } from '@wellmorph/core/errors';
import { applyFix } from '@wellmorph/core/inspect/fixes';
import { decodeMesh, encodeMesh } from '@wellmorph/core/mesh/codec';
import { edgesOf } from '@wellmorph/core/mesh/connectivity';
import { gpuMesh } from '@wellmorph/core/mesh/gpu';
import { attribute, type PolyMesh, triangleCount } from '@wellmorph/core/mesh/polymesh';
import { bakeSettings, finishBake, prepareBake, rolesOf } from '@wellmorph/core/pipeline/bake';
import { decodeParts, encodeParts } from '@wellmorph/core/pipeline/bundle';
import { exportGlb, exportOptions } from '@wellmorph/core/pipeline/export';
import {
  fallbackTolerance,
  formAsset,
  type LoadMesh,
  type PartMesh,
  solveAsset,
  trianglesAtTolerance,
} from '@wellmorph/core/pipeline/form';
import { inspectAsset, ledgerOf } from '@wellmorph/core/pipeline/inspect';
import { unwrap, unwrapSettings } from '@wellmorph/core/pipeline/unwrap';
import { assetThumbnail } from '@wellmorph/core/plate/asset';
import { layoutPng, layoutSvg } from '@wellmorph/core/plate/layout';
import { checkpoint, type Task } from '@wellmorph/core/task';
import { bytes, type Handlers } from './handlers';
import { pictureHandlers } from './picture';
import type { Answer, Ask, GpuPart, IslandPath, Meshes } from './protocol';

/** Where the heavy work of the sheet happens; one request at a time, stateless between them. */
const scope = self as unknown as {
  onmessage: ((e: MessageEvent<Ask>) => void) | null;
  postMessage(message: Answer, transfer?: Transferable[]): void;
};

const handlers: Handlers = {
  form({ document, meshes, thumbnail: wanted }, task) {
    const formed = formAsset(document, 'low', loader(meshes));
    const ledger = ledgerOf(formed.parts, document);
    const findings = inspectAsset(document, formed, ledger, task);
    return {
      parts: encodeParts(formed.parts),
      gpu: formed.parts.map(gpuPart),
      ledger,
      findings,
      neededTriangles: trianglesAtTolerance(document, fallbackTolerance(document)).triangles,
      thumbnail: wanted && formed.parts.length > 0 ? bytes(assetThumbnail(document, formed.parts)) : null,
    };
  },
  show({ parts }) {
    const decoded = decodeParts(parts);
    return { gpu: decoded.map(gpuPart), islands: decoded.flatMap(islandPaths) };
  },
  high({ document, meshes }) {
    const { parts } = formAsset(document, 'high', loader(meshes));
    return {
      gpu: parts.map((p) => gpuPart(p, false)),
      triangles: parts.reduce((n, p) => n + triangleCount(p.mesh) * p.placements.length, 0),
    };
  },
  solve: ({ document }) => solveAsset(document),
  unwrap({ document, low }, task) {
    const laid = unwrap(decodeParts(low), unwrapSettings(document), task);
    const size = document.brief.limits.textureSize;
    return {
      parts: encodeParts(laid.parts),
      gpu: laid.parts.map((p) => gpuPart(p)),
      islands: laid.parts.flatMap(islandPaths),
      figures: laid.figures,
      png: bytes(layoutPng(laid.parts, size)),
      svg: layoutSvg(laid.parts, size),
    };
  },
  prepare({ document, laid, meshes }, task) {
    const low = decodeParts(laid);
    const high = formAsset(document, 'high', loader(meshes)).parts;
    const shared = (n: number) => new SharedArrayBuffer(n);
    const settings = bakeSettings(document);
    return { bake: prepareBake(low, high, rolesOf(document.parts), settings, task, shared), texels: emptyTexels(settings.size, shared) };
  },
  bands({ prepared, texels, next }, task) {
    const baker = new BandBaker(prepared, texels);
    for (;;) {
      const band = Atomics.add(next, 0, 1);
      if (band >= baker.bands) return texels.counts;
      checkpoint(task);
      baker.bake(band);
      task.progress((band + 1) / baker.bands, 'casting rays');
    }
  },
  async finish({ document, bake, texels, laid, seconds }, task) {
    const result = await finishBake(bake, texels, bakeSettings(document), decodeParts(laid), seconds, task);
    const { normal, occlusion, curvature } = result.files;
    return {
      figures: result.figures,
      normal: normal ? bytes(normal) : null,
      occlusion: occlusion ? bytes(occlusion) : null,
      glbNormal: result.glbNormal ? bytes(result.glbNormal) : null,
      curvature: curvature ? bytes(curvature) : null,
    };
  },
  async export({ document, laid, normal, occlusion }) {
    const parts = decodeParts(laid);
    const glb = await exportGlb(parts, exportOptions(document, { ...(normal && { normal }), ...(occlusion && { occlusion }) }));
    return { glb: bytes(glb), gpuVertices: ledgerOf(parts, document).gpuVertices };
  },
  fix({ mesh, fix }) {
    const mended = applyFix(decodeMesh(mesh), fix);
    return { mesh: bytes(encodeMesh(mended)), triangles: triangleCount(mended) };
  },
  ...pictureHandlers,
};

function loader(meshes: Meshes): LoadMesh {
  return (blob) => {
    const found = meshes[blob];
    if (!found) throw new WellmorphError('blob/missing', 'A stored mesh is not there.');
    return decodeMesh(found);
  };
}

function gpuPart(p: PartMesh, withEdges: boolean | number = true): GpuPart {
  const gpu = gpuMesh(p.mesh, { hardAngle: attribute(p.mesh, 'hard', 'corner') ? 180 : 60 });
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
    edges: withEdges === false ? new Float32Array(0) : edgeLines(p.mesh),
    ...(islands && { island: Int32Array.from(p.mesh.triangleFace, (f) => islands[f]) }),
    triangles: triangleCount(p.mesh),
  };
}

function edgeLines(mesh: PolyMesh): Float32Array {
  const edges = edgesOf(mesh);
  const out = new Float32Array(6 * edges.count);
  for (let e = 0; e < edges.count; e++)
    for (let k = 0; k < 3; k++) {
      out[6 * e + k] = mesh.positions[3 * edges.ends[2 * e] + k];
      out[6 * e + 3 + k] = mesh.positions[3 * edges.ends[2 * e + 1] + k];
    }
  return out;
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
  return [...paths].map(([i, list]) => ({ part: p.id, island: i, path: list.join('') }));
}

scope.onmessage = async (event) => {
  const { id, kind, ask, cancel } = event.data;
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
    const answer = await (handlers[kind] as (a: unknown, t: Task) => unknown)(ask, task);
    scope.postMessage({ id, type: 'done', answer });
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
