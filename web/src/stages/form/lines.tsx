'use client';

import Box from '@mui/material/Box';
import type { Step } from '@wellmorph/core/form/steps/index';
import type { AssetDocument, Part } from '@wellmorph/core/pipeline/document';
import { useMemo } from 'react';
import { Piece, PlateWords } from '@/plates/plate';
import { useSession, useSheet } from '@/session/context';
import { useAnswered } from '@/sheet/answered';
import { useMaterials } from '@/sheet/materials';
import type { GpuPart, Work } from '@/workers/protocol';

/** Whether lines before and after a step are worth a look: it is there to mend them. */
export const hasLines = (step: Step | undefined): boolean => step?.kind === 'fair';

/** An asset with one part alone, a step of it switched off or on. */
function alone(document: AssetDocument, part: Part, step: Step, on: boolean): AssetDocument {
  const steps = (part.shape.steps ?? []).map((s) => (s.id === step.id ? { ...s, enabled: on } : s));
  const own = { ...part, shape: { ...part.shape, steps } } as Part;
  // What it was picked on or cut by may be another part: all are there, one is shown.
  return { ...document, parts: document.parts.map((p) => (p.id === part.id ? own : p)) };
}

type Side = { gpu: GpuPart[]; view: Work['view']['answer'] };

/** Lines of reflection over a part, as it was before a step and as it is with it, side by side. */
export function LinesBefore({ part, step }: { part: Part; step: Step }) {
  const session = useSession();
  const document = useSheet((s) => s.document);
  const materialOf = useMaterials();
  const ask = useMemo(
    () => document && { before: alone(document, part, step, false), now: alone(document, part, step, true) },
    [document, part, step],
  );
  const answer = useAnswered(ask, async ({ before, now }): Promise<[Side, Side] | null> => {
    try {
      const meshes = await session.meshes(now, 'low');
      const side = async (of: AssetDocument): Promise<Side> => {
        const [formed, view] = await Promise.all([
          session.bench.pool.run('form', { document: of, meshes, card: null }),
          session.bench.pool.run('view', { document: of, meshes, kind: 'reflection' }),
        ]);
        return { gpu: formed.gpu.filter((g) => g.id === part.id), view };
      };
      return await Promise.all([side(before), side(now)]);
    } catch {
      return null;
    }
  })?.answer;
  if (answer === undefined) return <PlateWords>Drawing the lines before and now …</PlateWords>;
  if (answer === null) return <PlateWords>The lines can’t be drawn until the part is formed.</PlateWords>;
  return (
    <Box sx={{ position: 'absolute', inset: 0, display: 'grid', gridTemplateColumns: '1fr 1fr' }}>
      {answer.map((side, i) => (
        <Box
          key={i === 0 ? 'before' : 'now'}
          role="figure"
          aria-label={i === 0 ? 'reflection lines before' : 'reflection lines now'}
          sx={{ position: 'relative', ...(i === 0 && { borderRight: 1, borderColor: 'divider' }) }}
        >
          <Piece gpu={side.gpu} materialOf={materialOf} view={side.view} />
          <Box sx={{ position: 'absolute', left: 16, bottom: 34, fontSize: 13, pointerEvents: 'none' }}>
            {i === 0 ? `without “${step.name}”` : `with “${step.name}”`}
          </Box>
        </Box>
      ))}
    </Box>
  );
}
