import { beforeAll, describe, expect, it } from 'vitest';
import { testKit } from '../../test/kit';
import { stepOf } from '../../test/recipes';
import { FormError } from '../errors';
import type { Kit } from '../kit';
import { boundsOf, isWatertight, volumeOf } from '../mesh/measures';
import { boxTree, nearest } from '../mesh/pairs';
import { type PolyMesh, triangleCount } from '../mesh/polymesh';
import { form, NOWHERE } from './recipe';
import type { Detail, Surroundings } from './step';
import type { Step } from './steps';

let kit: Kit;
beforeAll(async () => {
  kit = await testKit();
});
const low: Detail = { mesh: 'low', count: () => 48 };
const around = (host: PolyMesh): { surroundings: Surroundings } => ({
  surroundings: {
    ...NOWHERE,
    kit,
    region(part) {
      if (part !== 'host') throw new FormError('step/part', 'The part it refers to is not there.');
      return host;
    },
  },
});
const made = (steps: Step[], host: PolyMesh) => form(steps, low, around(host));
const figureOf = (r: ReturnType<typeof form>, label: string) => r.steps[0]?.figures.find((f) => f.label === label)?.value ?? Number.NaN;

/** A straight beaker: inner radius 30, floor 3, 90 high, of 48 sides. */
const beaker = () =>
  form(
    [
      stepOf('turned', {
        body: 'wall',
        wall: 3,
        drawnIs: 'inside',
        centre: 'fan',
        profile: {
          points: [
            { id: 'a', r: 0, y: 0 },
            { id: 'b', r: 30, y: 0 },
            { id: 'c', r: 30, y: 90 },
          ],
          segments: [
            { id: 's', name: 'foot', kind: 'line' },
            { id: 't', name: 'wall', kind: 'line' },
          ],
        },
      }),
    ],
    low,
  ).mesh as PolyMesh;
const trough = () =>
  form(
    [stepOf('box', { body: 'hollow', width: 100, height: 50, depth: 60, left: 4, right: 4, front: 3, back: 3, floor: 5, corner: 0 })],
    low,
  ).mesh as PolyMesh;

describe('vessels of several parts', () => {
  const parts = (named: Record<string, PolyMesh>): { surroundings: Surroundings } => ({
    surroundings: {
      ...NOWHERE,
      kit,
      region(part) {
        if (!named[part]) throw new FormError('step/part', 'The part it refers to is not there.');
        return named[part];
      },
    },
  });
  /** Twelve staves with gaps of 0.6 mm, and a head that stands between them. */
  const staves = () =>
    form(
      [stepOf('prism', { sides: 12, acrossFlats: 100, height: 120, taper: 1, bulge: 0, body: 'staves', wall: 8, gap: 0.6, edgeRadius: 0 })],
      low,
    ).mesh as PolyMesh;
  const head = (across: number) =>
    form([stepOf('prism', { sides: 12, acrossFlats: across, height: 10, taper: 1, bulge: 0, body: 'solid', edgeRadius: 0 })], low)
      .mesh as PolyMesh;
  const fill = (more: object) =>
    stepOf('fill', { inside: 'staves', also: [{ id: '1', part: 'head' }], wall: 'touching', by: 'level', level: 60, ...more });
  /** A regular polygon of twelve sides: n·f²·tan(π/n)/4 by its width over the flats. */
  const area = (flats: number) => (12 * flats * flats * Math.tan(Math.PI / 12)) / 4;

  it('staves hold water when their gaps count as shut, up to where a prism of their inside says', () => {
    const made = form([fill({ shut: 1 })], low, parts({ staves: staves(), head: head(84) }));
    expect(made.problems).toEqual([]);
    expect(isWatertight(made.mesh as PolyMesh)).toBe(true);
    const wanted = area(84) * 60;
    expect(volumeOf(made.mesh as PolyMesh) / wanted).toBeCloseTo(1, 2);
    expect(figureOf(made, 'level above the bottom')).toBeCloseTo(60, 6);
  });
  it('and don’t when they don’t; nor does a hoop without its head', () => {
    const all = parts({ staves: staves(), head: head(84) });
    expect(form([fill({ shut: 0 })], low, all).problems[0].message).toMatch(
      /holds nothing: it has no hollow that is closed below, or gaps wider than the 0\smm that count as shut/,
    );
    expect(form([fill({ shut: 0.4 })], low, all).problems[0].message).toMatch(/gaps wider than the 0\.4\smm/);
    expect(form([fill({ shut: 1, also: [] })], low, all).problems[0].message).toMatch(/holds nothing/);
  });
  it('a pipe on a plate: 100 ml stand as high as their volume over its inside, poured by the millilitre', () => {
    const pipe = form(
      [stepOf('prism', { sides: 12, acrossFlats: 60, height: 90, taper: 1, bulge: 0, body: 'tube', wall: 3, edgeRadius: 0 })],
      low,
    ).mesh as PolyMesh;
    const plate = form([stepOf('box', { width: 120, height: 8, depth: 120, corner: 0, edgeRadius: 0 })], low).mesh as PolyMesh;
    const under = { ...plate, positions: plate.positions.map((x, i) => (i % 3 === 1 ? x - 7.8 : x)) };
    const made = form(
      [fill({ inside: 'pipe', also: [{ id: '1', part: 'plate' }], by: 'volume', ml: 100, shut: 0 })],
      low,
      parts({ pipe, plate: under }),
    );
    expect(made.problems).toEqual([]);
    expect(figureOf(made, 'level above the bottom')).toBeCloseTo(100_000 / area(54), 2);
    // A plate that stands 0.3 mm off leaks, until that counts as shut.
    const off = { ...plate, positions: plate.positions.map((x, i) => (i % 3 === 1 ? x - 8.3 : x)) };
    const gap = (shut: number) =>
      form([fill({ inside: 'pipe', also: [{ id: '1', part: 'plate' }], by: 'volume', ml: 100, shut })], low, parts({ pipe, plate: off }));
    expect(gap(0.2).problems[0].message).toMatch(/holds nothing/);
    expect(gap(0.5).problems).toEqual([]);
  });
});

describe('liquids', () => {
  it('250 ml stand as high as their volume over the area of a beaker’s inside', () => {
    const host = beaker();
    const r = made([stepOf('fill', { inside: 'host', ml: 200, wall: 'touching' })], host);
    expect(r.problems).toEqual([]);
    // A prism of the inside's own polygon: area n/2 · r² · sin(2π/n), r as the mesh has it.
    const inner = form([stepOf('fill', { inside: 'host', by: 'level', level: 10, wall: 'touching' })], low, around(host));
    const area = volumeOf(inner.mesh as PolyMesh) / 10;
    expect(Math.abs(area / (Math.PI * 900) - 1)).toBeLessThan(0.01);
    expect(figureOf(r, 'level above the bottom')).toBeCloseTo(200_000 / area, 4);
    expect(figureOf(r, 'volume')).toBeCloseTo(200, 4);
    expect(figureOf(r, 'to the brim')).toBeCloseTo((area * 90) / 1000, 0);
    expect(isWatertight(r.mesh as PolyMesh)).toBe(true);
  });
  it('touches the wall, goes into it or leaves a gap, its surface level', () => {
    const host = trough();
    const width = (wall: 'touching' | 'overlapping' | 'gap') => {
      const { mesh } = made([stepOf('fill', { inside: 'host', by: 'level', level: 20, wall, wallMm: 0.5 })], host);
      return boundsOf(mesh as PolyMesh);
    };
    const [touching, over, gap] = (['touching', 'overlapping', 'gap'] as const).map(width);
    expect(touching.max[0]).toBeCloseTo(46, 4);
    expect(over.max[0]).toBeCloseTo(46.5, 4);
    expect(gap.max[0]).toBeCloseTo(45.5, 4);
    for (const b of [touching, over, gap]) expect(b.max[1]).toBeCloseTo(25, 4);
    expect(over.min[1]).toBeCloseTo(4.5, 4);
  });
  it('only its surface costs what it costs, and says what it saves', () => {
    const host = beaker();
    const all = made([stepOf('fill', { inside: 'host', ml: 100 })], host);
    const some = made([stepOf('fill', { inside: 'host', ml: 100, what: 'surface' })], host);
    expect(triangleCount(some.mesh as PolyMesh)).toBe(46);
    expect(figureOf(some, 'triangles saved')).toBe(triangleCount(all.mesh as PolyMesh) - 46);
  });
  it('says when there is too much of it, or no vessel', () => {
    const host = trough();
    expect(made([stepOf('fill', { inside: 'host', ml: 9999 })], host).problems[0].message).toMatch(/more than the vessel holds: 223.6 ml/);
    expect(made([stepOf('fill', { inside: 'host', by: 'level', level: 80 })], host).problems[0].message).toMatch(/above the brim/);
    const block = form([stepOf('box', { corner: 0 })], low).mesh as PolyMesh;
    expect(made([stepOf('fill', { inside: 'host' })], block).problems[0].message).toMatch(/holds nothing/);
    expect(made([stepOf('fill', { inside: 'gone' })], block).problems[0].message).toMatch(/not there/);
  });
});

describe('what is made to fit', () => {
  it('a tray keeps its clearance along each axis, and stands off the floor', () => {
    const host = trough();
    const r = made([stepOf('fitted', { to: 'host', at: 30, clearX: 0.5, clearY: 0.25, clearZ: 1, height: 30, wall: 2, floor: 2 })], host);
    expect(r.problems).toEqual([]);
    const b = boundsOf(r.mesh as PolyMesh);
    expect(b.max.map((x, k) => x - b.min[k])).toEqual([expect.closeTo(91, 9), expect.closeTo(30, 9), expect.closeTo(52, 9)]);
    expect(b.min[1]).toBeCloseTo(5.25, 6);
    expect(isWatertight(r.mesh as PolyMesh)).toBe(true);
    expect(volumeOf(r.mesh as PolyMesh)).toBeCloseTo(91 * 52 * 30 - 87 * 48 * 28, 6);
    expect(nearest(boxTree(host), boxTree(r.mesh as PolyMesh))?.distance).toBeCloseTo(0.25, 6);
  });
  it('a plug and a lid take the opening and the outside', () => {
    const host = trough();
    const plug = made([stepOf('fitted', { to: 'host', shape: 'plug', at: 30, height: 10 })], host).mesh as PolyMesh;
    expect(volumeOf(plug)).toBeCloseTo(91 * 53 * 10, 6);
    const lid = made(
      [stepOf('fitted', { to: 'host', shape: 'lid', at: 40, height: 12, clearX: 0.4, clearY: 0.2, clearZ: 0.4, wall: 1, floor: 1.5 })],
      host,
    ).mesh as PolyMesh;
    const b = boundsOf(lid);
    expect(b.max[0]).toBeCloseTo(50 + 0.4 + 1, 6);
    expect([b.min[1], b.max[1]]).toEqual([expect.closeTo(50.2 - 12, 6), expect.closeTo(51.7, 6)]);
    expect(volumeOf(lid)).toBeGreaterThan(0);
    expect(isWatertight(lid)).toBe(true);
    expect(made([stepOf('fitted', { to: 'host', at: 2 })], host).problems[0].message).toMatch(/no opening at y 2\u00a0mm/);
    expect(made([stepOf('fitted', { to: 'host', at: 30, clearX: 60 })], host).problems[0].message).toMatch(/no length/);
  });
  it('a pane lies over a region with its air gap; a dome rises in its middle', () => {
    const disc = form(
      [
        stepOf('turned', {
          body: 'open',
          centre: 'fan',
          profile: {
            points: [
              { id: 'a', r: 40, y: 10 },
              { id: 'b', r: 0, y: 10 },
            ],
            segments: [{ id: 's', name: 'face', kind: 'line' }],
          },
        }),
      ],
      low,
    ).mesh as PolyMesh;
    const flat = made([stepOf('glaze', { over: 'host', clearance: 0.5, gap: 3, thickness: 2 })], disc);
    expect(flat.problems).toEqual([]);
    const mesh = flat.mesh as PolyMesh;
    expect([boundsOf(mesh).min[1], boundsOf(mesh).max[1]]).toEqual([expect.closeTo(13, 9), expect.closeTo(15, 9)]);
    expect(isWatertight(mesh)).toBe(true);
    const area = volumeOf(mesh) / 2;
    expect(Math.abs(area / (Math.PI * 39.5 ** 2) - 1)).toBeLessThan(0.01);
    const dome = made([stepOf('glaze', { over: 'host', clearance: 0.5, gap: 3, thickness: 2, rise: 5 })], disc).mesh as PolyMesh;
    expect(boundsOf(dome).max[1]).toBeCloseTo(20, 9);
    expect(isWatertight(dome)).toBe(true);
    // The same thickness everywhere, measured along the axis: the same volume.
    expect(volumeOf(dome)).toBeCloseTo(volumeOf(mesh), 3);
  });
});
