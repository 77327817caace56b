import { inverse, type Mat4, transformDirection, transformPoint } from '../maths/mat4';
import { random } from '../maths/random';
import { add, cross, normalise, scale, sub, type Vec3 } from '../maths/vec3';
import { boundsOf, triangleArea } from '../mesh/measures';
import { type PolyMesh, triangleCount } from '../mesh/polymesh';
import { meshTree } from '../rays/of-mesh';
import { RayQuery } from '../rays/query';

/** Places asked about: the share is known to ±2 % or better (binomial, one standard deviation). */
const PLACES = 800;

/**
 * How much of a surface still shows under copies strewn over it, looked at square on: places drawn evenly over it that a ray
 * leaves without meeting a copy.
 *
 * @param region what they lie on; `copies` place `item` in the same space
 * @returns share 0…1
 */
export function showing(region: PolyMesh, item: PolyMesh, copies: readonly Mat4[]): number {
  if (copies.length === 0 || triangleCount(region) === 0) return 1;
  const query = new RayQuery(meshTree(item));
  const { min, max } = boundsOf(item);
  const middle = scale(add(min, max), 0.5);
  const reach = Math.hypot(...sub(max, min)) / 2;
  const placed = copies.map((m) => {
    const [x, y, z] = [0, 4, 8].map((k) => Math.hypot(m[k], m[k + 1], m[k + 2]));
    return { back: inverse(m), at: transformPoint(m, middle), radius: reach * Math.max(x, y, z) };
  });
  const areas = new Float64Array(triangleCount(region));
  let total = 0;
  for (let t = 0; t < areas.length; t++) areas[t] = total += triangleArea(region, t);
  const next = random(7919);
  let seen = 0;
  let t = 0;
  for (let i = 0; i < PLACES; i++) {
    // Stratified along the area, so that every triangle gets its share.
    const wanted = ((i + next()) / PLACES) * total;
    while (t + 1 < areas.length && areas[t] < wanted) t++;
    const { point, normal } = placeOn(region, t, next);
    const eye = add(point, scale(normal, 1e-4));
    const hidden = placed.some(({ back, at, radius }) => {
      // The ray passes the copy's ball only when the ball's middle is near its line and not behind it.
      const to = sub(at, eye);
      const along = to[0] * normal[0] + to[1] * normal[1] + to[2] * normal[2];
      if (along < -radius || Math.hypot(...to) ** 2 - along * along > radius * radius) return false;
      const [o, d] = [transformPoint(back, eye), transformDirection(back, normal)];
      return query.any(o[0], o[1], o[2], d[0], d[1], d[2], 0, 1e9);
    });
    if (!hidden) seen++;
  }
  return seen / PLACES;
}

function placeOn(mesh: PolyMesh, t: number, next: () => number): { point: Vec3; normal: Vec3 } {
  const corner = (k: number): Vec3 => {
    const v = 3 * mesh.faceVert[mesh.triangles[3 * t + k]];
    return [mesh.positions[v], mesh.positions[v + 1], mesh.positions[v + 2]];
  };
  const [a, b, c] = [corner(0), corner(1), corner(2)];
  const s = Math.sqrt(next());
  const u = next();
  return {
    point: add(scale(a, 1 - s), add(scale(b, s * (1 - u)), scale(c, s * u))),
    normal: normalise(cross(sub(b, a), sub(c, a))),
  };
}
