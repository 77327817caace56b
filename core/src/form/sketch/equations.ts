import { FormError } from '../../errors';
import { Groups } from '../../mesh/connectivity';
import type { Constraint, Sketch, SketchCurve } from './sketch';

/** One equation: its value in mm (directions are scaled by the length they act over), and the unknowns it depends on. */
export interface Equation {
  /** The constraint it belongs to; undefined for what arcs owe their own shape. */
  constraint?: Constraint;
  unknowns: number[];
  value(x: Float64Array): number;
}

/** A sketch as unknowns and equations. Fixed points are unknowns too, only never moved. */
export interface System {
  x: Float64Array;
  /** 1 for unknowns that may move. */
  loose: Uint8Array;
  equations: Equation[];
  /** Index of a point's x; its y follows. */
  ofPoint: Map<string, number>;
  ofRadius: Map<string, number>;
}

type V = [number, number];

/** @throws FormError `sketch/reference` when a curve or a constraint speaks of what isn't there */
export function systemOf(sketch: Sketch): System {
  const ofPoint = new Map<string, number>();
  const ofRadius = new Map<string, number>();
  const start: number[] = [];
  const loose: number[] = [];
  for (const p of sketch.points) {
    ofPoint.set(p.id, start.length);
    start.push(p.x, p.y);
    loose.push(p.fixed ? 0 : 1, p.fixed ? 0 : 1);
  }
  for (const c of sketch.curves)
    if (c.kind === 'circle') {
      ofRadius.set(c.id, start.length);
      start.push(c.radius ?? 1);
      loose.push(1);
    }
  const system: System = {
    x: Float64Array.from(start),
    loose: Uint8Array.from(loose),
    equations: [],
    ofPoint,
    ofRadius,
  };
  const make = new Equations(sketch, system);
  for (const c of sketch.curves) system.equations.push(...make.shape(c));
  for (const k of sketch.constraints) system.equations.push(...make.constraint(k));
  return system;
}

/** Writes down equations. Which side of a line, inside or outside of a circle: as the sketch stands now, and kept. */
class Equations {
  private readonly curves: Map<string, SketchCurve>;
  private readonly together: Groups;
  private readonly places: Map<string, number>;

  constructor(
    sketch: Sketch,
    private readonly system: System,
  ) {
    this.curves = new Map(sketch.curves.map((c) => [c.id, c]));
    this.places = new Map(sketch.points.map((p, i) => [p.id, i]));
    this.together = new Groups(sketch.points.length);
    for (const k of sketch.constraints) {
      const [a, b] = [this.places.get(k.one), this.places.get(k.two ?? '')];
      if (k.kind === 'coincident' && a !== undefined && b !== undefined) this.together.join(a, b);
    }
  }

  private point(id: string | undefined): number {
    const at = this.system.ofPoint.get(id ?? '');
    if (at === undefined) throw new FormError('sketch/reference', 'The sketch speaks of a point that is not there.');
    return at;
  }
  private curve(id: string | undefined): SketchCurve {
    const c = this.curves.get(id ?? '');
    if (!c) throw new FormError('sketch/reference', 'A constraint of the sketch speaks of a curve that is not there.');
    return c;
  }
  private isPoint = (id: string | undefined): boolean => this.system.ofPoint.has(id ?? '');
  private one(constraint: Constraint | undefined, unknowns: readonly number[], value: Equation['value']): Equation[] {
    return [{ unknowns: [...new Set(unknowns)], value, ...(constraint && { constraint }) }];
  }

  /** An arc's ends are equally far from its centre. */
  shape(c: SketchCurve): Equation[] {
    if (c.kind === 'line') this.line(c);
    if (c.kind !== 'arc') {
      if (c.kind === 'circle') this.point(c.centre);
      return [];
    }
    const [a, b, m] = [this.point(c.a), this.point(c.b), this.point(c.centre)];
    return this.one(undefined, pair(a, b, m), (x) => gap(x, a, m) - gap(x, b, m));
  }

  private line(c: SketchCurve): { a: number; b: number } {
    return { a: this.point(c.a), b: this.point(c.b) };
  }
  /** A round curve's centre, radius and the unknowns of both. */
  private round(c: SketchCurve): { m: number; radius(x: Float64Array): number; unknowns: number[] } {
    const m = this.point(c.centre);
    if (c.kind === 'circle') {
      const r = this.system.ofRadius.get(c.id) as number;
      return { m, radius: (x) => x[r], unknowns: [m, m + 1, r] };
    }
    const a = this.point(c.a);
    return { m, radius: (x) => gap(x, a, m), unknowns: pair(a, m) };
  }
  /** A point both curves end on, directly or through points that are together. */
  private shared(p: SketchCurve, q: SketchCurve): number | undefined {
    const group = (id: string | undefined) => (id === undefined ? -1 : this.together.find(this.places.get(id) ?? 0));
    for (const i of [p.a, p.b])
      for (const j of [q.a, q.b]) if (i !== undefined && j !== undefined && group(i) === group(j)) return this.point(i);
    return undefined;
  }

  constraint(k: Constraint): Equation[] {
    switch (k.kind) {
      case 'coincident':
        return this.coincident(k);
      case 'horizontal':
      case 'vertical': {
        const of = k.kind === 'horizontal' ? 1 : 0;
        const { a, b } = this.isPoint(k.one) ? { a: this.point(k.one), b: this.point(k.two) } : this.line(this.curve(k.one));
        return this.one(k, [a + of, b + of], (x) => x[a + of] - x[b + of]);
      }
      case 'parallel':
      case 'perpendicular': {
        const [p, q] = [this.line(this.curve(k.one)), this.line(this.curve(k.two))];
        const turn = k.kind === 'parallel' ? cross : dot;
        return this.one(k, pair(p.a, p.b, q.a, q.b), (x) => {
          const [d, e] = [along(x, p), along(x, q)];
          return turn(d, e) / (Math.hypot(...e) || 1);
        });
      }
      case 'angle': {
        const [p, q] = [this.line(this.curve(k.one)), this.line(this.curve(k.two))];
        const wanted = ((k.degrees ?? 0) * Math.PI) / 180;
        return this.one(k, pair(p.a, p.b, q.a, q.b), (x) => {
          const [d, e] = [along(x, p), along(x, q)];
          const off = Math.atan2(cross(d, e), dot(d, e)) - wanted;
          return (off - 2 * Math.PI * Math.round(off / (2 * Math.PI))) * Math.hypot(...d);
        });
      }
      case 'tangent':
        return this.tangent(k);
      case 'equal': {
        const [p, q] = [this.curve(k.one), this.curve(k.two)];
        if (p.kind === 'line') {
          const [l, m] = [this.line(p), this.line(q)];
          return this.one(k, pair(l.a, l.b, m.a, m.b), (x) => gap(x, l.a, l.b) - gap(x, m.a, m.b));
        }
        const [r, s] = [this.round(p), this.round(q)];
        return this.one(k, [...r.unknowns, ...s.unknowns], (x) => r.radius(x) - s.radius(x));
      }
      case 'symmetric': {
        const [p, q] = [this.point(k.one), this.point(k.two)];
        const l = this.line(this.curve(k.three));
        const all = pair(p, q, l.a, l.b);
        // The middle lies on the line, and the way across is square to it.
        const middle = this.one(k, all, (x) => {
          const d = along(x, l);
          return cross([(x[p] + x[q]) / 2 - x[l.a], (x[p + 1] + x[q + 1]) / 2 - x[l.a + 1]], d) / (Math.hypot(...d) || 1);
        });
        const across = this.one(k, all, (x) => {
          const d = along(x, l);
          return dot([x[q] - x[p], x[q + 1] - x[p + 1]], d) / (Math.hypot(...d) || 1);
        });
        return [...middle, ...across];
      }
      case 'distance':
        return this.distance(k);
      case 'across':
      case 'upward': {
        const of = k.kind === 'across' ? 0 : 1;
        const { a, b } = this.isPoint(k.one) ? { a: this.point(k.one), b: this.point(k.two) } : this.line(this.curve(k.one));
        return this.one(k, [a + of, b + of], (x) => x[b + of] - x[a + of] - (k.mm ?? 0));
      }
      case 'spaced': {
        const [p, q, r] = [this.point(k.one), this.point(k.two), this.point(k.three)];
        // Alike in both directions: the middle one stands half way.
        return [0, 1].flatMap((of) => this.one(k, [p + of, q + of, r + of], (x) => x[q + of] - (x[p + of] + x[r + of]) / 2));
      }
      case 'radius': {
        const r = this.round(this.curve(k.one));
        return this.one(k, r.unknowns, (x) => r.radius(x) - (k.mm ?? 0));
      }
    }
  }

  private coincident(k: Constraint): Equation[] {
    const p = this.point(k.one);
    if (this.isPoint(k.two)) {
      const q = this.point(k.two);
      return [...this.one(k, [p, q], (x) => x[p] - x[q]), ...this.one(k, [p + 1, q + 1], (x) => x[p + 1] - x[q + 1])];
    }
    const c = this.curve(k.two);
    if (c.kind === 'line') {
      const l = this.line(c);
      return this.one(k, pair(p, l.a, l.b), (x) => off(x, p, l));
    }
    const r = this.round(c);
    return this.one(k, [...pair(p), ...r.unknowns], (x) => gap(x, p, r.m) - r.radius(x));
  }

  private distance(k: Constraint): Equation[] {
    const wanted = k.mm ?? 0;
    if (!this.isPoint(k.one)) {
      const l = this.line(this.curve(k.one));
      return this.one(k, pair(l.a, l.b), (x) => gap(x, l.a, l.b) - wanted);
    }
    const p = this.point(k.one);
    if (this.isPoint(k.two)) {
      const q = this.point(k.two);
      return this.one(k, pair(p, q), (x) => gap(x, p, q) - wanted);
    }
    const l = this.line(this.curve(k.two));
    const side = Math.sign(off(this.system.x, p, l)) || 1;
    return this.one(k, pair(p, l.a, l.b), (x) => side * off(x, p, l) - wanted);
  }

  private tangent(k: Constraint): Equation[] {
    const [p, q] = [this.curve(k.one), this.curve(k.two)];
    const meet = this.shared(p, q);
    if (p.kind === 'line') {
      const l = this.line(p);
      const r = this.round(q);
      const all = [...pair(l.a, l.b), ...r.unknowns];
      // Where both end on one point the distance would touch the radius without crossing it: no derivative to follow there.
      if (meet !== undefined)
        return this.one(k, [...all, ...pair(meet)], (x) => {
          const d = along(x, l);
          return dot([x[meet] - x[r.m], x[meet + 1] - x[r.m + 1]], d) / (Math.hypot(...d) || 1);
        });
      const side = Math.sign(off(this.system.x, r.m, l)) || 1;
      return this.one(k, all, (x) => side * off(x, r.m, l) - r.radius(x));
    }
    const [r, s] = [this.round(p), this.round(q)];
    const all = [...r.unknowns, ...s.unknowns];
    if (meet !== undefined)
      return this.one(k, [...all, ...pair(meet)], (x) => {
        const d: V = [x[r.m] - x[meet], x[r.m + 1] - x[meet + 1]];
        const e: V = [x[s.m] - x[meet], x[s.m + 1] - x[meet + 1]];
        return cross(d, e) / (Math.hypot(...e) || 1);
      });
    const x0 = this.system.x;
    const apart = gap(x0, r.m, s.m);
    const outer = Math.abs(apart - r.radius(x0) - s.radius(x0));
    const inner = Math.abs(apart - Math.abs(r.radius(x0) - s.radius(x0)));
    if (outer <= inner) return this.one(k, all, (x) => gap(x, r.m, s.m) - r.radius(x) - s.radius(x));
    const larger = r.radius(x0) >= s.radius(x0) ? 1 : -1;
    return this.one(k, all, (x) => gap(x, r.m, s.m) - larger * (r.radius(x) - s.radius(x)));
  }
}

const pair = (...points: number[]): number[] => points.flatMap((p) => [p, p + 1]);
const cross = (a: V, b: V): number => a[0] * b[1] - a[1] * b[0];
const dot = (a: V, b: V): number => a[0] * b[0] + a[1] * b[1];
const gap = (x: Float64Array, p: number, q: number): number => Math.hypot(x[p] - x[q], x[p + 1] - x[q + 1]);
const along = (x: Float64Array, l: { a: number; b: number }): V => [x[l.b] - x[l.a], x[l.b + 1] - x[l.a + 1]];
/** Signed distance of a point from a line, positive on its left. */
function off(x: Float64Array, p: number, l: { a: number; b: number }): number {
  const d = along(x, l);
  return cross(d, [x[p] - x[l.a], x[p + 1] - x[l.a + 1]]) / (Math.hypot(...d) || 1);
}
