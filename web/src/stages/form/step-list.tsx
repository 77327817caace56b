'use client';

import ContentCopyOutlined from '@mui/icons-material/ContentCopyOutlined';
import DeleteOutlineOutlined from '@mui/icons-material/DeleteOutlineOutlined';
import Box from '@mui/material/Box';
import Checkbox from '@mui/material/Checkbox';
import IconButton from '@mui/material/IconButton';
import { kindOf, type Step, stepName } from '@wellmorph/core/form/steps/index';
import type { Part } from '@wellmorph/core/pipeline/document';
import { figure } from '@wellmorph/core/units/lengths';
import { useMemo } from 'react';
import { useSession, useSheet } from '@/session/context';
import { newId } from '@/sheet/ids';
import { LessonsBeside } from '@/sheet/lessons-beside';
import { NameField } from '@/sheet/name-field';
import { Plain } from '@/sheet/plain';
import { MoveButtons, SortableList, SortableRow } from '@/sheet/sortable';
import type { DrawingHand } from './drawings';
import { StepFields } from './step-fields';

/** What a step makes, or what it adds or takes away. */
const signed = (s: Step, n: number): string => (kindOf(s.kind).changer && n > 0 ? '+' : '') + figure(n, 0);

/** A part's steps in order: switched, moved, doubled, removed; the open one with its form; each with its own triangles. */
export function StepList({ part, steps, ...drawing }: DrawingHand & { part: Part; steps: readonly Step[] }) {
  const session = useSession();
  const selected = useSheet((s) => s.selected);
  const copies = useSheet((s) => s.form?.ledger.parts.find((p) => p.id === part.id)?.copies) ?? 1;
  const results = useSheet((s) => s.form?.steps);
  const triangles = useMemo(
    () => new Map(results?.filter((r) => r.part === part.id).map((r) => [r.step, r.triangles * copies])),
    [results, part.id, copies],
  );
  return (
    <SortableList rows={steps} onMove={(step, by) => session.dispatch({ type: 'step.move', part: part.id, step, by })}>
      {steps.map((s) => (
        <SortableRow key={s.id} id={s.id} name={s.name}>
          {(grip) => (
            <Box sx={{ mt: 1, pt: 0.8, borderTop: 1, borderColor: 'divider' }}>
              <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.25 }}>
                {grip}
                <Plain
                  aria-expanded={selected.step === s.id}
                  onClick={() => session.select({ step: selected.step === s.id ? null : s.id })}
                  sx={{
                    display: 'block',
                    flex: 1,
                    minWidth: 0,
                    fontSize: 13,
                    fontWeight: 600,
                    lineHeight: 1.25,
                    opacity: s.enabled ? 1 : 0.5,
                  }}
                >
                  {s.name}
                  <Box
                    component="span"
                    className="narrow"
                    sx={{ display: 'block', fontWeight: 400, color: 'text.secondary', fontSize: 12 }}
                  >
                    {stepName(s.kind)}
                    {s.in && ` · ${s.in} only`}
                    {s.same && ' · shared'}
                    {triangles.has(s.id) && ` · ${signed(s, triangles.get(s.id) ?? 0)} tri`}
                  </Box>
                </Plain>
                <Checkbox
                  slotProps={{ input: { 'aria-label': `${s.name} is on` } }}
                  title={s.enabled ? 'Switch this step off' : 'Switch it on'}
                  checked={s.enabled}
                  onChange={() => session.dispatch({ type: 'step.set', part: part.id, step: { ...s, enabled: !s.enabled } })}
                />
                <MoveButtons
                  id={s.id}
                  name={s.name}
                  rows={steps}
                  onMove={(by) => session.dispatch({ type: 'step.move', part: part.id, step: s.id, by })}
                />
                <IconButton
                  size="small"
                  aria-label={`Double ${s.name}`}
                  title="A second one like it"
                  onClick={() => {
                    const step: Step = { ...s, id: newId(), name: `${s.name} (2)`.slice(0, 80) };
                    if (session.dispatch({ type: 'step.add', part: part.id, step, after: s.id })) session.select({ step: step.id });
                  }}
                >
                  <ContentCopyOutlined sx={{ fontSize: 14 }} />
                </IconButton>
                <IconButton
                  size="small"
                  aria-label={`Remove ${s.name}`}
                  onClick={() => session.dispatch({ type: 'step.remove', part: part.id, step: s.id })}
                >
                  <DeleteOutlineOutlined sx={{ fontSize: 16 }} />
                </IconButton>
              </Box>
              {selected.step === s.id && (
                <>
                  <NameField
                    label="Called"
                    id={`step-${s.id}`}
                    value={s.name}
                    onName={(name) => session.dispatch({ type: 'step.set', part: part.id, step: { ...s, name } })}
                  />
                  <LessonsBeside kind="step" subject={s.kind} />
                  <StepFields part={part} step={s} {...drawing} />
                </>
              )}
            </Box>
          )}
        </SortableRow>
      ))}
    </SortableList>
  );
}
