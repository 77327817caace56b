'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { evaluateDimensions, resolveStep } from '@wellmorph/core/form/dimensions';
import { valuesOf } from '@wellmorph/core/form/fields';
import { axisSketch, sketchOfProfile } from '@wellmorph/core/form/sketch/convert';
import { FEATURE_FIELDS, type Sketch } from '@wellmorph/core/form/sketch/sketch';
import { solveSketch } from '@wellmorph/core/form/sketch/solve';
import { followed, withoutTrace, withTrace } from '@wellmorph/core/form/sketch/trace';
import type { Step } from '@wellmorph/core/form/steps/index';
import { type Part, stepsOf } from '@wellmorph/core/pipeline/document';
import { useEffect, useMemo, useState } from 'react';
import { Piece } from '@/plates/plate';
import { ProfileEditor } from '@/plates/profile';
import { ConstraintList } from '@/plates/sketch/constraints';
import { settledPlaces } from '@/plates/sketch/edit';
import { SketchEditor } from '@/plates/sketch/sketch';
import { useSession, useSheet } from '@/session/context';
import { sentence } from '@/session/session';
import { Choice, Heading } from '@/sheet/fields';
import { useMaterials } from '@/sheet/materials';
import { type Drawing, drawingsOf } from './drawings';
import { FieldForm, withValue } from './field-form';
import { withFormula } from './step-fields';

interface DrawingPlateProps {
  part: Part;
  step: Step;
  drawing: Drawing;
  point: string | null;
  onPoint(id: string | null): void;
  edges: boolean;
}

/** What is drawn of a step, beside the part it makes. */
export function DrawingPlate({ part, step, drawing, point, onPoint, edges }: DrawingPlateProps) {
  const session = useSession();
  const gpu = useSheet((s) => s.form?.gpu);
  const materialOf = useMaterials();
  const mine = useMemo(() => gpu?.filter((g) => g.id === part.id) ?? [], [gpu, part.id]);
  const piece = mine.length > 0 ? <Piece came gpu={mine} materialOf={materialOf} edges={edges} /> : null;
  if (drawing.sketch) return <SketchHalf part={part} step={step} drawing={drawing} sketch={drawing.sketch} piece={piece} />;
  if (step.kind !== 'turned') return null;
  return (
    <Box sx={{ position: 'absolute', inset: 0, display: 'grid', gridTemplateColumns: '3fr 2fr' }}>
      <Box sx={{ position: 'relative', borderRight: 1, borderColor: 'divider' }}>
        <ProfileEditor
          step={step}
          point={point}
          onPoint={onPoint}
          onChange={(s) => session.dispatch({ type: 'step.set', part: part.id, step: s })}
        />
      </Box>
      <Box sx={{ position: 'relative' }}>{piece}</Box>
    </Box>
  );
}

function SketchHalf({
  part,
  step,
  drawing,
  sketch,
  piece,
}: {
  part: Part;
  step: Step;
  drawing: Drawing;
  sketch: Sketch;
  piece: React.ReactNode;
}) {
  const session = useSession();
  const [chosen, setChosen] = useState<readonly string[]>([]);
  const dimensions = useSheet((s) => s.document?.dimensions);
  const references = useSheet((s) => s.document?.references);
  const names = useMemo(() => evaluateDimensions(dimensions ?? []).lookup, [dimensions]);
  useEffect(() => setChosen([]), [step.id, drawing.key]);
  const prefix = `${drawing.key}.constraints.`;
  const following = useMemo(
    () =>
      Object.fromEntries(
        Object.entries(step.formulas ?? {})
          .filter(([path]) => path.startsWith(prefix))
          .map(([path, formula]) => [path.slice(prefix.length).split('.')[0], formula]),
      ),
    [step.formulas, prefix],
  );
  // Figures that follow a formula are drawn as they come to now.
  const shown = useMemo(() => {
    try {
      return drawingsOf(resolveStep(followed(step, stepsOf(part)), names)).find((d) => d.key === drawing.key)?.sketch ?? sketch;
    } catch {
      return sketch;
    }
  }, [step, part, names, drawing.key, sketch]);
  const put = (next: Step) => session.dispatch({ type: 'step.set', part: part.id, step: next });
  const change = (next: Sketch) => put(withFormula(withValue(step, drawing.key, next), '', undefined));
  return (
    <Box sx={{ position: 'absolute', inset: 0, display: 'grid', gridTemplateColumns: '1fr 272px' }}>
      <Box sx={{ position: 'relative', borderRight: 1, borderColor: 'divider', overflow: 'hidden' }}>
        <SketchEditor
          id={`${step.id}.${drawing.key}`}
          name={step.name}
          sketch={shown}
          turned={drawing.turned ?? false}
          behind={references?.find((r) => r.view === drawing.view)}
          following={following}
          chosen={chosen}
          onChoose={setChosen}
          onChange={change}
        />
      </Box>
      <Box sx={{ display: 'grid', gridTemplateRows: '42% 1fr', minHeight: 0 }}>
        <Box sx={{ position: 'relative', borderBottom: 1, borderColor: 'divider' }}>{piece}</Box>
        <Box sx={{ position: 'relative', minHeight: 0 }}>
          <ConstraintList
            sketch={shown}
            following={following}
            names={names}
            chosen={chosen}
            onChoose={setChosen}
            onFigure={(k, value, formula) => {
              const key = k.kind === 'angle' ? 'degrees' : 'mm';
              const next: Sketch = { ...shown, constraints: shown.constraints.map((x) => (x.id === k.id ? { ...x, [key]: value } : x)) };
              const moved = settledPlaces(next, solveSketch(next));
              put(withFormula(withValue(step, drawing.key, moved), `${prefix}${k.id}.${key}`, formula));
            }}
            onRemove={(id) =>
              change({
                ...shown,
                constraints: shown.constraints.filter((k) => k.id !== id),
                ...(shown.features && { features: shown.features.filter((f) => f.id !== id) }),
              })
            }
            onName={(id, name) => change({ ...shown, curves: shown.curves.map((c) => (c.id === id ? { ...c, name } : c)) })}
            features={(f) => (
              <FieldForm
                fields={FEATURE_FIELDS}
                value={valuesOf(f)}
                prefix={`${drawing.key}.features.${f.id}.`}
                formulas={step.formulas}
                names={names}
                onSet={(path, value, formula) => put(withFormula(withValue(step, path, value), path, formula))}
              />
            )}
          >
            <Followed part={part} step={step} drawing={drawing} sketch={shown} onChange={change} />
          </ConstraintList>
        </Box>
      </Box>
    </Box>
  );
}

/** Other drawings of the part whose edges this one shows and follows; those seen from the same side can be added. */
function Followed({
  part,
  step,
  drawing,
  sketch,
  onChange,
}: {
  part: Part;
  step: Step;
  drawing: Drawing;
  sketch: Sketch;
  onChange(next: Sketch): void;
}) {
  const session = useSession();
  const others = stepsOf(part).flatMap((s) =>
    drawingsOf(s).flatMap((d) => {
      const own = s.id === step.id && d.key === drawing.key;
      const alike = d.view === drawing.view && (d.view !== undefined || s.id === step.id);
      return d.sketch && !own && alike ? [{ of: `${s.id}/${d.key}`, name: `${d.label} of ${s.name}`, step: s, sketch: d.sketch }] : [];
    }),
  );
  const traces = sketch.traces ?? [];
  const left = others.filter((o) => !traces.some((t) => t.of === o.of));
  if (left.length === 0 && traces.length === 0) return null;
  return (
    <Box sx={{ mt: 1.2 }}>
      <Heading aside="as guides">Edges it follows</Heading>
      {traces.map((t) => {
        const name = others.find((o) => o.of === t.of)?.name ?? 'a drawing that is gone';
        return (
          <Box key={t.id} sx={{ display: 'flex', alignItems: 'center', justifyContent: 'space-between', fontSize: 13 }}>
            <span className="narrow">{name}</span>
            <Button
              sx={{ minWidth: 0, px: 0.6, minHeight: 22 }}
              aria-label={`Let go of ${name}`}
              onClick={() => onChange(withoutTrace(sketch, t.id))}
            >
              ×
            </Button>
          </Box>
        );
      })}
      {left.length > 0 && (
        <Choice<string>
          label="Follow"
          value=""
          choices={[['', 'choose …'], ...left.map((o): [string, string] => [o.of, o.name])]}
          onChange={(of) => {
            const source = left.find((o) => o.of === of);
            if (!source) return;
            try {
              onChange(withTrace(sketch, of, source.sketch, source.step.name));
            } catch (error) {
              session.notify(sentence(error), 'error');
            }
          }}
        />
      )}
    </Box>
  );
}

/** A turned step's line is corners with radii, or a constrained sketch: from one to the other. */
export function SketchSwitch({ part, step }: { part: Part; step: Step }) {
  const session = useSession();
  if (step.kind !== 'turned') return null;
  const put = (next: Step) => session.dispatch({ type: 'step.set', part: part.id, step: next });
  const button = { bgcolor: 'background.paper', minHeight: 28 };
  if (step.sketch)
    return (
      <Button
        variant="outlined"
        sx={button}
        title="The profile of corners as it was before the sketch"
        onClick={() => {
          const { sketch: _, ...rest } = step;
          put(withFormula(rest, '', undefined));
        }}
      >
        Back to corners
      </Button>
    );
  return (
    <>
      <Button
        variant="outlined"
        sx={button}
        onClick={() => {
          try {
            put({ ...step, sketch: sketchOfProfile(step.profile) });
          } catch (error) {
            session.notify(sentence(error), 'error');
          }
        }}
      >
        Constrain it
      </Button>
      <Button variant="outlined" sx={button} onClick={() => put({ ...step, sketch: axisSketch() })}>
        Sketch it anew
      </Button>
    </>
  );
}
