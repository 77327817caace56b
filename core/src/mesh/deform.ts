import { FormError } from '../errors';
import type { Vec3 } from '../maths/vec3';
import { figure, millimetres } from '../units/lengths';
import { boundsOf } from './measures';
import { attribute, makeMesh, type PolyMesh, vertexCount, withAttribute } from './polymesh';
import { UNLAID } from './rework';
import { sliceBy } from './slice';

/** An axis of a part’s own space. */
export type Axis = 'x' | 'y' | 'z';
const INDEX: Record<Axis, 0 | 1 | 2> = { x: 0, y: 1, z: 2 };
const UNIT: Record<Axis, Vec3> = { x: [1, 0, 0], y: [0, 1, 0], z: [0, 0, 1] };

/** Every vertex somewhere else: layouts made for the old shape are left to the flattening, patches stay. */
export function moved(mesh: PolyMesh, to: (p: Vec3, v: number) => Vec3): PolyMesh {
  const positions = new Float64Array(mesh.positions.length);
  for (let v = 0; v < vertexCount(mesh); v++)
    positions.set(to([mesh.positions[3 * v], mesh.positions[3 * v + 1], mesh.positions[3 * v + 2]], v), 3 * v);
  const next = makeMesh({ ...mesh, positions, attributes: mesh.attributes.filter((a) => a.name !== 'normal') });
  return unlaid(next, mesh.positions);
}

/** The mesh with the layout of every face dropped whose edges are not as long as they were. */
function unlaid(mesh: PolyMesh, before: Float64Array): PolyMesh {
  const chart = attribute(mesh, 'chart', 'face');
  if (!chart) return mesh;
  const data = Int32Array.from(chart.data);
  const long = (p: Float64Array, a: number, b: number) =>
    Math.hypot(p[3 * a] - p[3 * b], p[3 * a + 1] - p[3 * b + 1], p[3 * a + 2] - p[3 * b + 2]);
  for (let f = 0; f < data.length; f++)
    for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++) {
      // Diagonals too: a face may be sheared without an edge growing.
      const [a, b, d] = [0, 1, 2].map(
        (k) => mesh.faceVert[mesh.faceStart[f] + ((c - mesh.faceStart[f] + k) % (mesh.faceStart[f + 1] - mesh.faceStart[f]))],
      );
      for (const [u, v] of [
        [a, b],
        [a, d],
      ])
        if (Math.abs(long(mesh.positions, u, v) - long(before, u, v)) > 1e-9 * (1 + long(before, u, v))) data[f] = UNLAID;
    }
  // An island of which a part is gone goes altogether: its rest would be cut where no seam is.
  const gone = new Set<number>();
  for (let f = 0; f < data.length; f++) if (data[f] === UNLAID) gone.add(chart.data[f]);
  for (let f = 0; f < data.length; f++) if (gone.has(chart.data[f])) data[f] = UNLAID;
  return withAttribute(mesh, { ...chart, data });
}

/** The stretch along an axis that a change of shape is spread over, and loops put in so that it has something to bend. */
export interface Stretch {
  axis: Axis;
  from: number;
  to: number;
  /** Pieces between loops, at least 1. */
  pieces: number;
}

/** Loops across an axis: at both ends of a stretch and between, where the mesh has faces that need them. */
export function looped(mesh: PolyMesh, { axis, from, to, pieces }: Stretch): PolyMesh {
  const k = INDEX[axis];
  const { min, max } = boundsOf(mesh);
  const spacing = (to - from) / pieces;
  const offsets: number[] = [];
  for (let i = 0; i <= pieces; i++) {
    const offset = from + spacing * i;
    if (offset > min[k] + 1e-9 && offset < max[k] - 1e-9) offsets.push(offset);
  }
  // Where the mesh is divided as finely already, more loops would only make slivers.
  const wide = Uint8Array.from(offsets, (x) => (x === from || x === to ? 1 : 0));
  for (let f = 0; f + 1 < mesh.faceStart.length; f++) {
    let [low, high] = [Infinity, -Infinity];
    for (let c = mesh.faceStart[f]; c < mesh.faceStart[f + 1]; c++) {
      const x = mesh.positions[3 * mesh.faceVert[c] + k];
      low = Math.min(low, x);
      high = Math.max(high, x);
    }
    if (high - low < 1.2 * spacing) continue;
    const first = Math.max(0, Math.ceil((low - offsets[0]) / spacing));
    for (let i = first; i < offsets.length && offsets[i] < high; i++) wide[i] = 1;
  }
  return sliceBy(
    mesh,
    UNIT[axis],
    offsets.filter((_, i) => wide[i]),
  ).mesh;
}

/** A stretch that runs over all of a mesh where none is given. */
export function stretchOf(mesh: PolyMesh, axis: Axis, from: number, to: number): { from: number; to: number } {
  if (from !== to) return { from: Math.min(from, to), to: Math.max(from, to) };
  const { min, max } = boundsOf(mesh);
  return { from: min[INDEX[axis]], to: max[INDEX[axis]] };
}

/** Options for {@link bend}. */
export interface BendOptions extends Stretch {
  /** Radians; the piece beyond the stretch goes on straight. */
  angle: number;
  /** The axis it bends towards. */
  towards: Axis;
  /** Where on that axis lengths stay what they are. */
  neutral: number;
}

/**
 * Bends a piece: lengths along the neutral plane stay, those nearer to the bend's centre are shortened, those farther stretched.
 *
 * @throws FormError `bend/fold` when the inner side would be shorter than nothing, with the largest angle that fits
 */
export function bend(mesh: PolyMesh, options: BendOptions): PolyMesh {
  const { axis, towards, from, to, angle, neutral } = options;
  if (axis === towards) throw new FormError('bend/axis', 'A bend needs a direction across the axis it runs along.');
  const [i, j] = [INDEX[axis], INDEX[towards]];
  const cut = looped(mesh, options);
  const length = to - from;
  const radius = length / angle;
  const { min, max } = boundsOf(cut);
  const reach = angle > 0 ? max[j] - neutral : neutral - min[j];
  const most = length / Math.max(reach, 1e-12);
  if (Math.abs(angle) >= most * (1 - 1e-9))
    throw new FormError(
      'bend/fold',
      `A bend of ${figure((Math.abs(angle) * 180) / Math.PI, 0)}° over ${millimetres(length)} folds its inner side; it can be anything below ${figure((most * 180) / Math.PI, 0)}°.`,
      { mostDegrees: (most * 180) / Math.PI },
    );
  return moved(cut, (p) => {
    const s = p[i] - from;
    if (s <= 0) return p;
    const h = p[j] - neutral;
    const phi = Math.min(s, length) / radius;
    const beyond = Math.max(0, s - length);
    const out: [number, number, number] = [p[0], p[1], p[2]];
    out[i] = from + (radius - h) * Math.sin(phi) + beyond * Math.cos(phi);
    out[j] = neutral + radius - (radius - h) * Math.cos(phi) + beyond * Math.sin(phi);
    return out;
  });
}

/** Share of the stretch at a place, 0 before it and 1 beyond. */
const shareOf = (x: number, { from, to }: Stretch): number => Math.min(1, Math.max(0, (x - from) / (to - from)));

/** Makes what lies across the axis larger or smaller along it: 1 at the start, `factor` at the end. */
export function taper(mesh: PolyMesh, options: Stretch & { factor: number; about: readonly [number, number] }): PolyMesh {
  const i = INDEX[options.axis];
  const [a, b] = [(i + 1) % 3, (i + 2) % 3];
  return moved(looped(mesh, options), (p) => {
    const k = 1 + (options.factor - 1) * shareOf(p[i], options);
    const out: [number, number, number] = [p[0], p[1], p[2]];
    out[a] = options.about[0] + k * (p[a] - options.about[0]);
    out[b] = options.about[1] + k * (p[b] - options.about[1]);
    return out;
  });
}

/** Turns what lies along an axis about it, nothing at the start and all of the angle at the end. Radians, right-handed. */
export function twist(mesh: PolyMesh, options: Stretch & { angle: number; about: readonly [number, number] }): PolyMesh {
  const i = INDEX[options.axis];
  const [a, b] = [(i + 1) % 3, (i + 2) % 3];
  return moved(looped(mesh, options), (p) => {
    const t = options.angle * shareOf(p[i], options);
    const [x, y] = [p[a] - options.about[0], p[b] - options.about[1]];
    const out: [number, number, number] = [p[0], p[1], p[2]];
    out[a] = options.about[0] + x * Math.cos(t) - y * Math.sin(t);
    out[b] = options.about[1] + x * Math.sin(t) + y * Math.cos(t);
    return out;
  });
}

/** Makes a stretch of a piece longer or shorter; what lies beyond it moves along. `keepVolume` thins it as it grows. */
export function lengthen(
  mesh: PolyMesh,
  options: Stretch & { factor: number; keepVolume: boolean; about: readonly [number, number] },
): PolyMesh {
  const i = INDEX[options.axis];
  const [a, b] = [(i + 1) % 3, (i + 2) % 3];
  const long = options.to - options.from;
  return moved(looped(mesh, options), (p) => {
    const out: [number, number, number] = [p[0], p[1], p[2]];
    const t = shareOf(p[i], options);
    out[i] = p[i] + (options.factor - 1) * long * t;
    if (options.keepVolume) {
      // Thinner in the middle, as it was at both ends: a smooth step there and back.
      const bump = 4 * t * (1 - t);
      const k = 1 + (1 / Math.sqrt(options.factor) - 1) * bump;
      out[a] = options.about[0] + k * (p[a] - options.about[0]);
      out[b] = options.about[1] + k * (p[b] - options.about[1]);
    }
    return out;
  });
}
