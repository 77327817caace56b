'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import { type AssetDocument, deliveredParts, gatherOf, usedMaterials } from '@wellmorph/core/pipeline/document';
import { type GatherCheck, gatherChecks } from '@wellmorph/core/pipeline/gather-figures';
import { useId, useMemo } from 'react';
import { useBench, useSession, useSheet } from '@/session/context';
import { isFresh } from '@/session/state';
import { inTime } from '@/shared/times';
import { useAnswered } from '@/sheet/answered';
import { Choice, Either, Heading } from '@/sheet/fields';
import { Checks } from './checks';
import { mendGather, runGather } from './gather-run';
import { gatherSeconds } from './gather-task';

/** Sides of sets, px. */
const SIZES = [512, 1024, 2048, 4096, 8192] as const;
const MENDS: Record<NonNullable<GatherCheck['fix']>, string> = {
  'take-all': 'Take them too',
  'second-on': 'Lay one for this size',
  'to-first': 'Draw to the first',
  'to-second': 'Draw to the second',
};

/** Whether there is anything that could be gathered: pictures that came with files, or somebody asked for it. */
export const canGather = (document: AssetDocument): boolean =>
  document.gather !== undefined || usedMaterials(document).some((m) => m.texturing !== undefined);

/** Many materials on one set: what is looked for first, what it is drawn to, and the way to begin. */
export function GatherPanel({ document, wanted, onMade }: { document: AssetDocument; wanted: number | null; onMade(): void }) {
  const session = useSession();
  const layout = useSheet((s) => s.unwrap);
  const gathered = useSheet((s) => s.gather);
  const busy = useSheet((s) => s.job !== null);
  const form = useSheet((s) => s.form);
  const label = useId();
  const { pool, pace } = useBench();
  const g = gatherOf(document);
  const set = (patch: Partial<typeof g>) => session.dispatch({ type: 'gather.set', patch });
  const parts = deliveredParts(document);
  const f = isFresh(document, layout, 'unwrap') ? layout?.figures : undefined;
  const own = g.to === 'second' ? f?.second?.density : f?.density;
  const at = g.to === 'second' ? document.unwrap.second?.size : document.brief.limits.textureSize;
  const density = own !== undefined && at ? (own * g.size) / at : null;
  const checks = gatherChecks(document, density, wanted);
  const able = !busy && form !== null && form.gpu.length > 0 && checks.every((c) => c.level !== 'over');
  const fresh = isFresh(document, gathered, 'gather');
  const formed = isFresh(document, form, 'form') ? form?.parts : undefined;
  const about = useMemo(() => (formed ? { document, parts: formed, density } : null), [document, formed, density]);
  const told = useAnswered(about, (ask) => pool.run('gatherForecast', ask));
  const seconds = told && pace.corrected('gather', gatherSeconds(told.answer.places, g.size, pool.threads));
  const sizes = [...new Set([...SIZES, g.size])].sort((a, b) => a - b).map((s) => [s, `${s} px`] as const);
  return (
    <Box component="section" aria-label="many into one" sx={{ px: 1.8, pb: 1.5 }}>
      <Heading aside="no light in it">Many into one</Heading>
      <Choice
        label="Drawn to"
        value={g.to}
        choices={[
          ['second', 'the second layout'],
          ['first', 'the layout of the piece'],
        ]}
        onChange={(to) => set({ to })}
      />
      <Choice label="The set" value={g.size} choices={sizes} onChange={(size) => set({ size })} />
      <Box sx={{ display: 'flex', alignItems: 'center', justifyContent: 'space-between', gap: 1, minHeight: 32 }}>
        <Box id={label} className="narrow" sx={{ fontSize: 13 }}>
          Left as they are
        </Box>
        <TextField
          select
          value={g.left.filter((id) => parts.some((p) => p.id === id))}
          onChange={(e) => set({ left: e.target.value as unknown as string[] })}
          sx={{ width: 150 }}
          slotProps={{
            select: {
              multiple: true,
              displayEmpty: true,
              SelectDisplayProps: { 'aria-labelledby': label },
              renderValue: (v) => ((v as string[]).length === 0 ? 'none' : `${(v as string[]).length} of ${parts.length}`),
            },
          }}
        >
          {parts.map((p) => (
            <MenuItem key={p.id} value={p.id}>
              {p.name}
            </MenuItem>
          ))}
        </TextField>
      </Box>
      <Either label="Draws" value={g.apart} words={['one for each part', 'as few as possible']} onChange={(apart) => set({ apart })} />
      <Checks label="looked for first" checks={checks} mends={MENDS} onMend={(fix) => mendGather(session, fix)} />
      {able && !fresh && seconds !== null && (
        <Box role="note" aria-label="how long gathering takes" className="narrow" sx={{ fontSize: 12.5, color: 'text.secondary', mb: 0.6 }}>
          About {inTime(seconds)} on this machine{f ? '' : ', after the layout'}.
        </Box>
      )}
      <Box sx={{ display: 'flex', gap: 1, flexWrap: 'wrap' }}>
        <Button variant="contained" disabled={!able} onClick={() => void runGather(session).then((made) => made && onMade())}>
          {gathered ? 'Gather again' : 'Gather'}
        </Button>
        {g.on && (
          <Button variant="outlined" disabled={busy} onClick={() => set({ on: false })}>
            Hand over ungathered
          </Button>
        )}
        {!g.on && fresh && (
          <Button variant="outlined" disabled={busy} onClick={() => set({ on: true })}>
            Hand over gathered
          </Button>
        )}
      </Box>
    </Box>
  );
}
