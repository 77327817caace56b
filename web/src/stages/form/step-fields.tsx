'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { capacityOf, fitCapacity } from '@wellmorph/core/form/capacity';
import { evaluateDimensions, resolveStep } from '@wellmorph/core/form/dimensions';
import { numbersOf, valuesOf } from '@wellmorph/core/form/fields';
import { kindOf, type Step } from '@wellmorph/core/form/steps/index';
import type { TurnedStep } from '@wellmorph/core/form/steps/turned';
import type { Command } from '@wellmorph/core/pipeline/commands/index';
import { several } from '@wellmorph/core/pipeline/commands/together';
import { type AssetDocument, type Part, stepsOf } from '@wellmorph/core/pipeline/document';
import { nameOf } from '@wellmorph/core/pipeline/results';
import type { Lookup } from '@wellmorph/core/units/formula';
import { figure } from '@wellmorph/core/units/lengths';
import { useEffect, useMemo, useState } from 'react';
import { type Lengths, useLengths, useSession, useSheet } from '@/session/context';
import { sentence } from '@/session/session';
import { Choice, NumberField } from '@/sheet/fields';
import { newId } from '@/sheet/ids';
import { type DrawingHand, drawingsOf } from './drawings';
import { FieldForm, withValue } from './field-form';
import { hasHand, otherHalf, ownPart, placeAmong } from './halves';
import { showHigh } from './run';
import { ShareStep } from './share';
import { SizeDrag, StepResult } from './step-result';

/** A step in a few words, for the list, as its formulas come to now. */
export function stepWords(s: Step, names: Lookup, length: Lengths['bare']): string {
  try {
    return kindOf(s.kind).words(resolveStep(s, names), length);
  } catch {
    return kindOf(s.kind).words(s, length);
  }
}

interface StepFieldsProps extends DrawingHand {
  part: Part;
  step: Step;
}

/** A step's form, from the description of its kind, with what each number follows. */
export function StepFields({ part, step, point, onPoint, onDraw }: StepFieldsProps) {
  const session = useSession();
  const { say } = useLengths();
  const document = useSheet((s) => s.document);
  const problem = useSheet(
    (s) =>
      s.findings?.findings.find((f) => f.kind === 'step' && f.id === `step:${step.id}`)?.message ??
      s.high?.problems.find((p) => p.step === step.id)?.message,
  );
  // What a step of the high mesh alone comes to is known when that is formed.
  useEffect(() => {
    if (step.in === 'high') void showHigh(session);
  }, [step]);
  const names = useMemo(() => (document ? evaluateDimensions(document.dimensions) : undefined), [document?.dimensions]);
  const resolved = useMemo(() => {
    try {
      return names ? resolveStep(step, names.lookup) : step;
    } catch {
      // What is wrong is said by the finding; the last figures stay in their fields.
      return step;
    }
  }, [step, names]);
  if (!document) return null;
  const kind = kindOf(step.kind);
  const put = (next: Step) => session.dispatch({ type: 'step.set', part: part.id, step: next });
  const onSet = (path: string, value: unknown, formula?: string | null) => put(withFormula(withValue(step, path, value), path, formula));
  const drawings = drawingsOf(step);
  return (
    <Box>
      {problem && (
        <Box role="alert" sx={{ color: 'error.main', fontSize: 12.5, my: 0.5 }}>
          {say(problem)}
        </Box>
      )}
      {drawings.map((d) => (
        <Box key={d.key} sx={{ display: 'flex', justifyContent: 'space-between', alignItems: 'center', minHeight: 30 }}>
          <Box className="narrow">
            {d.label}, {d.about}
          </Box>
          <Button variant="outlined" onClick={() => onDraw(d.key)}>
            Draw
          </Button>
        </Box>
      ))}
      <FieldForm
        fields={kind.fields}
        value={valuesOf(resolved)}
        onSet={onSet}
        formulas={step.formulas}
        names={names?.lookup}
        named={namesFor(document, part, step)}
        picks={{ part: part.id, step: step.id }}
      />
      <SizeDrag step={resolved} onSet={(path, value) => onSet(path, value, null)} />
      <StepResult step={step.id} />
      {step.kind === 'cut' && part.shape.kind === 'recipe' && (step.keep === 'above' || step.keep === 'below') && (
        <Button
          title="The half that this cut takes away, with the same steps"
          onClick={() => {
            const other = otherHalf(part, step, newId(), newId);
            if (other && session.dispatch({ type: 'part.add', part: other })) session.select({ part: other.id, step: null });
          }}
        >
          Make the other half a part
        </Button>
      )}
      {hasHand(part, step) && <OwnCopy part={part} step={step} />}
      {step.kind === 'scatter' && <Cover part={part.id} />}
      {step.kind === 'turned' && (
        <TurnedExtras
          step={step}
          resolved={resolved as TurnedStep}
          point={point}
          onPoint={onPoint}
          onSet={onSet}
          put={put}
          names={names?.lookup}
        />
      )}
      <ShareStep part={part} step={step} />
      <Choice
        label="Belongs to"
        value={step.in ?? 'both'}
        choices={[
          ['both', 'low and high'],
          ['low', 'low only'],
          ['high', 'high only'],
        ]}
        onChange={(v) => put(v === 'both' ? without(step, 'in') : ({ ...step, in: v } as Step))}
      />
    </Box>
  );
}

const without = (step: Step, key: 'in' | 'formulas'): Step => {
  const { [key]: _, ...rest } = step;
  return rest as Step;
};

/** Sets or drops the formula at a path; formulas of numbers that are gone go with them. `undefined` leaves it as it is. */
export function withFormula(step: Step, path: string, formula: string | null | undefined): Step {
  const there = new Set(numbersOf(kindOf(step.kind).fields, step).map((p) => p.path));
  const kept = Object.fromEntries(
    Object.entries(step.formulas ?? {}).filter(([p]) => there.has(p) && (formula === undefined || p !== path)),
  );
  if (formula) kept[path] = formula;
  return Object.keys(kept).length > 0 ? { ...step, formulas: kept } : without(step, 'formulas');
}

/** What text fields of a step may name: other parts, their regions, the part's own, its steps. */
function namesFor(document: AssetDocument, part: Part, step: Step): Record<string, readonly (readonly [string, string])[]> {
  const { fields } = kindOf(step.kind);
  const partField = fields.find((f) => f.type === 'text' && f.names === 'part')?.key;
  const host = document.parts.find((p) => partField && p.id === valuesOf(step)[partField]);
  const regions = (of: Part | undefined, none: string) => [['', none] as const, ...(of?.regions ?? []).map((r) => [r.id, r.name] as const)];
  return Object.fromEntries(
    // What entries of a list name is chosen as what the step itself names.
    fields
      .flatMap((f) => (f.type === 'list' && !f.drawn ? [f, ...f.fields] : [f]))
      .flatMap((f) => {
        if (f.type !== 'text' || !f.names) return [];
        const choices = {
          part: [['?', 'choose a part'] as const, ...document.parts.filter((p) => p.id !== part.id).map((p) => [p.id, p.name] as const)],
          region: regions(host, f.none ?? 'all of it'),
          'own region': regions(part, f.none ?? 'everywhere'),
          step: stepsOf(part).map((s) => [s.id, s.name] as const),
        }[f.names];
        return [[f.key, choices]];
      }),
  );
}

/** What strewn copies cost, and what they leave to be seen. */
function Cover({ part }: { part: string }) {
  const found = useSheet((s) => s.form?.strewn.find((x) => x.part === part));
  const row = useSheet((s) => s.form?.ledger.parts.find((p) => p.id === part));
  if (!found || !row) return null;
  return (
    <Box className="narrow" sx={{ fontSize: 12.5, color: 'text.secondary', lineHeight: 1.4, py: 0.5 }}>
      {found.copies} copies, {figure(row.triangles * found.copies, 0)} triangles; {figure(100 * found.shows, 0)} % of what lies under them
      still shows.
    </Box>
  );
}

/** Takes one copy out, as a part that can be changed or have another put in its place. */
function OwnCopy({ part, step }: { part: Part; step: Step }) {
  const session = useSession();
  const placements = useSheet((s) => s.form?.gpu.find((g) => g.id === part.id)?.placements);
  const [number, setNumber] = useState(1);
  const take = () => {
    // Where copies stand is known of the piece as it was formed; while that is under way they may stand elsewhere.
    const { form, document } = session.state;
    if (!form || !document || nameOf(document, 'form') !== form.name)
      return session.notify('The piece is being formed; try again in a moment.');
    const at = placements?.[placeAmong(step, number)];
    if (!at) return session.notify(`There is no copy ${number} to take out.`);
    const made = ownPart(part, step, number, at, newId(), newId(), newId);
    const commands: Command[] = [
      { type: 'part.add', part: made.part },
      { type: 'step.set', part: part.id, step: made.step },
    ];
    if (session.dispatch(several(`made copy ${number} of ${part.name} a part of its own`, commands)))
      session.select({ part: made.part.id, step: null });
  };
  if (!placements || placements.length < 2) return null;
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
      <NumberField label="Copy" kind="whole" unit="" min={1} max={500} width={48} value={number} onCommit={setNumber} />
      <Button title="To be changed by itself, or to have another part put in its place" onClick={take}>
        Make it a part
      </Button>
    </Box>
  );
}

/** What only a turned step has: its chosen corner, its engraved rings, what it holds. */
function TurnedExtras({
  step,
  resolved,
  point,
  onPoint,
  onSet,
  put,
  names,
}: {
  step: TurnedStep;
  resolved: TurnedStep;
  point: string | null;
  onPoint(id: string | null): void;
  onSet(path: string, value: unknown, formula?: string | null): void;
  put(step: Step): void;
  names: ReturnType<typeof evaluateDimensions>['lookup'] | undefined;
}) {
  const i = resolved.profile.points.findIndex((p) => p.id === point);
  const p = resolved.profile.points[i];
  const segment = resolved.profile.segments[i];
  const at = (key: string) => `profile.points.${p?.id}.${key}`;
  const field = (label: string, key: 'r' | 'y' | 'fillet', min?: number) => (
    <NumberField
      label={label}
      min={min}
      value={p[key] ?? 0}
      formula={step.formulas?.[at(key)]}
      names={names}
      onCommit={(v, formula) => onSet(at(key), key === 'fillet' && v === 0 && !formula ? undefined : v, formula)}
    />
  );
  const addRing = () => {
    const straight = step.profile.segments.find((s) => s.kind === 'line');
    if (straight) onSet('rings', [...step.rings, { segment: straight.id, at: 0.5, width: 1.2, depth: 0.5 }]);
  };
  return (
    <>
      {!step.sketch && (
        <Choice
          label="Corner"
          value={point ?? ''}
          choices={[
            ['', 'none chosen'],
            ...resolved.profile.points.map((q, k) => [q.id, `${k + 1}: Ø ${figure(2 * q.r, 1)} at ${figure(q.y, 1)}`] as const),
          ]}
          onChange={(id) => onPoint(id || null)}
        />
      )}
      {p && !step.sketch && (
        <Box sx={{ pl: 1.2, borderLeft: 2, borderColor: 'primary.main' }}>
          {field('Radius from axis', 'r', 0)}
          {field('Height', 'y')}
          {field('Rounded by', 'fillet', 0)}
          {segment && (
            <>
              <Choice
                label={`Then “${segment.name}”`}
                value={segment.kind}
                choices={[
                  ['line', 'straight'],
                  ['arc', 'arc'],
                  ['tangent', 'tangent arc'],
                ]}
                onChange={(kind) =>
                  put({
                    ...step,
                    profile: {
                      ...step.profile,
                      segments: step.profile.segments.map((s, k) =>
                        k === i ? { id: s.id, name: s.name, kind, ...(kind === 'arc' && { bulge: s.bulge ?? 2 }) } : s,
                      ),
                    },
                  })
                }
              />
              {segment.kind === 'arc' && (
                <NumberField
                  label="Bulge"
                  hint="outward +"
                  value={segment.bulge ?? 0}
                  formula={step.formulas?.[`profile.segments.${segment.id}.bulge`]}
                  names={names}
                  onCommit={(v, formula) => onSet(`profile.segments.${segment.id}.bulge`, v, formula)}
                />
              )}
            </>
          )}
        </Box>
      )}
      {step.body === 'wall' && <Holds step={step} resolved={resolved} put={put} />}
      {step.rings.map((r, k) => (
        <Box key={k} sx={{ display: 'flex', alignItems: 'center', gap: 0.5 }}>
          <Box sx={{ flex: 1 }}>
            <NumberField
              label={`Ring ${k + 1}, depth`}
              hint={`${step.profile.segments.find((s) => s.id === r.segment)?.name ?? '?'} at ${figure(r.at * 100, 0)} %`}
              min={0}
              value={r.depth}
              onCommit={(depth) =>
                onSet(
                  'rings',
                  step.rings.map((x, j) => (j === k ? { ...x, depth } : x)),
                )
              }
            />
          </Box>
          <Button
            sx={{ minWidth: 0, px: 0.6 }}
            aria-label={`Remove ring ${k + 1}`}
            onClick={() =>
              onSet(
                'rings',
                step.rings.filter((_, j) => j !== k),
              )
            }
          >
            ×
          </Button>
        </Box>
      ))}
      <Button sx={{ mt: 0.5 }} onClick={addRing}>
        Engrave a ring
      </Button>
    </>
  );
}

/** What the vessel holds; typing another figure stretches it until it does. */
function Holds({ step, resolved, put }: { step: TurnedStep; resolved: TurnedStep; put(step: Step): void }) {
  const session = useSession();
  const ml = useMemo(() => {
    try {
      return capacityOf(resolved);
    } catch {
      return null;
    }
  }, [resolved]);
  if (ml === null) return null;
  return (
    <NumberField
      label="Holds"
      hint={step.sketch ? 'to the brim' : 'to the brim; its height follows'}
      kind="number"
      unit="ml"
      min={0.1}
      max={1e6}
      digits={1}
      disabled={Boolean(step.sketch)}
      value={ml}
      onCommit={(wanted) => {
        try {
          put(fitCapacity(step, wanted, 'height'));
        } catch (error) {
          session.notify(sentence(error), 'error');
        }
      }}
    />
  );
}
