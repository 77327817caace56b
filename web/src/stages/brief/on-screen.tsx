'use client';

import Box from '@mui/material/Box';
import { fieldOfView } from '@wellmorph/core/brief/advice';
import type { Brief } from '@wellmorph/core/brief/brief';
import { figure, inUnit } from '@wellmorph/core/units/lengths';

/** A side view of the closest view, to scale in angle: lens, cone, piece, and how much of the picture the piece fills. */
export function OnScreen({ brief, pixelMm, sizeMm }: { brief: Brief; pixelMm: number; sizeMm: readonly number[] }) {
  const height = sizeMm[1];
  const px = height / pixelMm;
  const share = px / brief.pictureHeightPx;
  const half = fieldOfView(brief) / 2;
  // 620 × 190 drawing: lens at the left, the plane of the piece at x = 440.
  const [lens, plane, middle] = [46, 440, 96];
  const cone = Math.min(78, (plane - lens) * Math.tan(half));
  const piece = Math.min(84, cone * share);
  return (
    <Box
      sx={{
        borderTop: 1,
        borderColor: 'divider',
        position: 'relative',
        minHeight: 0,
        display: 'flex',
        alignItems: 'center',
        justifyContent: 'center',
      }}
    >
      <Box
        component="svg"
        viewBox="0 0 620 192"
        role="img"
        aria-label={`At ${inUnit(brief.closestMm, brief.unit)} the piece fills ${Math.round(share * 100)} % of the picture's height`}
        sx={{ width: '100%', height: '100%', maxWidth: 760, '& text': { fill: 'currentColor', fontSize: 12 }, color: 'text.primary' }}
      >
        <g stroke="currentColor" fill="none" strokeWidth="1">
          <path d={`M${lens} ${middle}L${plane} ${middle - cone}M${lens} ${middle}L${plane} ${middle + cone}`} opacity="0.45" />
          <path d={`M${plane} ${middle - cone}V${middle + cone}`} opacity="0.45" strokeDasharray="3 3" />
          <path
            d={`M${lens - 16} ${middle - 9}h12v18h-12zM${lens - 4} ${middle - 5}l6 -3v16l-6 -3`}
            fill="currentColor"
            fillOpacity="0.12"
          />
          <path d={`M${lens} ${middle + 84}H${plane}M${lens} ${middle + 79}v10M${plane} ${middle + 79}v10`} opacity="0.7" />
        </g>
        <Box
          component="rect"
          x={plane - 5}
          y={middle - piece}
          width="10"
          height={2 * piece}
          sx={{ fill: (t) => (t.vars ?? t).palette.primary.main }}
        />
        <text x={(lens + plane) / 2} y={middle + 80} textAnchor="middle" className="mono">
          {inUnit(brief.closestMm, brief.unit)}
        </text>
        <text x={plane + 18} y={middle - 14} fontWeight="650">
          {figure(px, 0)} px high
        </text>
        <text x={plane + 18} y={middle + 3} opacity="0.75" className="narrow">
          {figure(share * 100, 0)} % of {figure(brief.pictureHeightPx, 0)} px
        </text>
        <text x={plane + 18} y={middle + 20} opacity="0.75" className="narrow">
          one pixel is {inUnit(pixelMm, brief.unit, 3)}
        </text>
        <text x={lens - 16} y={middle - 18} opacity="0.75" className="narrow">
          {figure(brief.lensMm)} mm lens
        </text>
        {share > 1 && (
          <text x={plane + 18} y={middle + 40} className="narrow">
            taller than the picture
          </text>
        )}
      </Box>
    </Box>
  );
}
