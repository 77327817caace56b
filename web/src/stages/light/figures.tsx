'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Stack from '@mui/material/Stack';
import { EFFICACY } from '@wellmorph/core/light/exposure';
import { GREY_CARD } from '@wellmorph/core/light/rig';
import type { Shot } from '@wellmorph/core/shot/shot';
import { figure } from '@wellmorph/core/units/lengths';
import { useLengths, useSession } from '@/session/context';
import { AdviceCard } from '@/sheet/advice';
import { Heading } from '@/sheet/fields';
import type { StageView } from '@/workers/protocol';
import { FigureRow } from '../unwrap/figure-row';
import { inRoom } from './plan';
import { withLight } from './run';

export const inSeconds = (s: number): string => (s < 1 ? `1/${Math.round(1 / s)} s` : `${figure(s, 1)} s`);

/** Shutters there are, s. */
const within = (s: number): number => Math.min(3600, Math.max(1e-5, s));

/** What the light and the shot came to. */
export function Figures({ view, shot, decided }: { view: StageView; shot: Shot; decided: boolean }) {
  const session = useSession();
  const { bare, say, unit } = useLengths();
  const s = view.shot;
  const light = view.checks.find((c) => c.id === 'light');
  const off = Math.log2(view.rig.cardReading / GREY_CARD);
  const whole = view.checks.find((c) => c.id === 'focus');
  return (
    <>
      <AdviceCard title={`f/${s.aperture} at ${inSeconds(shot.seconds)}:`} level={whole?.level ?? 'ok'}>
        {shot.aperture === null
          ? `f/${figure(s.solved, 1)} would just do for ${shot.sharpShare >= 1 ? 'the whole piece' : `${figure(100 * shot.sharpShare, 0)} % of its depth`}; the next whole stop is taken. `
          : 'Set by hand. '}
        {whole && say(whole.sentence)}
      </AdviceCard>
      <AdviceCard title={`A grey card facing the key reads ${figure(view.rig.cardReading, 3)}.`} level={light?.level ?? 'ok'}>
        Measured from the lamps as they stand: {figure(view.rig.cardIrradiance, 1)} W/m² arrive
        {Math.abs(off) < 0.05 ? ', which is as it should be' : `, ${figure(Math.abs(off), 1)} stops ${off > 0 ? 'over' : 'under'} 0.18`}.{' '}
        {decided ? 'The lamps keep their watts.' : 'No watts were set yet: the lamps are those for the usual shutter of 1/4 s.'}
        <Stack direction="row" spacing={1} sx={{ mt: 1, '& button': { whiteSpace: 'nowrap', px: 1 } }}>
          <Button
            variant="outlined"
            onClick={() => void withLight(session, (v) => void session.dispatch({ type: 'rig.set', patch: { power: v.wantedPower } }))}
          >
            Solve the lamps
          </Button>
          <Button
            variant="outlined"
            disabled={shot.locked || Math.abs(off) < 0.01}
            onClick={() =>
              void withLight(session, (v) => void session.dispatch({ type: 'shot.set', patch: { seconds: within(v.wantedSeconds) } }))
            }
          >
            Solve the exposure
          </Button>
        </Stack>
      </AdviceCard>
      <Heading aside="power · flux">Lamps</Heading>
      {view.rig.figures.map((f) => (
        <Box key={f.name} sx={{ py: 0.5, borderBottom: 1, borderColor: 'sheet.faint' }}>
          <Box sx={{ display: 'flex', justifyContent: 'space-between' }}>
            <b>{f.name}</b>
            <span className="mono">
              {figure(f.watts, 2)} W · {figure(f.lumens, 0)} lm
            </span>
          </Box>
          <Box className="narrow" sx={{ fontSize: 12, color: 'text.secondary', display: 'flex', justifyContent: 'space-between', gap: 1 }}>
            <span>
              {figure(f.radiance, 1)} W/(m²·sr) over {inRoom(f.widthMm, unit)} × {inRoom(f.heightMm, unit)}
            </span>
          </Box>
          <Box className="narrow" sx={{ fontSize: 12, color: 'text.secondary' }}>
            {figure(f.arriving, 2)} W/m² arrive
            {f.stopsBelowKey > 0.01
              ? `, ${figure(f.stopsBelowKey, 1)} ${figure(f.stopsBelowKey, 1) === '1' ? 'stop' : 'stops'} under the key`
              : ''}
          </Box>
        </Box>
      ))}
      <Box className="narrow" sx={{ fontSize: 12, color: 'text.secondary', my: 1 }}>
        Radiant watts; lumens by {figure(EFFICACY, 1)} lm/W, light of equal power from 380 to 780 nm. A real lamp takes more from the mains:
        follow its maker’s and your local rules for heat and wiring.
      </Box>
      <Heading>Camera</Heading>
      <FigureRow label="to the nearest point" value={bare(s.nearest, 0)} unit={unit} />
      <FigureRow label="sharp from" value={bare(s.focus.near, 0)} unit={unit} />
      <FigureRow label="to" value={Number.isFinite(s.focus.far) ? bare(s.focus.far, 0) : '∞'} unit={unit} />
      <FigureRow
        label="size on the sensor"
        value={figure(s.magnification, 3)}
        unit="×"
        why={`costs ${figure(2 * Math.log2(1 + s.magnification), 2)} stops`}
      />
      <FigureRow label="front looks larger than back" value={figure(s.perspective, 2)} unit="×" />
    </>
  );
}
