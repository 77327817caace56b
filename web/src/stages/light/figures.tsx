'use client';

import Box from '@mui/material/Box';
import { EFFICACY } from '@wellmorph/core/light/exposure';
import type { Shot } from '@wellmorph/core/shot/shot';
import { figure } from '@wellmorph/core/units/lengths';
import { AdviceCard } from '@/sheet/advice';
import { Heading } from '@/sheet/fields';
import type { StageView } from '@/workers/protocol';
import { FigureRow } from '../unwrap/figure-row';
import { inMetres } from './plan';

export const inSeconds = (s: number): string => (s < 1 ? `1/${Math.round(1 / s)} s` : `${figure(s, 1)} s`);

/** What the light and the shot came to. */
export function Figures({ view, shot }: { view: StageView; shot: Shot }) {
  const s = view.shot;
  const whole = view.checks.find((c) => c.id === 'focus');
  return (
    <>
      <AdviceCard title={`f/${s.aperture} at ${inSeconds(shot.seconds)}:`} level={whole?.level ?? 'ok'}>
        {shot.aperture === null
          ? `f/${figure(s.solved, 1)} would just do for ${shot.sharpShare >= 1 ? 'the whole piece' : `${figure(100 * shot.sharpShare, 0)} % of its depth`}; the next whole stop is taken. `
          : 'Set by hand. '}
        {whole?.sentence}
      </AdviceCard>
      <AdviceCard title={`A grey card facing the key reads ${figure(view.rig.cardReading, 2)}.`}>
        Lamps are solved for that at the piece’s real size: {figure(view.rig.cardIrradiance, 1)} W/m² arrive.
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
              {figure(f.radiance, 1)} W/(m²·sr) over {inMetres(f.widthMm)} × {inMetres(f.heightMm)}
            </span>
          </Box>
          <Box className="narrow" sx={{ fontSize: 12, color: 'text.secondary' }}>
            {figure(f.arriving, 2)} W/m² arrive{f.stopsBelowKey > 0.01 ? `, ${figure(f.stopsBelowKey, 1)} stops under the key` : ''}
          </Box>
        </Box>
      ))}
      <Box className="narrow" sx={{ fontSize: 12, color: 'text.secondary', my: 1 }}>
        Radiant watts; lumens by {figure(EFFICACY, 1)} lm/W, light of equal power from 380 to 780 nm. A real lamp takes more from the mains:
        follow its maker’s and your local rules for heat and wiring.
      </Box>
      <Heading>Camera</Heading>
      <FigureRow label="to the nearest point" value={figure(s.nearest, 0)} unit="mm" />
      <FigureRow label="sharp from" value={figure(s.focus.near, 0)} unit="mm" />
      <FigureRow label="to" value={Number.isFinite(s.focus.far) ? figure(s.focus.far, 0) : '∞'} unit="mm" />
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
