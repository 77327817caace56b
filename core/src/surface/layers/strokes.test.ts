import { describe, expect, it } from 'vitest';
import { cube, sheet } from '../../../test/shapes';
import { random } from '../../maths/random';
import type { PolyMesh } from '../../mesh/polymesh';
import { compose } from '../compose';
import { makeGround } from '../ground';
import { PLAIN } from '../material';
import type { Layer } from './layer';
import { layersFault } from './layer';
import { Place } from './place';
import { boardsOf, emptyPlaces, fillPlaces } from './places';
import { type DrawnStroke, plainer, StrokeGrid, strokeFrom, strokesOn } from './stroke-grid';
import { MOST_POINTS, POINT, type Stroke, strokesFault } from './strokes';

const UP = [0, 1, 0];
/** A stroke over a sheet that lies in x and z. */
const stroke = (points: readonly (readonly [number, number])[], more: Partial<Stroke> = {}): Stroke => ({
  part: 'p',
  erases: false,
  radius: 10,
  points: points.flatMap(([x, z]) => [x, 0, z, ...UP, 1]),
  ...more,
});
const layer = (strokes: Stroke[], soft = 0.02): Layer => ({
  id: 'l',
  name: 'Painted',
  on: true,
  opacity: 1,
  look: { roughness: 1 },
  mask: [{ join: 'times', inverted: false, field: { kind: 'strokes', soft, strokes } }],
});

/** Area that strokes cover of a flat sheet of 400 mm, mm². */
function covered(strokes: Stroke[], soft = 0.02, mesh: PolyMesh = sheet(1, 400, () => 0)): number {
  const parts = [{ id: 'p', mesh, material: 0 }];
  const size = 512;
  const ground = makeGround({ parts, size, curvature: null, occlusion: null, seed: 1 });
  const boards = boardsOf(parts);
  const places = emptyPlaces(size, 0, size);
  fillPlaces(parts, boards, places);
  const { figures } = compose(ground, [{ ...PLAIN, id: 'm', name: 'M', touched: true, layers: [layer(strokes, soft)] }], null, {
    places,
    boards,
  });
  const [{ texels, layers }] = figures.materials;
  return layers[0].share * texels * places.footprint[places.shell.findIndex((s) => s > 0)] ** 2;
}

describe('strokes by hand', () => {
  const sheetMesh = sheet(1, 400, () => 0);
  const [low, high] = [Math.min(...sheetMesh.positions), Math.max(...sheetMesh.positions)];
  const middle = (low + high) / 2;

  it('cover what a capsule of their radius covers: 2·r·l + π·r² of a straight one, r to the middle of its edge, however its points are spaced', () => {
    const line = (n: number) => stroke(Array.from({ length: n }, (_, i) => [middle - 80 + (160 * i) / (n - 1), middle] as const));
    const wanted = 2 * 9.9 * 160 + Math.PI * 9.9 ** 2;
    for (const n of [2, 5, 60]) expect(Math.abs(covered([line(n)]) / wanted - 1)).toBeLessThan(0.01);
    // A soft edge fades to half in the middle of where it fades.
    expect(covered([line(2)], 1) / (2 * 5 * 160 + Math.PI * 25)).toBeGreaterThan(0.95);
    // Pressed half as hard it is half as wide.
    const light = line(2);
    for (let i = 6; i < light.points.length; i += POINT) light.points[i] = 0.5;
    expect(covered([light]) / (2 * 5 * 160 + Math.PI * 25)).toBeCloseTo(1, 1);
    expect(covered([stroke([[middle, middle]])]) / (Math.PI * 100)).toBeCloseTo(1, 1);
  });

  it('are drawn one after the other: what is erased can be painted again, and nothing is taken off by what came before it', () => {
    const all = stroke([
      [middle - 80, middle],
      [middle + 80, middle],
    ]);
    const hole = { ...stroke([[middle, middle]]), erases: true };
    const whole = covered([all]);
    const circle = Math.PI * 100;
    expect((whole - covered([all, hole])) / circle).toBeCloseTo(1, 1);
    expect(covered([hole, all])).toBeCloseTo(whole, 6);
    expect(covered([all, hole, all])).toBeCloseTo(whole, 6);
    expect(covered([all, all])).toBeCloseTo(whole, 6);
    expect(covered([])).toBe(0);
    expect(covered([{ ...all, part: 'another' }])).toBe(0);
  });

  it('many over each other are what they are drawn one by one, wherever one covers all that was before', () => {
    const next = random(17);
    const many = Array.from({ length: 40 }, () => ({
      erases: next() < 0.4,
      found: [
        {
          points: Float64Array.from([0, 1].flatMap(() => [60 * next(), 0, 60 * next(), ...UP, 4 + 12 * next()])),
          shell: next() < 0.2 ? 1 : -1,
        },
      ],
    }));
    const all = new StrokeGrid(many, 0.5);
    const each = many.map((m) => new StrokeGrid([{ ...m, erases: false }], 0.5));
    const p = new Place();
    p.ny = 1;
    let between = 0;
    for (let i = 0; i < 4000; i++) {
      [p.x, p.z] = [60 * next(), 60 * next()];
      const wanted = each.reduce((a, grid, n) => {
        const c = grid.at(p, 0);
        return many[n].erases ? a * (1 - c) : Math.max(a, c);
      }, 0);
      expect(all.at(p, 0)).toBeCloseTo(wanted, 12);
      if (wanted > 0.01 && wanted < 0.99) between++;
    }
    expect(between).toBeGreaterThan(500);
  });

  it('mirrored they lie once more across the middle of the part', () => {
    const one = stroke([
      [middle - 120, middle - 40],
      [middle - 60, middle - 90],
    ]);
    expect(covered([{ ...one, mirror: 'x' }]) / covered([one])).toBeCloseTo(2, 3);
    expect(
      covered([
        { ...one, mirror: 'x' },
        { ...one, mirror: 'x', erases: true },
      ]),
    ).toBeLessThan(0.03 * covered([one]));
    const there = {
      ...one,
      erases: true,
      points: one.points.map((x, i) => (i % POINT === 0 ? 2 * middle - x : x)),
    };
    expect(covered([{ ...one, mirror: 'x' }, there]) / covered([one])).toBeCloseTo(1, 1);
  });

  it('paint round an edge and not through a wall', () => {
    const grid = new StrokeGrid([{ erases: false, found: [{ points: Float64Array.from([0, 0, 0, 0, 0, 1, 5]), shell: -1 }] }], 0.2);
    const at = (z: number, n: [number, number, number]) => {
      const p = new Place();
      [p.x, p.z] = [1, z];
      [p.nx, p.ny, p.nz] = n;
      return grid.at(p, 0);
    };
    expect(at(0, [0, 0, 1])).toBe(1);
    expect(at(-1, [1, 0, 0])).toBe(1);
    expect(at(-1, [0, 0, -1])).toBe(0);
    expect(at(-9, [0, 0, 1])).toBe(0);
  });

  it('stay on the one piece they began on, where that is asked for', () => {
    // Two cubes of 10 mm, their tops 1 mm apart.
    const one = cube(10);
    const far = one.positions.map((x, i) => (i % 3 === 0 ? x + 11 : x));
    const mesh: PolyMesh = {
      ...one,
      positions: Float64Array.from([...one.positions, ...far]),
      faceStart: Uint32Array.from([...one.faceStart, ...one.faceStart.slice(1).map((c) => c + one.faceVert.length)]),
      faceVert: Uint32Array.from([...one.faceVert, ...one.faceVert.map((v) => v + one.positions.length / 3)]),
      triangles: Uint32Array.from([...one.triangles, ...one.triangles.map((c) => c + one.faceVert.length)]),
      triangleFace: Uint32Array.from([...one.triangleFace, ...one.triangleFace.map((f) => f + 6)]),
      attributes: [],
    } as PolyMesh;
    const boards = boardsOf([{ id: 'p', mesh }]);
    expect(boards.shells).toHaveLength(2);
    const top = Math.max(...one.positions.filter((_, i) => i % 3 === 1));
    const right = Math.max(...one.positions.filter((_, i) => i % 3 === 0));
    const drawn: DrawnStroke = {
      part: 'p',
      erases: false,
      radius: 4,
      points: [right - 1, top, 0, ...UP, 1],
      faces: [[...one.triangleFace].find((_, t) => boards.normals[0][3 * one.triangles[3 * t] + 1] > 0.9) ?? 0],
      alone: true,
    };
    const p = new Place();
    [p.x, p.y, p.ny, p.nz] = [right + 1.5, top, 1, 0];
    for (const alone of [true, false]) {
      const grid = strokesOn([strokeFrom(mesh, { ...drawn, alone })], 0.1, boards, 0);
      expect(grid?.at(p, 1)).toBe(alone ? 0 : 1);
      expect(grid?.at(p, 0)).toBe(1);
    }
  });

  it('keep only the points they need, never further off than a twenty-fifth of the radius', () => {
    const straight = Array.from({ length: 200 }, (_, i) => [i * 0.5, 0, 0, ...UP, 1]).flat();
    expect(plainer(straight, 5)).toEqual([0, 199]);
    const wave = Array.from({ length: 200 }, (_, i) => [i * 0.5, 6 * Math.sin(i / 12), 0, ...UP, 1]).flat();
    const kept = plainer(wave, 5);
    expect(kept.length).toBeLessThan(60);
    for (let i = 0; i < 200; i++) {
      const b = kept.findIndex((k) => k >= i);
      if (kept[b] === i) continue;
      const [from, to] = [kept[b - 1], kept[b]];
      const t = (i - from) / (to - from);
      expect(Math.abs(wave[POINT * i + 1] - (wave[POINT * from + 1] + t * (wave[POINT * to + 1] - wave[POINT * from + 1])))).toBeLessThan(
        0.3,
      );
    }
    // One that goes over an edge keeps where it turns.
    const over = [0, 1, 2, 3, 4].flatMap((i) => [i, 0, 0, ...(i < 3 ? [0, 0, 1] : [1, 0, 0]), 1]);
    expect(plainer(over, 50)).toEqual([0, 2, 3, 4]);
  });

  it('are refused in words where they are none', () => {
    expect(strokesFault([stroke([[0, 0]])])).toBeNull();
    expect(layersFault([layer([stroke([[0, 0]])])])).toBeNull();
    for (const [wrong, words] of [
      [{ ...stroke([[0, 0]]), radius: 0 }, /brush/],
      [{ ...stroke([[0, 0]]), points: [1, 2, 3] }, /points/],
      [{ ...stroke([[0, 0]]), points: [] }, /points/],
      [{ ...stroke([[0, 0]]), on: { patches: ['a'], spots: [1, 0, 0] } }, /patches/],
      [{ ...stroke([[0, 0]]), mirror: 'w' }, /mirror/],
      [{ ...stroke([[0, 0]]), colour: 'red' }, /stroke/],
      [stroke(Array.from({ length: MOST_POINTS + 1 }, (_, i) => [i, 0] as const)), /points/],
      [null, /stroke/],
    ] as const)
      expect(strokesFault([wrong])).toMatch(words);
  });
});
