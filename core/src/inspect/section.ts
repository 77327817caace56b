import { FormError } from '../errors';
import type { Mat4 } from '../maths/mat4';
import { add, cross, distance, dot, scale, sub, type Vec3 } from '../maths/vec3';
import { fillLoops, frameOf } from '../mesh/planar';
import type { PolyMesh } from '../mesh/polymesh';
import { type Plane, sectionLoops, slice } from '../mesh/slice';
import { transform } from '../mesh/transform';

/** A part as it stands: its mesh, and where its copies are. */
interface Standing {
  id: string;
  mesh: PolyMesh;
  placements: readonly Mat4[];
}

/** What a plane cuts of a part, all its copies, in the piece's space. */
export interface PartSection {
  part: string;
  /** The cut faces: triangles, 9 numbers each, mm. */
  triangles: Float32Array;
  /** Their outlines, or where an open surface meets the plane: 6 numbers a side, mm. */
  lines: Float32Array;
  /** Of the cut faces, mm². */
  area: number;
  /** False where the surface is open at the plane: it has no inside to fill. */
  closed: boolean;
}

/** Cuts parts by a plane: what is solid is filled, so that walls can be seen and measured. */
export function sectionThrough(parts: readonly Standing[], plane: Plane): PartSection[] {
  const { u, v } = frameOf(plane.normal);
  return parts.flatMap(({ id, mesh, placements }): PartSection[] => {
    const triangles: number[] = [];
    const lines: number[] = [];
    let closed = true;
    let area = 0;
    for (const m of placements) {
      const placed = transform(mesh, m);
      const loops = loopsOf(placed, plane);
      if (!loops) {
        closed = false;
        lines.push(...linesAlong(placed, plane));
        continue;
      }
      const points = loops.flat();
      let from = 0;
      const numbered = loops.map((l) => l.map(() => from++));
      const at = (i: number): [number, number] => [dot(points[i], u), dot(points[i], v)];
      for (const loop of loops) for (const [i, p] of loop.entries()) lines.push(...p, ...loop[(i + 1) % loop.length]);
      for (const face of fillLoops(numbered, at))
        for (const [a, b, c] of fanned(face, at)) {
          triangles.push(...points[a], ...points[b], ...points[c]);
          const n = cross(sub(points[b], points[a]), sub(points[c], points[a]));
          area += Math.hypot(...n) / 2;
        }
    }
    return lines.length === 0 ? [] : [{ part: id, triangles: Float32Array.from(triangles), lines: Float32Array.from(lines), area, closed }];
  });
}

/** Closed outlines where a plane meets a mesh; null where it is open there. */
function loopsOf(mesh: PolyMesh, plane: Plane): Vec3[][] | null {
  try {
    return sectionLoops(mesh, plane);
  } catch (error) {
    if (error instanceof FormError && error.code === 'cut/open') return null;
    throw error;
  }
}

/** Sides of faces that lie in the plane once they are divided by it: where an open surface meets it. */
function linesAlong(mesh: PolyMesh, plane: Plane): number[] {
  const { mesh: divided, side } = slice(mesh, plane);
  const p = divided.positions;
  const near = 1e-6 * Math.max(1, Math.abs(plane.offset));
  const on = (v: number): boolean =>
    Math.abs(plane.normal[0] * p[3 * v] + plane.normal[1] * p[3 * v + 1] + plane.normal[2] * p[3 * v + 2] - plane.offset) < near;
  const out: number[] = [];
  for (let f = 0; f < side.length; f++) {
    if (side[f] !== -1) continue;
    for (let c = divided.faceStart[f]; c < divided.faceStart[f + 1]; c++) {
      const [a, b] = [divided.faceVert[c], divided.faceVert[c + 1 < divided.faceStart[f + 1] ? c + 1 : divided.faceStart[f]]];
      if (on(a) && on(b)) out.push(...p.slice(3 * a, 3 * a + 3), ...p.slice(3 * b, 3 * b + 3));
    }
  }
  return out;
}

/** A flat polygon's triangles, ears cut where it turns outward and holds no other corner. */
function fanned(face: readonly number[], at: (i: number) => [number, number]): [number, number, number][] {
  const left = [...face];
  const out: [number, number, number][] = [];
  const turn = (a: number, b: number, c: number): number => {
    const [[x, y], [x1, y1], [x2, y2]] = [at(a), at(b), at(c)];
    return (x1 - x) * (y2 - y) - (y1 - y) * (x2 - x);
  };
  while (left.length > 3) {
    let best = { i: -1, size: -Infinity };
    for (let i = 0; i < left.length; i++) {
      const [a, b, c] = [left[(i + left.length - 1) % left.length], left[i], left[(i + 1) % left.length]];
      const size = turn(a, b, c);
      if (size < 0 || left.some((p) => p !== a && p !== b && p !== c && turn(a, b, p) > 0 && turn(b, c, p) > 0 && turn(c, a, p) > 0))
        continue;
      if (size > best.size) best = { i, size };
    }
    // Only corners in one line are left: they bound nothing.
    if (best.i < 0) return out;
    const { i } = best;
    out.push([left[(i + left.length - 1) % left.length], left[i], left[(i + 1) % left.length]]);
    left.splice(i, 1);
  }
  out.push([left[0], left[1], left[2]]);
  return out;
}

/** The wall of a cut face through a place of it: from the nearest side straight across to the other. */
export interface Wall {
  from: Vec3;
  to: Vec3;
  mm: number;
}

/**
 * How thick the material is at a place of a cut face.
 *
 * @param lines the outlines of the cut face, 6 numbers a side, mm
 * @returns null where nothing lies across: the place is outside, or the outline is open
 */
export function wallAt(lines: ArrayLike<number>, place: Vec3, normal: Vec3): Wall | null {
  let nearest: { point: Vec3; far: number } | null = null;
  const end = (i: number): Vec3 => [lines[i], lines[i + 1], lines[i + 2]];
  for (let i = 0; i < lines.length; i += 6) {
    const [a, b] = [end(i), end(i + 3)];
    const along = sub(b, a);
    const size = dot(along, along);
    const t = size > 0 ? Math.max(0, Math.min(1, dot(sub(place, a), along) / size)) : 0;
    const point = add(a, scale(along, t));
    const far = distance(point, place);
    if (!nearest || far < nearest.far) nearest = { point, far };
  }
  if (!nearest || nearest.far < 1e-9) return null;
  const way = scale(sub(place, nearest.point), 1 / nearest.far);
  const side = cross(normal, way);
  let across = Infinity;
  for (let i = 0; i < lines.length; i += 6) {
    const [a, b] = [sub(end(i), nearest.point), sub(end(i + 3), nearest.point)];
    const [sa, sb] = [dot(a, side), dot(b, side)];
    // A side counts with its first end alone, so that a corner on the way counts once.
    if (sa >= 0 === sb >= 0) continue;
    const t = sa / (sa - sb);
    const far = dot(a, way) * (1 - t) + dot(b, way) * t;
    if (far > nearest.far * (1 + 1e-9) && far < across) across = far;
  }
  return Number.isFinite(across) ? { from: nearest.point, to: add(nearest.point, scale(way, across)), mm: across } : null;
}
