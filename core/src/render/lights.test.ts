import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { ball, disk, lampAt, pinhole, scene, sceneMaterial } from '../../test/scenes';
import { cube, sheet } from '../../test/shapes';
import { corners } from '../light/lamps';
import { IDENTITY, scaling, translation } from '../maths/mat4';
import { random } from '../maths/random';
import { cross, dot, length, sub, type Vec3 } from '../maths/vec3';
import { Lights } from './lights';
import { buildScene } from './scene';

const camera = pinhole([0, 100, 300], 0, 0, 0.1);
const glow = (emission: number) => sceneMaterial({ colour: [1, 1, 1], emission });

/** Solid angle of a triangle seen from the origin (Van Oosterom & Strackee 1983). */
function solidAngle(a: Vec3, b: Vec3, c: Vec3): number {
  const [la, lb, lc] = [length(a), length(b), length(c)];
  const down = la * lb * lc + dot(a, b) * lc + dot(a, c) * lb + dot(b, c) * la;
  return Math.abs(2 * Math.atan2(dot(a, cross(b, c)), down));
}

/** Mean of 1/pdf over many picks: the solid angle of all that shines this way. */
function measured(lights: Lights, at: Vec3, n = 60_000): number {
  const next = random(5);
  let sum = 0;
  for (let i = 0; i < n; i++) {
    lights.pick(at[0], at[1], at[2], next(), next(), next(), next());
    if (lights.pdf > 0) sum += 1 / lights.pdf;
  }
  return sum / n;
}

describe('choosing a light', () => {
  it('the pdf of a rectangular lamp adds up to its solid angle, from near, far and aside', () => {
    const lamp = lampAt([0, 300, 0], [0, -1, 0.2], 160, 90);
    const lights = new Lights(scene([], { camera, lamps: [lamp] }));
    for (const at of [
      [0, 0, 0],
      [250, 40, -60],
      [0, -4000, 0],
    ] as Vec3[]) {
      const [a, b, c, d] = corners(lamp).map((p) => sub(p, at));
      const wanted = solidAngle(a, b, c) + solidAngle(a, c, d);
      expect(Math.abs(measured(lights, at) / wanted - 1)).toBeLessThan(0.01);
    }
  });
  it('a glowing disk’s adds up to 2π(1 − cos θ) on its axis, and to nothing behind it', () => {
    const lights = new Lights(scene([{ mesh: disk(60, 100, -1), material: glow(2) }], { camera }));
    const cos = 100 / Math.hypot(100, 60);
    expect(Math.abs(measured(lights, [0, 0, 0]) / (2 * Math.PI * (1 - cos)) - 1)).toBeLessThan(0.01);
    expect(measured(lights, [0, 200, 0], 500)).toBe(0);
  });
  it('a glowing ball’s adds up to the cap it fills, whichever of its facets are chosen', () => {
    const lights = new Lights(scene([{ mesh: ball(20, [0, 100, 0], 32), material: glow(2) }], { camera }));
    const sin = 20 / 100;
    expect(Math.abs(measured(lights, [0, 0, 0]) / (2 * Math.PI * (1 - Math.sqrt(1 - sin * sin))) - 1)).toBeLessThan(0.015);
  });
  it('several together: the sum of what each fills, so that none is counted twice or left out', () => {
    const lamps = [lampAt([0, 300, 0], [0, -1, 0], 100, 100, 5), lampAt([400, 100, 0], [-1, 0, 0], 200, 50, 1)];
    const parts = [{ mesh: disk(40, 150, -1), material: glow(3) }];
    const each = [
      measured(new Lights(scene([], { camera, lamps: [lamps[0]] })), [0, 0, 0]),
      measured(new Lights(scene([], { camera, lamps: [lamps[1]] })), [0, 0, 0]),
      measured(new Lights(scene(parts, { camera })), [0, 0, 0]),
    ];
    const all = measured(new Lights(scene(parts, { camera, lamps })), [0, 0, 0], 200_000);
    expect(Math.abs(all / each.reduce((a, b) => a + b, 0) - 1)).toBeLessThan(0.02);
  });
  it('chances are shares of one anywhere, and the near and strong get more of them', () => {
    const lamps = [lampAt([0, 300, 0], [0, -1, 0], 100, 100, 5), lampAt([900, 300, 0], [-1, 0, 0], 100, 100, 5)];
    const lights = new Lights(scene([{ mesh: disk(40, 150, -1), material: glow(3) }], { camera, lamps }));
    const place = fc.double({ min: -500, max: 500, noNaN: true });
    fc.assert(
      fc.property(place, place, place, (x, y, z) => {
        const sum = [0, 1, 2].reduce((s, g) => s + lights.chance(g, x, y, z), 0);
        expect(sum).toBeCloseTo(1, 9);
      }),
    );
    expect(lights.chance(0, 0, 100, 0)).toBeGreaterThan(lights.chance(1, 0, 100, 0));
    expect(lights.chance(1, 850, 300, 0)).toBeGreaterThan(lights.chance(0, 850, 300, 0));
  });
  it('a ray meets a lamp from its shining side only, the nearest first', () => {
    const lamps = [lampAt([0, 300, 0], [0, -1, 0], 100, 100), lampAt([0, 200, 0], [0, -1, 0], 50, 50)];
    const lights = new Lights(scene([], { camera, lamps }));
    expect(lights.meet(0, 0, 0, 0, 1, 0, Infinity)).toBe(1);
    expect(lights.t).toBeCloseTo(200, 9);
    expect(lights.meet(40, 0, 0, 0, 1, 0, Infinity)).toBe(0);
    expect(lights.meet(0, 0, 0, 0, 1, 0, 150)).toBe(-1);
    expect(lights.meet(0, 400, 0, 0, -1, 0, Infinity)).toBe(-1);
    expect(lights.meet(60, 0, 0, 0, 1, 0, Infinity)).toBe(-1);
  });
  it('with no light at all nothing is chosen', () => {
    const lights = new Lights(scene([], { camera }));
    lights.pick(0, 0, 0, 0.5, 0.5, 0.5, 0.5);
    expect(lights.pdf).toBe(0);
  });
});

describe('the scene', () => {
  const base = {
    materials: [sceneMaterial({ colour: [1, 1, 1], transmission: 1, roughness: 0 }), glow(1)],
    textures: [],
    lamps: [],
    environment: [0, 0, 0] as [number, number, number],
    backdropColour: [1, 1, 1],
    background: 'paper' as const,
    camera,
  };
  it('lays every copy out in its place, scaled, with normals that stay outward through a mirror', () => {
    const mirror = [-2, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 100, 0, 0, 1];
    const s = buildScene({ ...base, parts: [{ mesh: cube(10), placements: [IDENTITY, mirror], material: -1 }], backdrop: null });
    expect(s.material).toHaveLength(24);
    let [low, high] = [Infinity, -Infinity];
    for (let i = 9 * 12; i < s.corners.length; i += 3) {
      low = Math.min(low, s.corners[i]);
      high = Math.max(high, s.corners[i]);
      // From the middle of the copy the normal points away.
      const out = (s.corners[i] - 100) * s.normals[i] + (s.corners[i + 1] - 5) * s.normals[i + 1] + s.corners[i + 2] * s.normals[i + 2];
      expect(out).toBeGreaterThan(0);
      expect(Math.hypot(s.normals[i], s.normals[i + 1], s.normals[i + 2])).toBeCloseTo(1, 5);
    }
    expect([low, high]).toEqual([90, 110]);
  });
  it('tells a pane of one sheet from a closed wall of the same glass', () => {
    const s = buildScene({
      ...base,
      parts: [
        { mesh: sheet(1, 50, () => 0), placements: [IDENTITY], material: 0 },
        { mesh: ball(20, [0, 60, 0], 8), placements: [IDENTITY], material: 0 },
      ],
      backdrop: null,
    });
    expect(s.materials[s.material[0]].slab).toBe(true);
    expect(s.materials[s.material[s.material.length - 1]].slab).toBe(false);
  });
  it('every copy of a glowing part is a light of its own; the backdrop comes last', () => {
    const s = buildScene({
      ...base,
      parts: [{ mesh: cube(10), placements: [IDENTITY, translation([50, 0, 0]), scaling([2, 2, 2])], material: 1 }],
      backdrop: sheet(1, 900, () => 0),
    });
    expect(s.emitters.map((e) => Math.round(e.areas[e.areas.length - 1]))).toEqual([600, 600, 2400]);
    expect(s.emitters[1].centre[0]).toBeCloseTo(50, 4);
    expect(s.backdropFrom).toBe(36);
    expect(s.material).toHaveLength(38);
    const lights = new Lights(s);
    expect([0, 12, 35].map((t) => lights.groupOf(t))).toEqual([0, 1, 2]);
  });
});
