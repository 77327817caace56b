import { FormError } from '../../errors';
import { Groups } from '../../mesh/connectivity';
import { figure, millimetres } from '../../units/lengths';
import { type Curve, curveLength, fillet, gap, largestFillet, line, type Point2, pointAt, tangentAt, trim, turnBetween } from '../curves';
import { chainsIn, curveIn } from './chains';
import { parallel } from './parallel';
import type { Sketch, SketchCurve, SketchFeature, SketchPoint } from './sketch';

/** Ends nearer than this are one, mm. */
const SAME = 1e-6;
/** Curves a sketch may come to. */
const MOST = 4000;

/**
 * A sketch with what its kept features make of it: rounded and bevelled corners, teeth, parallels, mirrored and repeated curves. They
 * work one after the other on what the constraints left; new curves carry the feature's id and a number.
 *
 * @param sketch where its constraints hold
 * @throws FormError `sketch/feature` in a sentence naming the curve or corner and what fits
 */
export function withFeatures(sketch: Sketch, step: string): Sketch {
  if (!sketch.features || sketch.features.length === 0) return sketch;
  const work = new Work(sketch, step);
  for (const f of sketch.features) work.apply(f);
  return { points: work.points, curves: work.curves, constraints: [] };
}

/** What each kind is called at the beginning of a sentence. */
export const FEATURE_NAMES: Record<SketchFeature['kind'], string> = {
  round: 'A rounded corner',
  chamfer: 'A bevelled corner',
  teeth: 'A row of teeth',
  offset: 'A parallel',
  mirror: 'A mirrored copy',
  row: 'A row of copies',
  ring: 'A ring of copies',
};

class Work {
  points: SketchPoint[];
  curves: SketchCurve[];

  constructor(
    sketch: Sketch,
    private readonly step: string,
  ) {
    // Points that are held together are one.
    const at = new Map(sketch.points.map((p, i) => [p.id, i]));
    const groups = new Groups(sketch.points.length);
    for (const k of sketch.constraints) {
      const [a, b] = [at.get(k.one), at.get(k.two ?? '')];
      if (k.kind === 'coincident' && a !== undefined && b !== undefined) groups.join(a, b);
    }
    const one = (id: string | undefined) => (id === undefined ? undefined : sketch.points[groups.find(at.get(id) ?? 0)].id);
    this.same = (id) => one(id) ?? id;
    this.points = [...sketch.points];
    this.curves = sketch.curves.map((c) => ({
      ...c,
      ...(c.a !== undefined && { a: one(c.a) }),
      ...(c.b !== undefined && { b: one(c.b) }),
      ...(c.centre !== undefined && { centre: one(c.centre) }),
    }));
  }
  private readonly same: (id: string) => string;

  apply(f: SketchFeature): void {
    const ids = f.of.split(' ').filter((x) => x !== '');
    switch (f.kind) {
      case 'round':
      case 'chamfer':
        for (const [k, id] of ids.entries()) this.corner(f, this.same(id), k);
        return;
      case 'teeth':
        for (const [k, c] of this.chosen(f, ids).entries()) this.teeth(f, c, ids.length > 1 ? `${k + 1}.` : '');
        return;
      case 'offset':
        this.parallels(f, this.chosen(f, ids));
        return;
      case 'mirror':
        this.mirror(f, this.chosen(f, ids));
        return;
      case 'row':
        this.repeat(f, this.chosen(f, ids), (p, k) => [p[0] + k * (f.dx ?? 0), p[1] + k * (f.dy ?? 0)]);
        return;
      case 'ring':
        this.ring(f, this.chosen(f, ids));
    }
  }

  /** Said before anything is made: sketches are drawn while they are dragged. */
  private room(f: SketchFeature, more: number): void {
    if (this.curves.length + more > MOST) throw this.no(f, `would make more than ${figure(MOST, 0)} curves.`);
  }
  private place(id: string | undefined): Point2 {
    const p = this.points.find((q) => q.id === id);
    return [p?.x ?? 0, p?.y ?? 0];
  }
  private no(f: SketchFeature, why: string, details: Record<string, number> = {}): FormError {
    return new FormError('sketch/feature', `${FEATURE_NAMES[f.kind]} in the sketch of “${this.step}” ${why}`, details);
  }
  private chosen(f: SketchFeature, ids: readonly string[]): SketchCurve[] {
    return ids.map((id) => {
      const c = this.curves.find((x) => x.id === id);
      if (!c) throw this.no(f, 'speaks of a curve that isn’t there any more.');
      return c;
    });
  }
  /** A point for an end of a curve: one that stands there already, or a new one. */
  private end(id: string, p: Point2): string {
    const ends = new Set(this.curves.flatMap((c) => [c.a, c.b]));
    const there = this.points.find((q) => ends.has(q.id) && gap([q.x, q.y], p) < SAME);
    if (there) return there.id;
    this.points.push({ id, x: p[0], y: p[1] });
    return id;
  }
  private point(id: string, p: Point2): string {
    this.points.push({ id, x: p[0], y: p[1] });
    return id;
  }
  /** A curve of its own, its ends joined to what stands there. */
  private put(id: string, name: string, c: Curve, ends: { a?: string; b?: string } = {}): SketchCurve {
    const a = ends.a ?? this.end(`${id}.a`, c.a);
    const b = ends.b ?? this.end(`${id}.b`, c.b);
    const made: SketchCurve = {
      id,
      name,
      kind: c.kind,
      a,
      b,
      ...(c.kind === 'arc' && { centre: this.point(`${id}.m`, c.centre), turn: c.sweep > 0 ? ('left' as const) : ('right' as const) }),
    };
    this.curves.push(made);
    return made;
  }
  private asCurve(c: SketchCurve, forward = true): Curve {
    return curveIn({ points: this.points }, c, forward);
  }

  /** Rounds or bevels the corner at a point. */
  private corner(f: SketchFeature, at: string, k: number): void {
    const meeting = this.curves.filter((c) => !c.guide && c.kind !== 'circle' && (c.a === at || c.b === at));
    if (meeting.length !== 2) throw this.no(f, `needs two curves that meet; at the point it was put there are ${meeting.length}.`);
    const [p, q] = meeting;
    const [before, next] = [this.asCurve(p, p.b === at), this.asCurve(q, q.a === at)];
    const mm = f.mm ?? 0;
    if (mm <= 0) return;
    const where = `between “${p.name}” and “${q.name}”`;
    const cut = f.kind === 'round' ? this.rounded(f, before, next, mm, where) : this.bevelled(f, before, next, mm, where);
    if (!cut) return;
    const [head, middle, tail] = cut;
    const from = this.point(`${f.id}.${k}.from`, head.b);
    const to = this.point(`${f.id}.${k}.to`, tail.a);
    this.curves = this.curves.map((c) => {
      if (c === p) return p.b === at ? { ...c, b: from } : { ...c, a: from };
      if (c === q) return q.a === at ? { ...c, a: to } : { ...c, b: to };
      return c;
    });
    this.put(`${f.id}.${k}`, f.kind === 'round' ? `round ${k + 1}` : `bevel ${k + 1}`, middle, { a: from, b: to });
  }
  private rounded(f: SketchFeature, before: Curve, next: Curve, mm: number, where: string): [Curve, Curve, Curve] | null {
    if (Math.abs(turnBetween(before, next)) < 1e-6) return null;
    const cut = fillet(before, next, mm);
    if (cut) return cut;
    const most = largestFillet(before, next);
    throw this.no(f, `of R ${millimetres(mm)} doesn’t fit ${where}; up to ${millimetres(most, 2)} does.`, { mostMm: most });
  }
  private bevelled(f: SketchFeature, before: Curve, next: Curve, mm: number, where: string): [Curve, Curve, Curve] {
    const [l, m] = [curveLength(before), curveLength(next)];
    const most = Math.min(l, m);
    if (mm >= most)
      throw this.no(f, `of ${millimetres(mm)} doesn’t fit ${where}; it has to be less than ${millimetres(most, 2)}.`, { mostMm: most });
    const [head, tail] = [trim(before, 0, 1 - mm / l), trim(next, mm / m, 1)];
    return [head, line(head.b, tail.a), tail];
  }

  /** Teeth along a curve: as many as make their pitch come out even. */
  private teeth(f: SketchFeature, c: SketchCurve, prefix: string): void {
    const base = c.kind === 'circle' ? null : this.asCurve(c);
    if (!base) throw this.no(f, `goes along lines and arcs; “${c.name}” is a circle: draw it as two arcs.`);
    const { count, pitch, run, land } = teethOf(curveLength(base), f);
    const height = f.mm ?? 0;
    if (height <= 0) return;
    this.room(f, 4 * count);
    if (land < -1e-9)
      throw this.no(
        f,
        `on “${c.name}” ${millimetres(height)} high at ${figure(f.degrees ?? 60)}° takes ${millimetres(2 * run, 2)} a tooth; its pitch comes out at ${millimetres(pitch, 2)}.`,
        { needMm: 2 * run, pitchMm: pitch },
      );
    const off = f.side === 'right' ? -height : height;
    if (base.kind === 'arc' && base.radius - Math.sign(base.sweep) * off <= 1e-6)
      throw this.no(f, `${millimetres(height)} high doesn’t fit inside “${c.name}”, whose radius is ${millimetres(base.radius)}.`);
    const at = placeBeside(base);
    const pieces: Curve[] = [];
    const level = (from: number, to: number, high: number) => {
      if (to - from < SAME) return;
      const [a, b] = [at(from, high), at(to, high)];
      pieces.push(
        base.kind === 'line'
          ? line(a, b)
          : { ...base, a, b, radius: gap(a, base.centre), sweep: (base.sweep * (to - from)) / curveLength(base) },
      );
    };
    for (let k = 0; k < count; k++) {
      const x = k * pitch;
      const marks = [x, x + land / 2, x + land / 2 + run, x + land / 2 + run + land, x + land / 2 + 2 * run + land, x + pitch];
      level(marks[0], marks[1], 0);
      pieces.push(line(at(marks[1], 0), at(marks[2], off)));
      level(marks[2], marks[3], off);
      pieces.push(line(at(marks[3], off), at(marks[4], 0)));
      level(marks[4], marks[5], 0);
    }
    // Two half foot lands that follow each other are one.
    const joined = pieces.reduce<Curve[]>((out, p) => {
      const last = out[out.length - 1];
      if (last && last.kind === 'line' && p.kind === 'line' && Math.abs(turnBetween(last, p)) < 1e-9)
        out[out.length - 1] = line(last.a, p.b);
      else if (last && last.kind === 'arc' && p.kind === 'arc' && Math.abs(last.radius - p.radius) < SAME)
        out[out.length - 1] = { ...last, b: p.b, sweep: last.sweep + p.sweep };
      else out.push(p);
      return out;
    }, []);
    this.curves = this.curves.filter((x) => x !== c);
    let from = c.a as string;
    for (const [k, p] of joined.entries()) {
      const id = `${f.id}.${prefix}${k}`;
      const to = k + 1 === joined.length ? (c.b as string) : this.point(`${id}.b`, p.b);
      this.put(id, c.name, p, { a: from, b: to });
      from = to;
    }
  }

  private parallels(f: SketchFeature, chosen: readonly SketchCurve[]): void {
    const mm = f.mm ?? 0;
    if (mm <= 0) return;
    const chains = chainsIn({ points: this.points, curves: chosen.map((c) => ({ ...c, guide: false })), constraints: [] }, this.step);
    let n = 0;
    for (const chain of chains) {
      const sides = f.side === 'both' ? [1, -1] : [f.side === 'right' ? -1 : 1];
      const ways = sides.map((s) => parallel(chain, s * mm, f.corners ?? 'round'));
      const lost = sides.findIndex((_, i) => ways[i].length === 0);
      if (lost >= 0) throw this.no(f, `${millimetres(mm)} ${sides[lost] > 0 ? 'left' : 'right'} of “${chain.names[0]}” has no room.`);
      const name = (i: number) => `${chain.names[Math.min(i, chain.names.length - 1)]}, beside`;
      for (const way of ways.flat()) for (const [i, c] of way.curves.entries()) this.put(`${f.id}.${n++}`, name(i), c);
      // A line with a parallel on both sides becomes a strip: its ends are closed.
      if (f.side === 'both' && f.keeps === 'instead' && !chain.closed) {
        const [l, r] = ways.map((w) => w[0].curves);
        this.put(`${f.id}.${n++}`, 'start', line(r[0].a, l[0].a));
        this.put(`${f.id}.${n++}`, 'end', line(l[l.length - 1].b, r[r.length - 1].b));
      }
    }
    if (f.keeps === 'instead') {
      const gone = new Set(chosen.map((c) => c.id));
      this.curves = this.curves.map((c) => (gone.has(c.id) ? { ...c, guide: true } : c));
    }
  }

  private mirror(f: SketchFeature, chosen: readonly SketchCurve[]): void {
    const axis = this.curves.find((c) => c.id === f.about);
    if (axis?.kind !== 'line') throw this.no(f, 'needs a line to mirror about.');
    const l = this.asCurve(axis);
    const d = tangentAt(l, 0);
    const over = (p: Point2): Point2 => {
      const t = (p[0] - l.a[0]) * d[0] + (p[1] - l.a[1]) * d[1];
      return [2 * (l.a[0] + t * d[0]) - p[0], 2 * (l.a[1] + t * d[1]) - p[1]];
    };
    for (const [k, c] of chosen.filter((x) => x !== axis).entries()) this.copy(`${f.id}.${k}`, c, over, true);
  }
  private ring(f: SketchFeature, chosen: readonly SketchCurve[]): void {
    const about = this.points.find((p) => p.id === this.same(f.about ?? ''));
    if (!about) throw this.no(f, 'needs a point to go round.');
    const whole = f.degrees ?? 360;
    const n = f.count ?? 2;
    const step = (whole * Math.PI) / 180 / (Math.abs(Math.abs(whole) - 360) < 1e-9 ? n : Math.max(1, n - 1));
    const m: Point2 = [about.x, about.y];
    this.repeat(f, chosen, (p, k) => {
      const [c, s] = [Math.cos(k * step), Math.sin(k * step)];
      return [m[0] + c * (p[0] - m[0]) - s * (p[1] - m[1]), m[1] + s * (p[0] - m[0]) + c * (p[1] - m[1])];
    });
  }
  private repeat(f: SketchFeature, chosen: readonly SketchCurve[], to: (p: Point2, k: number) => Point2): void {
    this.room(f, ((f.count ?? 2) - 1) * chosen.length);
    for (let k = 1; k < (f.count ?? 2); k++)
      for (const [i, c] of chosen.entries()) this.copy(`${f.id}.${k}.${i}`, c, (p) => to(p, k), false);
  }
  private copy(id: string, c: SketchCurve, to: (p: Point2) => Point2, flips: boolean): void {
    if (c.kind === 'circle') {
      this.curves.push({ ...c, id, centre: this.point(`${id}.m`, to(this.place(c.centre))) });
      return;
    }
    const a = this.end(`${id}.a`, to(this.place(c.a)));
    const b = this.end(`${id}.b`, to(this.place(c.b)));
    const turn = flips ? (c.turn === 'right' ? ('left' as const) : ('right' as const)) : c.turn;
    this.curves.push({ ...c, id, a, b, ...(c.kind === 'arc' && { centre: this.point(`${id}.m`, to(this.place(c.centre))), turn }) });
  }
}

/** How teeth divide a length: as many as bring the pitch nearest to what was asked, evenly. */
export function teethOf(
  length: number,
  f: Pick<SketchFeature, 'pitch' | 'mm' | 'degrees'>,
): { count: number; pitch: number; run: number; land: number } {
  const count = Math.max(1, Math.round(length / Math.max(f.pitch ?? 5, 1e-3)));
  const pitch = length / count;
  const run = (f.mm ?? 0) * Math.tan((((f.degrees ?? 60) / 2) * Math.PI) / 180);
  return { count, pitch, run, land: (pitch - 2 * run) / 2 };
}

/** A place along a curve, mm from its start, and mm to its left. */
function placeBeside(base: Curve): (x: number, left: number) => Point2 {
  const whole = curveLength(base);
  if (base.kind === 'line') {
    const d = tangentAt(base, 0);
    return (x, left) => [base.a[0] + x * d[0] - left * d[1], base.a[1] + x * d[1] + left * d[0]];
  }
  return (x, left) => {
    const p = pointAt(base, x / whole);
    const k = (base.radius - Math.sign(base.sweep) * left) / base.radius;
    return [base.centre[0] + k * (p[0] - base.centre[0]), base.centre[1] + k * (p[1] - base.centre[1])];
  };
}
