import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { stepOf } from '../../test/recipes';
import { placement } from '../maths/mat4';
import { triangleArea } from '../mesh/measures';
import { type PolyMesh, triangleCount } from '../mesh/polymesh';
import { evaluate, namesIn } from '../units/formula';
import { showing } from './cover';
import { checkDimension, type Dimension, evaluateDimensions, resolveStep, usesOf } from './dimensions';
import { numbersOf, withNumber } from './fields';
import { budgetOf, form, NOWHERE, StepCache } from './recipe';
import type { Changed } from './step';
import { checkStep, kindOf, STEP_KINDS, type Step } from './steps/index';

const d = (name: string, formula: string, kind: Dimension['kind'] = 'length'): Dimension => ({ id: name, name, formula, kind });
const worthOf = (list: Dimension[], id: string) => evaluateDimensions(list).values.find((v) => v.id === id);

describe('named dimensions', () => {
  it('follow each other in any order', () => {
    const list = [d('tray', 'opening - 2*gap'), d('gap', '0.4'), d('opening', '6cm'), d('copies', '3 * 2', 'number')];
    expect(worthOf(list, 'tray')?.value).toBeCloseTo(59.2, 9);
    expect(worthOf(list, 'copies')?.value).toBe(6);
  });
  it('a circle is named along its way, and what depends on it says so', () => {
    const list = [d('a', 'b + 1'), d('b', 'c'), d('c', 'a*2'), d('after', 'a + 1'), d('fine', '7')];
    const { values } = evaluateDimensions(list);
    expect(values[0].wrong).toBe('a → b → c → a goes round in a circle.');
    expect(values[3].wrong).toMatch(/“a” has no value: a → b → c → a/);
    expect(values[4].value).toBe(7);
  });
  it.each([
    ['4*gap*gap', /an area/],
    ['gap / gap', /a plain number/],
    ['gap + count', /adds a length and a plain number/],
    ['count', /a plain number/],
    ['gap + nothing', /there is no dimension called “nothing”/],
    ['sin(gap)', /an angle in degrees, not a length/],
  ])('a slip of units in “%s” is named', (formula, words) => {
    expect(worthOf([d('x', formula), d('gap', '2'), d('count', '3', 'number')], 'x')?.wrong).toMatch(words);
  });
  it.each([
    ['sqrt(gap*gap)', 2],
    ['max(gap, 5mm, 1)', 5],
    ['gap * count / 3', 2],
    ['2*(gap + 1)', 6],
    ['gap * sin(30)', 1],
    ['-gap + 1cm', 8],
  ])('%s is %d mm', (formula, mm) => {
    expect(worthOf([d('x', formula), d('gap', '2'), d('count', '3', 'number')], 'x')?.value).toBeCloseTo(mm, 9);
  });
  it('whatever is typed gets a value or a sentence', () => {
    fc.assert(
      fc.property(fc.string(), (text) => {
        const v = worthOf([d('x', text)], 'x');
        expect(v?.value !== undefined || (v?.wrong?.endsWith('.') ?? false)).toBe(true);
      }),
      { numRuns: 400 },
    );
  });
  it('names are letters, digits and _, no unit, and taken once', () => {
    for (const bad of ['2nd', 'mm', 'a b', '', 'in', 'sin']) expect(() => checkDimension(d(bad, '1'), [])).toThrow(/can’t be the name/);
    expect(() => checkDimension({ ...d('Gap', '1'), id: 'other' }, [d('gap', '1')])).toThrow(/already/);
  });
  it('says where it is used', () => {
    const step = { ...stepOf('box'), formulas: { width: 'opening + 4' } };
    expect(usesOf('opening', [d('tray', 'opening - 1'), d('gap', '2')], [step, stepOf('bar')])).toEqual(['tray', 'Box']);
    expect(namesIn('2*3.5cm + max(gap, 1e3) - opening')).toEqual(['gap', 'opening']);
  });
  it('a bracket and a unit alone are told apart from names', () => {
    expect(() => evaluate('mm')).toThrow(/needs a number in front/);
    expect(() => evaluate('max(1')).toThrow(/bracket/);
  });
});

describe('formulas in steps', () => {
  const { lookup } = evaluateDimensions([d('opening', '60'), d('gap', '0.4'), d('n', '4', 'number')]);
  it('set a number anywhere in a step, in lists by id', () => {
    const bar: Step = { ...stepOf('bar'), formulas: { 'path.b.bend': 'opening / 5', radius: 'gap * 5' } };
    const out = resolveStep(bar, lookup);
    expect(out).toMatchObject({ radius: 2, path: [{}, { bend: 12 }, {}] });
    expect(bar.kind === 'bar' && bar.path[1].bend).toBe(10);
  });
  it('out of range, no whole number and a wrong unit each get a sentence', () => {
    const band = (formula: string): Step => ({ ...stepOf('band'), formulas: { columns: formula } });
    expect(() => resolveStep(band('n / 3'), lookup)).toThrow(/has to be a whole number/);
    expect(() => resolveStep(band('n - 3'), lookup)).toThrow(/it can be 3 to 400/);
    expect(() => resolveStep(band('opening'), lookup)).toThrow(/not a plain number: it is a length/);
    expect(resolveStep(band('6*n'), lookup)).toMatchObject({ columns: 24 });
  });
  it('a formula for what is no longer there does nothing', () => {
    expect(resolveStep({ ...stepOf('bar'), formulas: { 'path.zz.bend': '1' } }, lookup)).toMatchObject({ radius: 2 });
  });
  it('a step whose formula fails is left out and named; the rest stands', () => {
    const steps: Step[] = [{ ...stepOf('box'), formulas: { width: 'nowhere' } }, stepOf('bar')];
    const formed = form(steps, { mesh: 'low', count: () => 8 }, { lookup });
    expect(formed.problems.map((p) => p.step)).toEqual(['box1']);
    expect(formed.problems[0].message).toMatch(/no dimension called “nowhere”/);
    expect(formed.mesh).toBeDefined();
  });
});

describe('a step is what its description says', () => {
  it('every number of a fresh step can be found and set by its path', () => {
    for (const kind of STEP_KINDS) {
      const step = stepOf(kind);
      for (const place of numbersOf(kindOf(kind).fields, step)) {
        const next = withNumber(step, place.path, place.value + 1);
        expect(numbersOf(kindOf(kind).fields, next).find((p) => p.path === place.path)?.value, place.path).toBeCloseTo(place.value + 1, 9);
      }
    }
  });
  it('a checked step is the step; what it doesn’t know is left out', () => {
    for (const kind of STEP_KINDS) {
      const step = { ...stepOf(kind), formulas: { x: '1' }, in: 'low' as const };
      expect(checkStep({ ...step, surprise: 1 })).toEqual(step);
    }
  });
  it.each<[unknown, RegExp]>([
    [{ ...stepOf('box'), width: 'wide' }, /Width \(x\) of the box “Box” has to be a number/],
    [{ ...stepOf('box'), width: -3 }, /is -3\u00a0mm; it can be 0.01\u00a0mm to/],
    [{ ...stepOf('box'), body: 'odd' }, /has to be one of solid, hollow/],
    [{ ...stepOf('box'), corner: null }, /has to be a number/],
    [{ ...stepOf('bar'), path: [{ id: 'a', x: 0, y: 0, z: 0 }] }, /has 1 entries; it can have 2 to 200/],
    [
      {
        ...stepOf('bar'),
        path: [
          { id: 'a', x: 0, y: 0, z: 0 },
          { id: 'a', x: 0, y: 9, z: 0 },
        ],
      },
      /needs an id of its own/,
    ],
    [{ ...stepOf('array'), count: 2.5 }, /has to be a whole number/],
    [{ ...stepOf('array'), in: 'sideways' }, /in the low mesh/],
    [{ ...stepOf('array'), formulas: { count: 4 } }, /is no text/],
    [{ kind: 'teapot', id: 'x' }, /no kind of step called “teapot”/],
    [{ ...stepOf('array'), id: '' }, /needs an id/],
    [null, /no kind of step/],
  ])('%#', (plain, words) => {
    expect(() => checkStep(plain)).toThrow(words);
  });
});

describe('recipes', () => {
  const detail = { mesh: 'low', count: () => 12 } as const;
  it('in low, in high or in both', () => {
    const steps: Step[] = [stepOf('box', { in: 'low' }), stepOf('bar', { in: 'high' }), stepOf('band')];
    const kinds = (d: Parameters<typeof form>[1]) => new Set(form(steps, d).mesh?.patches.map((p) => p.split('/')[0]));
    expect(kinds(detail)).toEqual(new Set(['box1', 'band1']));
    expect(kinds({ mesh: 'high', toleranceMm: 0.05 })).toEqual(new Set(['bar1', 'band1']));
    expect(budgetOf(steps).steps.map((s) => s.id)).toEqual(['box1', 'band1']);
  });
  it('each step has its own triangles, copies included', () => {
    const steps: Step[] = [stepOf('box', { corner: 0 }), stepOf('row', { count: 5 })];
    expect(budgetOf(steps).steps).toHaveLength(1);
    expect(budgetOf(steps).steps[0].triangles(() => 1)).toBe(60);
  });
  it('only what an edit touches is built again', () => {
    const built: string[] = [];
    class Watched extends StepCache {
      override get(key: string, build: () => Changed): Changed {
        return super.get(key, () => {
          built.push(key);
          return build();
        });
      }
    }
    const cache = new Watched();
    const steps: Step[] = ['a', 'b', 'c', 'd'].map((id) => stepOf('box', { id }));
    const first = form(steps, detail, { cache }).mesh;
    // Four steps and the part they are merged into.
    expect(built).toHaveLength(5);
    const renamed = steps.map((s) => (s.id === 'c' ? { ...s, name: 'renamed' } : s));
    expect(form(renamed, detail, { cache }).mesh).toBe(first);
    expect(built).toHaveLength(5);
    form(
      [...steps].reverse().map((s) => (s.id === 'c' && s.kind === 'box' ? { ...s, width: 33 } : s)),
      detail,
      { cache },
    );
    expect(built).toHaveLength(7);
  });
  it('what was used last is kept, up to a number of results and of triangles in all', () => {
    const made: string[] = [];
    const boxes = (cache: StepCache, ids: string[]) => {
      for (const id of ids)
        cache.get(id, () => {
          made.push(id);
          return { mesh: form([stepOf('box', { id, corner: 0 })], detail).mesh as PolyMesh };
        });
    };
    const two = new StepCache(2);
    boxes(two, ['a', 'b', 'a', 'c', 'a', 'b']);
    expect(made).toEqual(['a', 'b', 'c', 'b']);
    made.length = 0;
    // A box is 12 triangles: of the third, the first goes; one that is larger than all the room is kept alone.
    const few = new StepCache(400, 30);
    boxes(few, ['a', 'b', 'c', 'b', 'c', 'a']);
    expect(made).toEqual(['a', 'b', 'c', 'a']);
    made.length = 0;
    const tiny = new StepCache(400, 5);
    boxes(tiny, ['a', 'a', 'b', 'a']);
    expect(made).toEqual(['a', 'b', 'a']);
  });
  it('strewn copies keep their spacing, are the same every time, and stop at the most', () => {
    const host = form([stepOf('box', { id: 'host', corner: 0 })], detail).mesh;
    if (!host) throw new Error('no host');
    let area = 0;
    for (let t = 0; t < triangleCount(host); t++) area += triangleArea(host, t);
    const surroundings = { ...NOWHERE, region: () => host };
    const step = stepOf('scatter', { on: 'host', spacing: 9, most: 500 });
    const places = (s: Step) => form([stepOf('box'), s], detail, { surroundings }).placements;
    const found = places(step);
    const at = found.map((m) => m.slice(12, 15));
    for (let i = 0; i < at.length; i++)
      for (let j = 0; j < i; j++) expect(Math.hypot(...at[i].map((x, k) => x - at[j][k]))).toBeGreaterThanOrEqual(9);
    // Random darts jam at 0.547 of the plane (Rényi’s parking in two dimensions, Feder 1980), discs of half the spacing.
    expect((at.length * Math.PI * 4.5 ** 2) / area).toBeGreaterThan(0.4);
    expect((at.length * Math.PI * 4.5 ** 2) / area).toBeLessThan(0.6);
    expect(places(step)).toEqual(found);
    expect(places({ ...step, seed: 2 })).not.toEqual(found);
    expect(places({ ...step, most: 7 })).toHaveLength(7);
    expect(form([stepOf('box'), step], detail).problems[0].message).toMatch(/is not there/);
  });
});

describe('what strewn copies hide', () => {
  it('is their shadow: discs of a known area over a plate, looked at square on', () => {
    const plate = form([stepOf('panel', { width: 200, height: 200, thickness: 5, field: 'plain', corner: 0, edgeRadius: 0 })], {
      mesh: 'low',
      count: () => 8,
    }).mesh;
    const disc = form([stepOf('prism', { sides: 12, acrossFlats: 10, height: 2 })], { mesh: 'low', count: () => 8 }).mesh;
    if (!plate || !disc) throw new Error('nothing made');
    // Twelve-sided: area 12·d²·tan(π/12)/4; sixteen of them apart on the front, turned to stand on it.
    const copies = Array.from({ length: 16 }, (_, i) => placement([(i % 4) * 40 - 60, Math.floor(i / 4) * 40 + 40, 5], [90, 0, 0]));
    const front = 200 * 200;
    const whole = 2 * front + 4 * 200 * 5;
    const hidden = 16 * ((12 * 100 * Math.tan(Math.PI / 12)) / 4);
    expect(Math.abs(1 - showing(plate, disc, copies) - hidden / whole)).toBeLessThan(0.012);
    expect(showing(plate, disc, [])).toBe(1);
  });
});
