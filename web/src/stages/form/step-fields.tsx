'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import type { Step } from '@wellmorph/core/form/recipe';
import type { BarStep } from '@wellmorph/core/form/steps/bar';
import type { TurnedStep } from '@wellmorph/core/form/steps/turned';
import type { Part } from '@wellmorph/core/pipeline/document';
import { figure } from '@wellmorph/core/units/lengths';
import { dispatch } from '@/sheet/document';
import { Choice, NumberField } from '@/sheet/fields';
import { useSheet } from '@/sheet/state';

/** A step in a few words, for the list. */
export function stepWords(s: Step): string {
  if (s.kind === 'turned')
    return `turned · Ø ${figure(2 * Math.max(...s.profile.points.map((p) => p.r)), 1)}${s.body === 'wall' ? ` · wall ${figure(s.wall ?? 0, 1)}` : ''}`;
  if (s.kind === 'bar') return `bar Ø ${figure(2 * s.radius, 1)}`;
  return `${s.count} round the axis`;
}

export function StepFields({
  part,
  step,
  point,
  onPoint,
  onProfile,
}: {
  part: Part;
  step: Step;
  point: string | null;
  onPoint(id: string | null): void;
  onProfile(): void;
}) {
  const problem = useSheet((s) => s.form?.findings.find((f) => f.kind === 'step' && f.id === `step:${step.id}`));
  const set = (next: Step) => dispatch({ type: 'step.set', part: part.id, step: next });
  return (
    <Box>
      {problem && (
        <Box role="alert" sx={{ color: 'error.main', fontSize: 12.5, my: 0.5 }}>
          {problem.message}
        </Box>
      )}
      {step.kind === 'turned' && <TurnedFields step={step} set={set} point={point} onPoint={onPoint} onProfile={onProfile} />}
      {step.kind === 'bar' && <BarFields step={step} set={set} />}
      {step.kind === 'array' && (
        <>
          <NumberField
            label="Copies"
            kind="whole"
            unit=""
            min={1}
            max={500}
            value={step.count}
            onCommit={(count) => set({ ...step, count })}
          />
          <NumberField
            label="First at"
            kind="number"
            unit="°"
            min={-360}
            max={360}
            value={step.startDegrees}
            onCommit={(startDegrees) => set({ ...step, startDegrees })}
          />
          <NumberField label="Axis at x" value={step.x} onCommit={(x) => set({ ...step, x })} />
          <NumberField label="Axis at z" value={step.z} onCommit={(z) => set({ ...step, z })} />
        </>
      )}
    </Box>
  );
}

function TurnedFields({
  step,
  set,
  point,
  onPoint,
  onProfile,
}: {
  step: TurnedStep;
  set(s: Step): void;
  point: string | null;
  onPoint(id: string | null): void;
  onProfile(): void;
}) {
  const i = step.profile.points.findIndex((p) => p.id === point);
  const p = step.profile.points[i];
  const segment = step.profile.segments[i];
  const setPoint = (patch: object) =>
    set({ ...step, profile: { ...step.profile, points: step.profile.points.map((q) => (q.id === point ? { ...q, ...patch } : q)) } });
  const setSegment = (patch: object) =>
    set({ ...step, profile: { ...step.profile, segments: step.profile.segments.map((q, k) => (k === i ? { ...q, ...patch } : q)) } });
  const addRing = () => {
    const straight = step.profile.segments.find((s) => s.kind === 'line');
    if (straight) set({ ...step, rings: [...step.rings, { segment: straight.id, at: 0.5, width: 1.2, depth: 0.5 }] });
  };
  return (
    <>
      <Choice
        label="Body"
        value={step.body}
        choices={[
          ['solid', 'solid'],
          ['wall', 'with an inside wall'],
          ['open', 'open surface'],
        ]}
        onChange={(body) => set({ ...step, body, ...(body === 'wall' && { wall: step.wall ?? 2 }) })}
      />
      {step.body === 'wall' && (
        <NumberField label="Wall, even" min={0.01} value={step.wall ?? 2} onCommit={(wall) => set({ ...step, wall })} />
      )}
      <NumberField
        label="Edge radius"
        hint="high mesh"
        min={0}
        value={step.edgeRadius}
        onCommit={(edgeRadius) => set({ ...step, edgeRadius })}
      />
      <Box sx={{ display: 'flex', justifyContent: 'space-between', alignItems: 'center', minHeight: 30 }}>
        <Box className="narrow">Profile, {step.profile.points.length} corners</Box>
        <Button variant="outlined" onClick={onProfile}>
          Draw
        </Button>
      </Box>
      <Choice
        label="Corner"
        value={point ?? ''}
        choices={[
          ['', 'none chosen'],
          ...step.profile.points.map((q, k) => [q.id, `${k + 1}: Ø ${figure(2 * q.r, 1)} at ${figure(q.y, 1)}`] as const),
        ]}
        onChange={(id) => onPoint(id || null)}
      />
      {p && (
        <Box sx={{ pl: 1.2, borderLeft: 2, borderColor: 'primary.main' }}>
          <NumberField label="Radius from axis" min={0} value={p.r} onCommit={(r) => setPoint({ r })} />
          <NumberField label="Height" value={p.y} onCommit={(y) => setPoint({ y })} />
          <NumberField label="Rounded by" min={0} value={p.fillet ?? 0} onCommit={(fillet) => setPoint({ fillet: fillet || undefined })} />
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
                onChange={(kind) => setSegment({ kind, bulge: kind === 'arc' ? (segment.bulge ?? 2) : undefined })}
              />
              {segment.kind === 'arc' && (
                <NumberField label="Bulge" hint="outward +" value={segment.bulge ?? 0} onCommit={(bulge) => setSegment({ bulge })} />
              )}
            </>
          )}
        </Box>
      )}
      {step.rings.map((r, k) => (
        <Box key={k} sx={{ display: 'flex', alignItems: 'center', gap: 0.5 }}>
          <Box sx={{ flex: 1 }}>
            <NumberField
              label={`Ring ${k + 1}, depth`}
              hint={`${step.profile.segments.find((s) => s.id === r.segment)?.name ?? '?'} at ${figure(r.at * 100, 0)} %`}
              min={0}
              value={r.depth}
              onCommit={(depth) => set({ ...step, rings: step.rings.map((x, j) => (j === k ? { ...x, depth } : x)) })}
            />
          </Box>
          <Button
            sx={{ minWidth: 0, px: 0.6 }}
            aria-label={`Remove ring ${k + 1}`}
            onClick={() => set({ ...step, rings: step.rings.filter((_, j) => j !== k) })}
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

function BarFields({ step, set }: { step: BarStep; set(s: Step): void }) {
  const setPoint = (k: number, patch: object) => set({ ...step, path: step.path.map((q, j) => (j === k ? { ...q, ...patch } : q)) });
  const fresh = () => {
    let n = step.path.length;
    while (step.path.some((q) => q.id === `q${n}`)) n++;
    return `q${n}`;
  };
  const addPoint = () => {
    const [a, b] = step.path.slice(-2);
    const bent = step.path.map((q, k) => (k === step.path.length - 1 ? { ...q, bend: q.bend ?? step.radius * 4 } : q));
    set({
      ...step,
      path: [...bent, { id: fresh(), x: b.x + (b.x - a.x) * 0.5, y: b.y + (b.y - a.y) * 0.5 + 0.01, z: b.z + (b.z - a.z) * 0.5 }],
    });
  };
  return (
    <>
      <NumberField label="Diameter" min={0.02} value={2 * step.radius} onCommit={(d) => set({ ...step, radius: d / 2 })} />
      <NumberField
        label="Edge radius"
        hint="high mesh"
        min={0}
        value={step.edgeRadius}
        onCommit={(edgeRadius) => set({ ...step, edgeRadius })}
      />
      {step.path.map((q, k) => (
        <Box key={q.id} sx={{ borderTop: 1, borderColor: 'sheet.line', mt: 0.6, pt: 0.4 }}>
          <Box className="narrow" sx={{ display: 'flex', justifyContent: 'space-between', fontSize: 12, color: 'text.secondary' }}>
            Point {k + 1}
            {step.path.length > 2 && (
              <Button
                sx={{ minWidth: 0, px: 0.6, minHeight: 20 }}
                aria-label={`Remove point ${k + 1}`}
                onClick={() => set({ ...step, path: step.path.filter((_, j) => j !== k) })}
              >
                ×
              </Button>
            )}
          </Box>
          <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr 1fr', gap: 0.6 }}>
            {(['x', 'y', 'z'] as const).map((axis) => (
              <NumberField
                key={axis}
                label={axis}
                unit=""
                width={62}
                value={q[axis]}
                digits={2}
                onCommit={(v) => setPoint(k, { [axis]: v })}
              />
            ))}
          </Box>
          {k > 0 && k < step.path.length - 1 && (
            <NumberField label="Bend radius" min={0} value={q.bend ?? 0} onCommit={(bend) => setPoint(k, { bend })} />
          )}
        </Box>
      ))}
      <Button sx={{ mt: 0.5 }} onClick={addPoint}>
        Add a point
      </Button>
    </>
  );
}
