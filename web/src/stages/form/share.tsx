'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { kindOf, type Step } from '@wellmorph/core/form/steps/index';
import type { Part } from '@wellmorph/core/pipeline/document';
import { useSession, useSheet } from '@/session/context';
import { Choice } from '@/sheet/fields';
import { newId } from '@/sheet/ids';

/** Gives a step to other parts as well: one form for all of them from then on. */
export function ShareStep({ part, step }: { part: Part; step: Step }) {
  const session = useSession();
  const parts = useSheet((s) => s.document?.parts);
  if (!parts || kindOf(step.kind).maker || kindOf(step.kind).fitter) return null;
  const sharing = step.same === undefined ? [] : parts.filter((p) => p.shape.steps?.some((s) => s.same === step.same));
  const others = parts.filter((p) => p.id !== part.id && p.shape.kind !== 'copy' && !sharing.includes(p));
  if (others.length === 0 && sharing.length === 0) return null;
  const share = (to: string) =>
    session.dispatch({ type: 'step.share', part: part.id, step: step.id, same: step.same ?? newId(), to: [{ part: to, id: newId() }] });
  return (
    <>
      {others.length > 0 && (
        <Choice
          label="The same step in"
          hint={sharing.length > 1 ? `now in ${sharing.map((p) => p.name).join(', ')}` : undefined}
          value={'' as string}
          choices={[['', 'choose …'] as const, ...others.map((p) => [p.id, p.name] as const)]}
          onChange={(to) => to && share(to)}
        />
      )}
      {sharing.length > 1 && (
        <Box sx={{ display: 'flex', alignItems: 'center', justifyContent: 'space-between', gap: 1 }}>
          <Box className="narrow" sx={{ color: 'text.secondary', fontSize: 12.5 }}>
            One form for {sharing.length} parts: changing it changes all.
          </Box>
          <Button
            onClick={() => session.dispatch({ type: 'step.share', part: part.id, step: step.id, same: null, to: [] })}
            aria-label={`Let ${step.name} stand alone`}
          >
            stand alone
          </Button>
        </Box>
      )}
    </>
  );
}
