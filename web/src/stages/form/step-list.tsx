'use client';

import ContentCopyOutlined from '@mui/icons-material/ContentCopyOutlined';
import DeleteOutlineOutlined from '@mui/icons-material/DeleteOutlineOutlined';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import { evaluateDimensions } from '@wellmorph/core/form/dimensions';
import { budgetOf } from '@wellmorph/core/form/recipe';
import { type Step, stepName } from '@wellmorph/core/form/steps/index';
import type { Part } from '@wellmorph/core/pipeline/document';
import { chosenCount } from '@wellmorph/core/pipeline/form';
import { figure } from '@wellmorph/core/units/lengths';
import { useMemo } from 'react';
import { dispatch } from '@/sheet/document';
import { newId } from '@/sheet/ids';
import { NameField } from '@/sheet/name-field';
import { select, useSheet } from '@/sheet/state';
import type { DrawingHand } from './drawings';
import { StepFields } from './step-fields';

/** A part's steps in order: switched, moved, doubled, removed; the open one with its form; each with its own triangles. */
export function StepList({ part, steps, ...drawing }: DrawingHand & { part: Part; steps: readonly Step[] }) {
  const document = useSheet((s) => s.document);
  const selected = useSheet((s) => s.selected);
  const copies = useSheet((s) => s.form?.ledger.parts.find((p) => p.id === part.id)?.copies);
  const triangles = useMemo(() => {
    if (!document) return new Map<string, number>();
    const plan = budgetOf(steps, evaluateDimensions(document.dimensions).lookup, copies);
    const count = chosenCount(document);
    return new Map(plan.steps.map((s) => [s.id, s.triangles(count)]));
  }, [document, steps, copies]);
  return steps.map((s, i) => (
    <Box key={s.id} sx={{ mt: 1, pt: 0.8, borderTop: 1, borderColor: 'divider' }}>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.25 }}>
        <Box
          component="button"
          type="button"
          aria-expanded={selected.step === s.id}
          onClick={() => select({ step: selected.step === s.id ? null : s.id })}
          sx={{
            all: 'unset',
            cursor: 'pointer',
            flex: 1,
            minWidth: 0,
            fontSize: 13,
            fontWeight: 600,
            lineHeight: 1.25,
            opacity: s.enabled ? 1 : 0.5,
            '&:focus-visible': { outline: '2px solid', outlineColor: 'primary.main' },
          }}
        >
          {s.name}
          <Box component="span" className="narrow" sx={{ display: 'block', fontWeight: 400, color: 'text.secondary', fontSize: 12 }}>
            {stepName(s.kind)}
            {s.in && ` · ${s.in} only`}
            {triangles.has(s.id) && ` · ${figure(triangles.get(s.id) ?? 0, 0)} tri`}
          </Box>
        </Box>
        <Box
          component="input"
          type="checkbox"
          aria-label={`${s.name} is on`}
          title={s.enabled ? 'Switch this step off' : 'Switch it on'}
          checked={s.enabled}
          onChange={() => dispatch({ type: 'step.set', part: part.id, step: { ...s, enabled: !s.enabled } })}
          sx={{ accentColor: (t) => (t.vars ?? t).palette.primary.main }}
        />
        {i > 0 && (
          <Button
            sx={{ minWidth: 0, px: 0.5, minHeight: 22 }}
            aria-label={`Move ${s.name} up`}
            onClick={() => dispatch({ type: 'step.move', part: part.id, step: s.id, by: -1 })}
          >
            ↑
          </Button>
        )}
        {i + 1 < steps.length && (
          <Button
            sx={{ minWidth: 0, px: 0.5, minHeight: 22 }}
            aria-label={`Move ${s.name} down`}
            onClick={() => dispatch({ type: 'step.move', part: part.id, step: s.id, by: 1 })}
          >
            ↓
          </Button>
        )}
        <IconButton
          size="small"
          aria-label={`Double ${s.name}`}
          title="A second one like it"
          onClick={() => {
            const step: Step = { ...s, id: newId(), name: `${s.name} (2)`.slice(0, 80) };
            if (dispatch({ type: 'step.add', part: part.id, step, after: s.id })) select({ step: step.id });
          }}
        >
          <ContentCopyOutlined sx={{ fontSize: 14 }} />
        </IconButton>
        <IconButton
          size="small"
          aria-label={`Remove ${s.name}`}
          onClick={() => dispatch({ type: 'step.remove', part: part.id, step: s.id })}
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
            onName={(name) => dispatch({ type: 'step.set', part: part.id, step: { ...s, name } })}
          />
          <StepFields part={part} step={s} {...drawing} />
        </>
      )}
    </Box>
  ));
}
