'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import { useQuery } from '@tanstack/react-query';
import { WellmorphError } from '@wellmorph/core/errors';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import { inputsOf, nameOf } from '@wellmorph/core/pipeline/results';
import { SWEEP_LIMIT, type SweepAxis, type SweepField, sweepFields, sweepRuns } from '@wellmorph/core/plan/sweep';
import { useMemo, useState } from 'react';
import type { Sweep } from '@/server/db/sweeps';
import { get, send } from '@/session/api';
import { useSession, useSheet } from '@/session/context';
import { type AssetSession, sentence } from '@/session/session';
import { inTime } from '@/shared/times';
import { Choice, Heading } from '@/sheet/fields';
import { Act, Written } from '@/sheet/plain';
import { SweepSheetView } from './sheet';
import { typedValues } from './values';

type Stage = SweepField['stage'];

/** Opens what is swept of this stage. */
export function SweepButton({ stage, disabled }: { stage: Stage; disabled: boolean }) {
  const [open, setOpen] = useState(false);
  return (
    <Box sx={{ mb: 1.4 }}>
      <Act disabled={disabled} onClick={() => setOpen(true)}>
        Sweep a setting over a range …
      </Act>
      {open && <SweepDialog stage={stage} onClose={() => setOpen(false)} />}
    </Box>
  );
}

function SweepDialog({ stage, onClose }: { stage: Stage; onClose(): void }) {
  const id = useSheet((s) => s.id);
  const [shown, setShown] = useState<string | null>(null);
  const { data: sweeps = [] } = useQuery({ queryKey: ['runs', 'sweeps', id], queryFn: () => get<Sweep[]>(`/api/assets/${id}/sweeps`) });
  const mine = sweeps.filter((s) => s.stage === stage);
  return (
    <Dialog open onClose={onClose} aria-labelledby="sweep-title" maxWidth={shown ? 'lg' : 'sm'} fullWidth>
      <Box sx={{ p: 3 }}>
        <Box id="sweep-title" component="h2" sx={{ typography: 'h2', mt: 0 }}>
          {shown ? (mine.find((s) => s.id === shown)?.title ?? 'Sweep') : 'Sweep over a range'}
        </Box>
        {shown ? <SweepSheetView id={shown} onTaken={onClose} /> : <NewSweep stage={stage} onBegun={setShown} />}
        {!shown && mine.length > 0 && (
          <Box component="section" aria-label="sweeps so far" sx={{ mt: 2 }}>
            <Heading>So far</Heading>
            {mine.map((s) => (
              <Box key={s.id} sx={{ display: 'flex', gap: 1, fontSize: 13, py: 0.3 }}>
                <Act onClick={() => setShown(s.id)} sx={{ flex: 1, justifyContent: 'flex-start' }}>
                  {s.title}
                </Act>
                <Box sx={{ color: 'text.secondary' }}>
                  {s.runs} of {s.of} made · {new Date(s.at).toLocaleDateString('en-GB')}
                </Box>
              </Box>
            ))}
          </Box>
        )}
        <Box sx={{ mt: 2, display: 'flex', justifyContent: 'flex-end', gap: 1 }}>
          {shown && <Button onClick={() => setShown(null)}>Other sweeps</Button>}
          <Button variant="outlined" onClick={onClose}>
            Close
          </Button>
        </Box>
      </Box>
    </Dialog>
  );
}

/** What is typed, as axes; or what is wrong with it in a sentence. */
function readAxes(document: AssetDocument, typed: readonly { key: string; text: string }[]): { axes: SweepAxis[]; runs: number } | string {
  const axes: SweepAxis[] = [];
  for (const { key, text } of typed) {
    if (!key) continue;
    const values = typedValues(text, key);
    if (typeof values === 'string') return values;
    axes.push({ key, values });
  }
  try {
    return { axes, runs: sweepRuns(document, axes).runs.length };
  } catch (error) {
    if (error instanceof WellmorphError) return error.message;
    throw error;
  }
}

function NewSweep({ stage, onBegun }: { stage: Stage; onBegun(sweep: string): void }) {
  const session = useSession();
  const document = useSheet((s) => s.document);
  const lastMs = useSheet((s) => s.trials.find((t) => t.stage === stage && t.milliseconds > 0)?.milliseconds ?? null);
  const busy = useSheet((s) => s.job !== null);
  const fields = useMemo(() => (document ? sweepFields(document).filter((f) => f.stage === stage) : []), [document, stage]);
  const [along, setAlong] = useState({ key: fields[0]?.key ?? '', text: '' });
  const [down, setDown] = useState({ key: '', text: '' });
  if (!document) return null;
  const read = readAxes(document, [along, down]);
  const now = (key: string) => {
    const field = fields.find((f) => f.key === key);
    const value = field?.now(document);
    return field ? (value === null || value === undefined ? 'solved now' : `now ${Number(value.toPrecision(5))}`) : '';
  };
  const row = (label: string, axis: typeof along, set: (a: typeof along) => void, none: boolean) => (
    <Box sx={{ mb: 1 }}>
      <Choice
        label={label}
        hint={now(axis.key)}
        value={axis.key}
        choices={[...(none ? [['', 'nothing'] as const] : []), ...fields.map((f) => [f.key, f.name] as const)]}
        onChange={(key) => set({ ...axis, key })}
      />
      {axis.key && (
        <Written
          placeholder="4, 5.6, 8   or   1.3 to 1.6 in 4"
          value={axis.text}
          inputProps={{ 'aria-label': `Values ${label}`, maxLength: 200 }}
          onChange={(e) => set({ ...axis, text: e.target.value })}
          sx={{ width: '100%' }}
        />
      )}
    </Box>
  );
  const typed = along.text.trim() !== '';
  const plain = [along.key, down.key].some((k) => document.materials.some((m) => k.startsWith(`${m.id}.`)));
  return (
    <>
      {row('along', along, setAlong, false)}
      {row('and down', down, setDown, true)}
      <Box
        role={typeof read === 'string' && typed ? 'alert' : 'status'}
        sx={{ fontSize: 13, color: typeof read === 'string' ? (typed ? 'error.main' : 'text.secondary') : 'text.primary', mb: 1 }}
      >
        {typeof read === 'string'
          ? read
          : `${read.runs} ${read.runs === 1 ? 'run' : 'runs'}${lastMs ? `, about ${inTime((read.runs * lastMs) / 1000)} on this machine as the last one took` : ''}.${plain ? ' Drawn in the materials’ plain values: the composed set would have to be made anew for each.' : ''}`}
      </Box>
      <Button
        variant="contained"
        disabled={typeof read === 'string' || busy}
        onClick={() => typeof read !== 'string' && void begin(session, stage, read.axes, plain).then((s) => s && onBegun(s))}
      >
        Queue the runs
      </Button>
      <Box className="narrow" sx={{ fontSize: 12, color: 'text.secondary', mt: 1 }}>
        At most {SWEEP_LIMIT} runs. They are made on the server, also when this page is closed; the piece stays as it is set.
      </Box>
    </>
  );
}

/** What the runs stand on is made first; then they are queued for the piece as it is stored. */
async function begin(session: AssetSession, stage: Stage, axes: SweepAxis[], plain: boolean): Promise<string | null> {
  const made = await session.job(stage, async (run) => {
    const document = plain ? { ...run.document, render: { ...run.document.render, maps: false } } : run.document;
    for (const input of inputsOf(document, stage)) if (input) await session.stage(run, input);
    return nameOf(run.document, stage);
  });
  if (!made) return null;
  await session.lane.flushed();
  const { document } = session;
  if (!document || nameOf(document, stage) !== made) {
    session.notify('The piece was changed while the sweep was got ready; queue it again.', 'error');
    return null;
  }
  try {
    const { sweep } = await send<{ sweep: string }>('POST', `/api/assets/${session.id}/sweeps`, {
      baseVersion: session.version,
      axes,
      ...(document.as && { variant: document.as }),
    });
    return sweep;
  } catch (error) {
    session.notify(sentence(error), 'error');
    return null;
  }
}
