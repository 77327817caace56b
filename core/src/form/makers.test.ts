import { describe, expect, it } from 'vitest';
import { MAKERS, polygon, randomStep, stepOf } from '../../test/recipes';
import { FormError } from '../errors';
import { random } from '../maths/random';
import { boundaryLoops, shellsOf } from '../mesh/connectivity';
import { areaOf, boundsOf, eulerCharacteristic, isWatertight, volumeOf } from '../mesh/measures';
import { attribute, type PolyMesh, triangleCount } from '../mesh/polymesh';
import { figure } from '../units/lengths';
import { allowedCount, type Detail } from './step';
import { kindOf, makerOf, type Step } from './steps/index';
import { ovalWidth } from './steps/tube';

const dense: Detail = { mesh: 'high', toleranceMm: 0.004 };
const lowAt = (toleranceMm: number): Detail => ({ mesh: 'low', count: (a) => a.countFor(toleranceMm) });
const build = (step: Step, detail: Detail): PolyMesh => {
  const mesh = makerOf(step)?.build(step, detail);
  if (!mesh) throw new Error('no maker');
  return mesh;
};

describe('what a step predicts of its surface', () => {
  // Euler–Poincaré: V − E + F = 2·shells − 2·genus − rims.
  it('shells, genus and rims agree with the mesh, low and high, on 260 random steps of every kind', () => {
    const next = random(404);
    let built = 0;
    const refused: Record<string, number> = {};
    for (let i = 0; i < 260; i++) {
      const step = randomStep(next, MAKERS[i % MAKERS.length]);
      const maker = makerOf(step);
      if (!maker) continue;
      for (const detail of [lowAt(0.3), { mesh: 'high', toleranceMm: 0.08 } as const]) {
        let mesh: PolyMesh;
        try {
          mesh = build(step, detail);
        } catch (error) {
          if (!(error instanceof FormError)) throw error;
          refused[step.kind] = (refused[step.kind] ?? 0) + 1;
          break;
        }
        const t = maker.topology(step);
        const words = `${step.kind} ${detail.mesh} ${JSON.stringify(step)}`;
        expect(shellsOf(mesh).count, words).toBe(t.shells);
        expect(boundaryLoops(mesh).length, words).toBe(t.rims);
        expect(eulerCharacteristic(mesh), words).toBe(2 * t.shells - 2 * t.genus - t.rims);
        if (t.rims === 0) {
          expect(isWatertight(mesh), words).toBe(true);
          expect(volumeOf(mesh), words).toBeGreaterThan(0);
        }
        built++;
      }
    }
    expect(built).toBeGreaterThan(400);
    // Dimensions that don't fit are refused now and then; no kind may refuse most of what it is given.
    for (const n of Object.values(refused)) expect(n).toBeLessThan(12);
  }, 120_000);

  it('triangles are counted without building, on 130 random steps', () => {
    const next = random(405);
    for (let i = 0; i < 130; i++) {
      const step = randomStep(next, MAKERS[i % MAKERS.length]);
      const tolerance = 0.05 + next();
      const plan = (() => {
        try {
          return makerOf(step)?.plan(step);
        } catch (error) {
          if (error instanceof FormError) return undefined;
          throw error;
        }
      })();
      if (!plan) continue;
      const mesh = build(step, lowAt(tolerance));
      expect(triangleCount(mesh), `${step.kind} ${JSON.stringify(step)}`).toBe(
        plan.triangles((a) => allowedCount(a, a.countFor(tolerance))),
      );
    }
  });

  it('every face has a patch, and coordinates in it from 0 to 1; names are the same in low and high', () => {
    for (const kind of MAKERS) {
      const step = stepOf(kind);
      const [low, high] = [build(step, lowAt(0.2)), build(step, dense)];
      for (const mesh of [low, high])
        for (const x of attribute(mesh, 'patchUv', 'corner')?.data ?? []) {
          expect(x, kind).toBeGreaterThanOrEqual(-1e-9);
          expect(x, kind).toBeLessThanOrEqual(1 + 1e-9);
        }
      for (const p of low.patches) expect(high.patches, kind).toContain(p);
    }
  });

  it('starts from dimensions that can be built, and says in a few words what it is', () => {
    for (const kind of MAKERS) {
      const step = stepOf(kind);
      expect(() => build(step, dense)).not.toThrow();
      expect(kindOf(kind).words(step, figure).length).toBeGreaterThan(3);
    }
  });
});

describe('against closed forms', () => {
  const volume = (step: Step) => volumeOf(build(step, { mesh: 'high', toleranceMm: 0.0003 }));
  const low = (step: Step) => build(step, lowAt(0.2));

  it('a box is its three sides; hollow, it is that less the room inside', () => {
    const b = stepOf('box', { width: 40, height: 30, depth: 20, corner: 0, edgeRadius: 0 });
    expect(volume(b)).toBeCloseTo(24000, 6);
    expect(areaOf(low(b))).toBeCloseTo(2 * (1200 + 800 + 600), 6);
    const cup = { ...b, body: 'hollow' as const, left: 1, right: 2, front: 3, back: 4, floor: 5 };
    expect(volume(cup)).toBeCloseTo(24000 - 37 * 13 * 25, 6);
    expect(volume({ ...cup, floor: 0 })).toBeCloseTo(24000 - 37 * 13 * 30, 6);
  });
  it('rounded corners take (4 − π)r² off its plan', () => {
    const b = stepOf('box', { width: 40, height: 30, depth: 20, corner: 5, edgeRadius: 0 });
    expect(volume(b) / ((800 - (4 - Math.PI) * 25) * 30)).toBeCloseTo(1, 4);
  });
  it('a box measured inside holds just that room', () => {
    const b = stepOf('box', {
      width: 40,
      height: 30,
      depth: 20,
      corner: 0,
      edgeRadius: 0,
      body: 'hollow',
      sizeIs: 'inside',
      left: 2,
      right: 2,
      front: 2,
      back: 2,
      floor: 3,
    });
    const { min, max } = boundsOf(low(b));
    expect([max[0] - min[0], max[1] - min[1], max[2] - min[2]]).toEqual([44, 33, 24]);
    expect(volume(b)).toBeCloseTo(44 * 33 * 24 - 40 * 30 * 20, 6);
  });
  it('a panel is its board less a frustum of field: h(A + a + √(A·a))/3 only for similar ends, by the prismatoid rule here', () => {
    const p = stepOf('panel', {
      width: 60,
      height: 90,
      thickness: 6,
      left: 10,
      right: 10,
      top: 10,
      bottom: 10,
      sunk: 2,
      slope: 3,
      corner: 0,
      edgeRadius: 0,
    });
    // Prismatoid: h/6·(A₀ + 4·Aₘ + A₁).
    const field = (2 / 6) * (40 * 70 + 4 * (37 * 67) + 34 * 64);
    expect(volume(p)).toBeCloseTo(60 * 90 * 6 - field, 6);
    expect(volume({ ...p, field: 'open' })).toBeCloseTo((60 * 90 - 40 * 70) * 6, 6);
  });
  it('a prism of n sides across flats d has the area n·d²·tan(π/n)/4', () => {
    for (const sides of [3, 6, 8, 12]) {
      const p = stepOf('prism', { sides, acrossFlats: 50, height: 40, edgeRadius: 0 });
      const plan = (sides * 2500 * Math.tan(Math.PI / sides)) / 4;
      expect(volume(p)).toBeCloseTo(plan * 40, 5);
      // A frustum of similar ends: h(A + a + √(A·a))/3.
      expect(volume({ ...p, taper: 0.5 })).toBeCloseTo((plan * 40 * (1 + 0.25 + 0.5)) / 3, 5);
      expect(volume({ ...p, body: 'tube', wall: 5 })).toBeCloseTo(plan * (1 - 0.8 ** 2) * 40, 5);
    }
  });
  it('staves leave gaps of just the stated width', () => {
    const p = stepOf('prism', { sides: 8, acrossFlats: 60, height: 40, body: 'staves', wall: 5, gap: 0.8, edgeRadius: 0 });
    const tube = volume({ ...p, body: 'tube' });
    // Each gap is a strip of its width across the wall, measured along the corner: wall / cos(π/n).
    expect(tube - volume(p)).toBeCloseTo((8 * 0.8 * 5 * 40) / Math.cos(Math.PI / 8), 4);
  });
  it('a plate is its outline’s area times its thickness, holes taken away', () => {
    const s = stepOf('plate', {
      thickness: 3,
      edgeRadius: 0,
      sketch: polygon(
        [
          [0, 0],
          [60, 0],
          [60, 40],
          [30, 25],
          [0, 40],
        ],
        [
          [15, 12, 5],
          [45, 12, 4],
        ],
      ),
    });
    // Shoelace (Meister 1769) and two circles.
    expect(volume(s) / ((60 * 40 - (60 * 15) / 2 - Math.PI * 41) * 3)).toBeCloseTo(1, 4);
    expect(makerOf(s)?.topology(s).genus).toBe(2);
  });
  it('a bar of any section along bends has Pappus’ volume: area times the length of its middle', () => {
    const path = [
      { id: 'a', x: 0, y: 0, z: 0 },
      { id: 'b', x: 0, y: 60, z: 0, bend: 20 },
      { id: 'c', x: 60, y: 60, z: 0 },
    ];
    const middle = 40 + 40 + (Math.PI / 2) * 20;
    const bar = (more: object) => volume(stepOf('bar', { path, edgeRadius: 0, ...more })) / middle;
    expect(bar({ radius: 3 }) / (9 * Math.PI)).toBeCloseTo(1, 3);
    expect(bar({ section: 'oval', width: 8, height: 4 }) / (8 * Math.PI)).toBeCloseTo(1, 3);
    expect(bar({ section: 'rectangle', width: 6, height: 4, corner: 0 }) / 24).toBeCloseTo(1, 3);
    expect(bar({ section: 'rectangle', width: 6, height: 4, corner: 1 }) / (24 - (4 - Math.PI))).toBeCloseTo(1, 3);
  });
  it('a sketched path is the same bar as the same points with bends, and says where it has a corner', () => {
    const path = [
      { id: 'a', x: 0, y: 0, z: 0 },
      { id: 'b', x: 0, y: 60, z: 0, bend: 20 },
      { id: 'c', x: 60, y: 60, z: 0 },
    ];
    const route = {
      points: [
        { id: 'a', x: 0, y: 0 },
        { id: 'b', x: 0, y: 40 },
        { id: 'm', x: 20, y: 40 },
        { id: 'c', x: 20, y: 60 },
        { id: 'd', x: 60, y: 60 },
      ],
      curves: [
        { id: 'l1', name: 'riser', kind: 'line' as const, a: 'a', b: 'b' },
        { id: 'r1', name: 'elbow', kind: 'arc' as const, a: 'b', b: 'c', centre: 'm', turn: 'right' as const },
        { id: 'l2', name: 'rail', kind: 'line' as const, a: 'c', b: 'd' },
      ],
      constraints: [],
    };
    const [points, sketched] = [stepOf('bar', { path }), stepOf('bar', { along: 'sketch', route })];
    const [p, s] = [build(points, lowAt(0.05)), build(sketched, lowAt(0.05))];
    expect(triangleCount(s)).toBe(triangleCount(p));
    expect(volumeOf(s)).toBeCloseTo(volumeOf(p), 6);
    expect(triangleCount(s)).toBe(
      makerOf(sketched)
        ?.plan(sketched)
        .triangles((a) => allowedCount(a, a.countFor(0.05))),
    );
    expect(s.patches).toContain('bend r1');
    const sharp = { ...route, curves: [route.curves[0], { id: 'l3', name: 'arm', kind: 'line' as const, a: 'b', b: 'd' }] };
    expect(() => build(stepOf('bar', { along: 'sketch', route: sharp }), dense)).toThrow(/sharp corner between “riser” and “arm”/);
    expect(() => build(stepOf('bar', { along: 'sketch', route, radius: 21 }), dense)).toThrow(/“elbow” of “Bar” bends at 20\u00a0mm/);
    expect(() => build(stepOf('bar', { along: 'sketch' }), dense)).toThrow(/no curves yet/);
  });
  it('round ends make a straight bar a capsule', () => {
    const path = [
      { id: 'a', x: 0, y: 0, z: 0 },
      { id: 'b', x: 0, y: 40, z: 0 },
    ];
    const v = volume(stepOf('bar', { path, radius: 5, ends: 'round', edgeRadius: 0 }));
    expect(v / (25 * Math.PI * 30 + (4 / 3) * Math.PI * 125)).toBeCloseTo(1, 3);
  });
  it('a blade of even stations is a cylinder on a superellipse: 4ab·Γ(1 + 1/n)²/Γ(1 + 2/n)', () => {
    // Γ(3/2)² / Γ(2) = π/4, and for n = 4: Γ(5/4)² / Γ(3/2) = 0.9270373… (closed form; Γ(1/4) = 3.6256099082, from memory).
    const plan = polygon([
      [0, -20],
      [100, -20],
      [100, 20],
      [0, 20],
    ]);
    const blade = (squareness: number) =>
      volumeOf(
        build(
          stepOf('blade', {
            plan,
            stations: [
              { id: 'a', at: 0, thickness: 16, squareness },
              { id: 'b', at: 100, thickness: 16, squareness },
            ],
          }),
          { mesh: 'high', toleranceMm: 0.0005 },
        ),
      );
    expect(blade(2) / (Math.PI * 20 * 8 * 100)).toBeCloseTo(1, 3);
    const gamma14 = 3.6256099082;
    const four = (gamma14 / 4) ** 2 / (Math.sqrt(Math.PI) / 2);
    expect(blade(4) / (4 * 20 * 8 * four * 100)).toBeCloseTo(1, 2.5);
  });
  it('faces of a band stand out by just its depth: the volume of their frusta', () => {
    const band = stepOf('band', {
      radius: 30,
      height: 20,
      wall: 2,
      columns: 40,
      rows: 2,
      pattern: 'all',
      depth: 0,
      inset: 0,
      edgeRadius: 0,
      twistDegrees: 0,
    });
    const plain = volume(band);
    const chord = 2 * 30 * Math.sin(Math.PI / 40);
    expect(volume({ ...band, depth: 1 }) - plain).toBeCloseTo(80 * chord * 10 * 1, 6);
    const inset = 0.5;
    const frustum = (1 / 6) * (chord * 10 + 4 * (chord - inset) * (10 - inset) + (chord - 2 * inset) * (10 - 2 * inset));
    expect(volume({ ...band, depth: 1, inset }) - plain).toBeCloseTo(80 * frustum, 6);
  });
  it('a tube keeps its length round from round to flat', () => {
    for (const b of [16, 9, 4, 1, 0.5]) {
      const a = ovalWidth(16, b);
      // The length round an oval by its integral, not by the formula that found a.
      let round = 0;
      const n = 20000;
      for (let i = 0; i < n; i++) {
        const t = (2 * Math.PI * (i + 0.5)) / n;
        round += Math.hypot(a * Math.sin(t), b * Math.cos(t)) * ((2 * Math.PI) / n);
      }
      expect(round / (2 * Math.PI * 16)).toBeCloseTo(1, 3);
    }
  });
  it('a wrapped block keeps its film’s length round at every place, and is as long, wide and high as was said', () => {
    const wrap = stepOf('wrap', { fin: 0, wrinkles: 0, tooth: 0, corner: 3 });
    const mesh = build(wrap, { mesh: 'high', toleranceMm: 0.002 });
    const rows = new Map<string, [number, number][]>();
    for (let v = 0; v < mesh.positions.length; v += 3) {
      const key = mesh.positions[v].toFixed(6);
      rows.set(key, [...(rows.get(key) ?? []), [mesh.positions[v + 1], mesh.positions[v + 2]]]);
    }
    // A rectangle with round corners: 2(w + h) − (8 − 2π)r.
    const wanted = 2 * (40 + 16) - (8 - 2 * Math.PI) * 3;
    expect(rows.size).toBeGreaterThan(20);
    for (const row of rows.values()) {
      const round = row.reduce((s, p, i) => s + Math.hypot(p[0] - row[(i + 1) % row.length][0], p[1] - row[(i + 1) % row.length][1]), 0);
      expect(round / wanted).toBeCloseTo(1, 3);
    }
    const { min, max } = boundsOf(mesh);
    expect([max[0] - min[0], max[1] - min[1]].map((x) => Math.round(x * 1e6) / 1e6)).toEqual([120, 16]);
    // Flattened it is half its film wide, less the two turns: wider than the block.
    expect(max[2] - min[2]).toBeGreaterThan(50);
    expect(max[2] - min[2]).toBeLessThan(wanted / 2);
    // The block’s own prism, and less than its box over all.
    const prism = (40 * 16 - (4 - Math.PI) * 9) * (120 - 36);
    expect(volumeOf(mesh)).toBeGreaterThan(prism);
    expect(volumeOf(mesh)).toBeLessThan(prism + 2 * 9 * 40 * 16);
  });
  it('its teeth come out even: the pitch nearest to what was asked, notches as deep as said', () => {
    const wrap = stepOf('wrap', { fin: 0, toothPitch: 4, tooth: 1.5 });
    const mesh = build(wrap, lowAt(0.3));
    const ends = [];
    for (let v = 0; v < mesh.positions.length; v += 3)
      if (mesh.positions[v] > 60 - 1.5 - 1e-9 && mesh.positions[v + 1] > 8) ends.push([mesh.positions[v], mesh.positions[v + 2]]);
    const tips = ends
      .filter(([x]) => x > 60 - 1e-9)
      .map(([, z]) => z)
      .sort((a, b) => a - b);
    const pitches = tips.slice(1).map((z, i) => z - tips[i]);
    for (const p of pitches) expect(p).toBeCloseTo(pitches[0], 9);
    expect(Math.abs(pitches[0] - 4)).toBeLessThan(0.3);
    expect(Math.min(...ends.map(([x]) => x))).toBeCloseTo(58.5, 9);
  });
  it('a part turn has its share of the whole, and two flat sides', () => {
    const whole = stepOf('turned', { edgeRadius: 0 });
    for (const turnDegrees of [30, 90, 250]) {
      const part = { ...whole, turnDegrees };
      expect(volume(part) / volume(whole)).toBeCloseTo(turnDegrees / 360, 3);
      expect(isWatertight(build(part, dense))).toBe(true);
    }
  });
  it('a circle beside the axis is a torus: 2π²Rr² and 4π²Rr, of genus 1; half of it has two flat ends', () => {
    const sketch = {
      points: [{ id: 'm', x: 30, y: 12 }],
      curves: [{ id: 'c', name: 'tyre', kind: 'circle' as const, centre: 'm', radius: 6 }],
      constraints: [],
    };
    const torus = stepOf('turned', { sketch, body: 'open', edgeRadius: 0 });
    expect(volume(torus) / (2 * Math.PI ** 2 * 30 * 36)).toBeCloseTo(1, 3.5);
    expect(areaOf(build(torus, { mesh: 'high', toleranceMm: 0.0003 })) / (4 * Math.PI ** 2 * 30 * 6)).toBeCloseTo(1, 3.5);
    expect(makerOf(torus)?.topology(torus)).toEqual({ shells: 1, genus: 1, rims: 0 });
    expect(eulerCharacteristic(build(torus, dense))).toBe(0);
    const half = { ...torus, turnDegrees: 180 };
    expect(volume(half) / volume(torus)).toBeCloseTo(0.5, 3);
    expect(eulerCharacteristic(build(half, dense))).toBe(2);
    const low = build(half, lowAt(0.3));
    expect(triangleCount(low)).toBe(
      makerOf(half)
        ?.plan(half)
        .triangles((a) => allowedCount(a, a.countFor(0.3))),
    );
  });
  it('flat ends as a grid of quads have the same volume as fans, and quads only', () => {
    const s = stepOf('turned', { edgeRadius: 0 });
    const detail: Detail = { mesh: 'low', count: () => 32 };
    const [fan, grid] = [build(s, detail), build({ ...s, centre: 'grid' }, detail)];
    expect(volumeOf(grid)).toBeCloseTo(volumeOf(fan), 6);
    for (let f = 0; f + 1 < grid.faceStart.length; f++) expect(grid.faceStart[f + 1] - grid.faceStart[f]).toBe(4);
  });
  it('a profile drawn as the inside leaves just that room', () => {
    const profile = {
      points: [
        { id: 'a', r: 0, y: 0 },
        { id: 'b', r: 30, y: 0 },
        { id: 'c', r: 30, y: 80 },
      ],
      segments: [
        { id: 's0', name: 'floor', kind: 'line' as const },
        { id: 's1', name: 'wall', kind: 'line' as const },
      ],
    };
    const s = stepOf('turned', { profile, body: 'wall', wall: 3, drawnIs: 'inside', edgeRadius: 0 });
    const r = boundsOf(build(s, dense));
    expect(r.min[1]).toBeCloseTo(-3, 6);
    expect(r.max[0]).toBeCloseTo(33, 3);
    expect(volume(s) / (Math.PI * (33 * 33 * 83 - 30 * 30 * 80))).toBeCloseTo(1, 4);
  });
});

describe('starting dimensions that the trade uses', () => {
  // All of them common practice, no source.
  it.each<[string, unknown, unknown]>([
    ['three copies at 120°', stepOf('array').count, 3],
    ['a twisted band turns its rims by about 30°', stepOf('band').twistDegrees, 30],
    ['eight sides for staves', stepOf('prism').sides, 8],
    ['two levels of subdivision to look at', stepOf('soft').levelsLow, 2],
    ['three for the picture', stepOf('soft').levelsHigh, 3],
  ])('%s', (_name, is, wanted) => expect(is).toBe(wanted));
});

describe('what does not fit gets one sentence', () => {
  it.each<[Step, RegExp]>([
    [stepOf('box', { width: 10, depth: 10, corner: 5 }), /Corners of 5\u00a0mm don’t fit on “Box”; they can be anything below 5\u00a0mm/],
    [stepOf('box', { width: 10, body: 'hollow', left: 6, right: 6, corner: 0 }), /leave no room inside/],
    [stepOf('panel', { sunk: 7 }), /can’t lie 7\u00a0mm deep in a board of 6\u00a0mm/],
    [stepOf('prism', { body: 'staves', gap: 40 }), /leaves nothing of the staves/],
    [stepOf('band', { columns: 9 }), /only be chosen of an even number/],
    [
      stepOf('bar', {
        ends: 'round',
        radius: 30,
        path: [
          { id: 'a', x: 0, y: 0, z: 0 },
          { id: 'b', x: 0, y: 40, z: 0 },
        ],
      }),
      /take 30\u00a0mm; there are 20\u00a0mm/,
    ],
    [stepOf('tube', { flat: 40 }), /can’t be 40\u00a0mm thick/],
    [stepOf('soft', { cellsX: 20, cellsZ: 20, levelsHigh: 6 }), /would take .* quads/],
    [stepOf('turned', { turnDegrees: 400 }), /more than 0° and at most 360°/],
    [stepOf('blade', { stations: [{ id: 'a', at: 0, thickness: 3, squareness: 2 }] }), /at least two stations/],
    [stepOf('wrap', { length: 30 }), /Two crimps of 9\smm and two shoulders of 9\smm leave no block in the 30\smm of “Wrapped block”/],
    [stepOf('wrap', { tooth: 9 }), /Teeth 9\smm high cut through the crimp/],
    [stepOf('wrap', { fin: 30 }), /A fin of 30\smm reaches beyond the underside/],
  ])('%#', (step, words) => {
    expect(() => build(step, dense)).toThrow(words);
  });
});
