import { FormError } from '../../errors';
import type { StepBase } from '../step';
import { settled } from './chains';
import type { Sketch, SketchCurve, SketchPoint } from './sketch';

/** A drawing a step holds, by the path of its field: `sketch`, `stations.s2.sketch`. */
export interface Held {
  path: string;
  sketch: Sketch;
}

const isSketch = (x: unknown): x is Sketch =>
  typeof x === 'object' &&
  x !== null &&
  Array.isArray((x as Sketch).points) &&
  Array.isArray((x as Sketch).curves) &&
  Array.isArray((x as Sketch).constraints);

/** Every drawing of a step. */
export function sketchesOf(step: StepBase): Held[] {
  const out: Held[] = [];
  const look = (of: unknown, path: string): void => {
    if (isSketch(of)) out.push({ path, sketch: of });
    else if (Array.isArray(of)) for (const item of of) look(item, `${path}.${(item as { id?: string })?.id ?? ''}`);
    else if (typeof of === 'object' && of !== null)
      for (const [key, value] of Object.entries(of)) look(value, path ? `${path}.${key}` : key);
  };
  look(step, '');
  return out;
}

/** What a sketch shows of another one: its curves as guides, its points nailed down. */
function shownOf(source: Sketch, id: string, step: string): { points: SketchPoint[]; curves: SketchCurve[] } {
  // What the source itself only looks at isn't handed on: a ring of sketches that follow each other would never come to rest.
  const own = settled(withoutTraces(source), step);
  const curves = own.curves.filter((c) => !c.guide);
  const used = new Set(curves.flatMap((c) => [c.a, c.b, c.centre]));
  const named = (x: string) => `${id}.${x}`;
  return {
    points: own.points.filter((p) => used.has(p.id)).map((p) => ({ id: named(p.id), x: p.x, y: p.y, fixed: true })),
    curves: curves.map((c) => ({
      ...c,
      id: named(c.id),
      guide: true,
      ...(c.a !== undefined && { a: named(c.a) }),
      ...(c.b !== undefined && { b: named(c.b) }),
      ...(c.centre !== undefined && { centre: named(c.centre) }),
    })),
  };
}

const isOf = (id: string, traces: readonly { id: string }[]): boolean => traces.some((t) => id.startsWith(`${t.id}.`));
function withoutTraces(sketch: Sketch): Sketch {
  const traces = sketch.traces ?? [];
  if (traces.length === 0) return sketch;
  const kept = new Set([...sketch.points, ...sketch.curves].map((x) => x.id).filter((id) => !isOf(id, traces)));
  const { traces: _, ...rest } = sketch;
  return {
    ...rest,
    points: sketch.points.filter((p) => kept.has(p.id)),
    curves: sketch.curves.filter((c) => kept.has(c.id)),
    constraints: sketch.constraints.filter((k) => [k.one, k.two, k.three].every((i) => i === undefined || kept.has(i))),
  };
}

/**
 * A sketch that shows the curves of another one as guides and follows them from now on.
 *
 * @param of where the other one is: `step/path`
 * @throws FormError when the other one can't be solved
 */
export function withTrace(sketch: Sketch, of: string, source: Sketch, step: string): Sketch {
  const taken = new Set((sketch.traces ?? []).map((t) => t.id));
  let n = 1;
  while (taken.has(`t${n}`)) n++;
  const shown = shownOf(source, `t${n}`, step);
  return {
    ...sketch,
    points: [...sketch.points, ...shown.points],
    curves: [...sketch.curves, ...shown.curves],
    traces: [...(sketch.traces ?? []), { id: `t${n}`, of }],
  };
}

/** A sketch that doesn't follow another one any longer; what was said of its curves goes. */
export function withoutTrace(sketch: Sketch, id: string): Sketch {
  const gone = withoutTraces({ ...sketch, traces: (sketch.traces ?? []).filter((t) => t.id === id) });
  return { ...gone, traces: (sketch.traces ?? []).filter((t) => t.id !== id) };
}

/**
 * A step whose drawings show what they follow as it is now.
 *
 * @param among the steps of its part, itself included
 * @throws FormError `sketch/trace` naming what is gone
 */
export function followed<S extends StepBase>(step: S, among: readonly StepBase[]): S {
  let out = step;
  for (const { path, sketch } of sketchesOf(step)) {
    if (!sketch.traces || sketch.traces.length === 0) continue;
    out = put(out, path.split('.'), followedSketch(sketch, step, among)) as S;
  }
  return out;
}

function followedSketch(sketch: Sketch, step: StepBase, among: readonly StepBase[]): Sketch {
  let { points, curves } = sketch;
  for (const t of sketch.traces ?? []) {
    const [id, path] = [t.of.slice(0, t.of.indexOf('/')), t.of.slice(t.of.indexOf('/') + 1)];
    const other = among.find((s) => s.id === id);
    const source = other && sketchesOf(other).find((h) => h.path === path)?.sketch;
    if (!other || !source)
      throw new FormError('sketch/trace', `What a sketch of “${step.name}” follows is gone: take its edges away, or draw it anew.`);
    const now = shownOf(source, t.id, other.name);
    // Curves that are gone leave what was said of them without a hold: that is for a hand to mend.
    const spoken = new Set(sketch.constraints.flatMap((k) => [k.one, k.two, k.three]));
    const there = new Set([...now.points, ...now.curves].map((x) => x.id));
    const lost = [...points, ...curves].find((x) => x.id.startsWith(`${t.id}.`) && spoken.has(x.id) && !there.has(x.id));
    if (lost)
      throw new FormError(
        'sketch/trace',
        `A sketch of “${step.name}” holds on to ${'name' in lost ? `“${lost.name}”` : 'a point'} of “${other.name}”, which is gone there.`,
      );
    const mine = (x: { id: string }) => !x.id.startsWith(`${t.id}.`);
    points = [...points.filter(mine), ...now.points];
    curves = [...curves.filter(mine), ...now.curves];
  }
  return { ...sketch, points, curves };
}

function put(of: unknown, path: readonly string[], value: unknown): unknown {
  if (path.length === 0) return value;
  const [head, ...rest] = path;
  if (Array.isArray(of)) return of.map((item) => ((item as { id?: string }).id === head ? put(item, rest, value) : item));
  return { ...(of as object), [head]: put((of as Record<string, unknown>)[head], rest, value) };
}
