'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { evaluateDimensions } from '@wellmorph/core/form/dimensions';
import { budgetOf } from '@wellmorph/core/form/recipe';
import { type Adaptive, allowedCount } from '@wellmorph/core/form/step';
import { STEP_KINDS, type Step } from '@wellmorph/core/form/steps/index';
import type { Command } from '@wellmorph/core/pipeline/commands/index';
import { type AssetDocument, type Part, ROLES, stepsOf } from '@wellmorph/core/pipeline/document';
import { chosenCount } from '@wellmorph/core/pipeline/form';
import { useState } from 'react';
import { useLengths, useSession, useSheet } from '@/session/context';
import { Choice, NumberField } from '@/sheet/fields';
import { LessonsBeside } from '@/sheet/lessons-beside';
import { NameField } from '@/sheet/name-field';
import { MoveButtons } from '@/sheet/sortable';
import { giveMaterial, materialChoices } from '@/stages/surface/give';
import { AxisFields } from './axis-fields';
import { CopyMenu, CopyOf } from './copies';
import type { DrawingHand } from './drawings';
import { Inner } from './fold';
import { GroupChoice } from './groups';
import { OriginPanel } from './origin';
import { RegionPanel } from './regions';
import { Stand } from './stand';
import { StepList } from './step-list';
import { CHANGERS, newStep, StepMenu } from './step-menu';
import { TravelFields } from './travel';

export function OpenPart({ part, ...drawing }: DrawingHand & { part: Part }) {
  const session = useSession();
  const document = useSheet((s) => s.document);
  const [menu, setMenu] = useState<HTMLElement | null>(null);
  if (!document) return null;
  const set = (patch: Extract<Command, { type: 'part.set' }>['patch']) => session.dispatch({ type: 'part.set', part: part.id, patch });
  const choices = materialChoices(document);
  const steps = stepsOf(part);
  return (
    <Box sx={{ px: 1.8, pb: 1.2 }}>
      <NameField label="Name" id={`name-${part.id}`} value={part.name} onName={(name) => set({ name })} />
      <Choice
        label="Role"
        value={part.role}
        choices={Object.entries(ROLES) as [Part['role'], string][]}
        onChange={(role) => set({ role })}
      />
      <LessonsBeside kind="role" subject={part.role} />
      <Choice
        label="Material"
        value={part.material ?? ''}
        choices={choices}
        onChange={(value) => giveMaterial(session, [part.id], value)}
      />
      <LessonsBeside kind="material" subject={document.materials.find((m) => m.id === part.material)?.name} />
      <GroupChoice part={part} />
      {part.shape.kind === 'copy' ? (
        <CopyOf part={part} />
      ) : (
        <>
          <StepList part={part} steps={steps} {...drawing} />
          <Counts part={part} />
          <RegionPanel part={part} />
        </>
      )}
      <OriginPanel part={part} />
      <Placement part={part} onSet={set} />
      <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: 1, mt: 1.2 }}>
        {part.shape.kind !== 'copy' && (
          <Button variant="outlined" onClick={(e) => setMenu(e.currentTarget)}>
            Add a step
          </Button>
        )}
        <CopyMenu part={part} />
        <Button variant="outlined" onClick={() => session.dispatch({ type: 'part.remove', part: part.id })}>
          Remove the part
        </Button>
        <MoveButtons
          id={part.id}
          name={`the part ${part.name}`}
          rows={document.parts}
          onMove={(by) => session.dispatch({ type: 'part.move', part: part.id, by })}
        />
      </Box>
      <StepMenu
        anchor={menu}
        kinds={part.shape.kind === 'recipe' ? STEP_KINDS : CHANGERS}
        onPick={(k) => {
          const step = newStep(k);
          const after = k === 'shell' ? beforeBevels(steps) : undefined;
          if (session.dispatch({ type: 'step.add', part: part.id, step, ...(after && { after }) })) session.select({ step: step.id });
          setMenu(null);
        }}
        onClose={() => setMenu(null)}
      />
    </Box>
  );
}

/** A wall goes before bevels, which then round both its edges. */
function beforeBevels(steps: readonly Step[]): string | undefined {
  const i = steps.findIndex((s) => s.kind === 'bevel');
  return i > 0 ? steps[i - 1].id : undefined;
}

/** The counts left to the solver; typing one fixes it. */
function Counts({ part }: { part: Part }) {
  const session = useSession();
  const document = useSheet((s) => s.document);
  const { length, say } = useLengths();
  if (!document) return null;
  const { adaptive } = budgetOf(stepsOf(part), evaluateDimensions(document.dimensions).lookup);
  if (adaptive.length === 0) return null;
  const count = chosenCount(document);
  return (
    <Box sx={{ mt: 1, pt: 0.8, borderTop: 1, borderColor: 'divider' }}>
      {adaptive.map((a) => {
        const locked = document.form.locks[a.key] !== undefined;
        const n = allowedCount(a, count(a));
        return (
          <Box key={a.key} sx={{ display: 'flex', alignItems: 'flex-start', gap: 0.6 }}>
            <Box sx={{ flex: 1 }}>
              <NumberField
                label={say(a.label)}
                hint={`${length(a.errorMm(n), 3)} off`}
                kind="whole"
                unit={locked ? 'fixed' : 'solved'}
                min={a.minimum}
                max={4096}
                value={n}
                width={92}
                onCommit={(v) => session.dispatch({ type: 'form.lock', key: a.key, label: a.label, count: v })}
              />
            </Box>
            {locked && (
              <Button
                sx={{ minWidth: 0, px: 0.8, minHeight: 28 }}
                title="Leave it to the solver"
                onClick={() => session.dispatch({ type: 'form.lock', key: a.key, label: a.label, count: null })}
              >
                free
              </Button>
            )}
          </Box>
        );
      })}
      <Ties adaptive={adaptive} document={document} />
    </Box>
  );
}

/** Counts that have to be equal, as where two rims are joined: the solver then keeps them so. */
function Ties({ adaptive, document }: { adaptive: readonly Adaptive[]; document: AssetDocument }) {
  const session = useSession();
  const { say } = useLengths();
  const ties = document.form.ties ?? [];
  const all = document.parts.flatMap((p) => {
    const own = budgetOf(stepsOf(p), evaluateDimensions(document.dimensions).lookup).adaptive;
    return own.map((a) => [a.key, `${p.name}, ${say(a.label)}`] as const);
  });
  const groupOf = (key: string) => ties.find((g) => g.includes(key));
  const tied = adaptive.filter((a) => groupOf(a.key)).length;
  if (all.length < 2) return null;
  return (
    <Inner title="Equal counts" about={tied > 0 ? `${tied} tied` : 'for rims that are joined'}>
      {adaptive.map((a) => (
        <Choice
          key={a.key}
          label={say(a.label)}
          value={groupOf(a.key)?.find((k) => k !== a.key) ?? ''}
          choices={[['', 'for itself'] as const, ...all.filter(([k]) => k !== a.key)]}
          onChange={(to) => session.dispatch({ type: 'form.tie', key: a.key, label: a.label, to: to || null })}
        />
      ))}
    </Inner>
  );
}

function Placement({
  part,
  onSet,
}: {
  part: Part;
  onSet(patch: { move?: Part['move']; turnDegrees?: Part['turnDegrees']; declaredOpen?: boolean; loose?: boolean; aid?: boolean }): void;
}) {
  const { bare, unit } = useLengths();
  return (
    <Inner title="Placement and travel" about={`${part.move.map((x) => bare(x, 1)).join(', ')} ${unit}`}>
      <AxisFields label="Move along" value={part.move} onSet={(move) => onSet({ move })} />
      <AxisFields label="Turn about" turn value={part.turnDegrees} onSet={(turnDegrees) => onSet({ turnDegrees })} />
      <Choice
        label="Open rims"
        value={part.declaredOpen ? 1 : 0}
        choices={[
          [0, 'a fault'],
          [1, 'meant'],
        ]}
        onChange={(v) => onSet({ declaredOpen: v === 1 })}
      />
      <Choice
        label="Stands"
        hint="what is loose darkens only itself"
        value={part.loose ? 1 : 0}
        choices={[
          [0, 'where it is'],
          [1, 'loose: it is taken off'],
        ]}
        onChange={(v) => onSet({ loose: v === 1 })}
      />
      <Choice
        label="Delivered"
        hint="cutters and the like are not"
        value={part.aid ? 1 : 0}
        choices={[
          [0, 'with the piece'],
          [1, 'only for other steps'],
        ]}
        onChange={(v) => onSet({ aid: v === 1 })}
      />
      <Stand part={part} />
      <TravelFields part={part} />
    </Inner>
  );
}
