'use client';

import Box from '@mui/material/Box';
import type { Vec3 } from '@wellmorph/core/maths/vec3';
import { figure, inUnit, type LengthUnit, MM_PER } from '@wellmorph/core/units/lengths';
import { useLengthUnit } from '@/session/context';
import { usePalette } from '@/theme/theme';
import type { StageView } from '@/workers/protocol';

/** A length for the scale bar, mm, that is round in a unit. */
function roundLength(mm: number, unit: LengthUnit): number {
  const most = mm / MM_PER[unit];
  const power = 10 ** Math.floor(Math.log10(most));
  return MM_PER[unit] * ([5, 2, 1].map((k) => k * power).find((x) => x <= most) ?? power);
}
/** A length of a set-up: in the unit of the brief, from a metre on in metres, unless that unit is the inch. */
export const inRoom = (mm: number, unit: LengthUnit): string => (mm >= 1000 && unit !== 'in' ? inUnit(mm, 'm', -1) : inUnit(mm, unit, 0));

/**
 * The set-up from above, to scale: the piece, the lamps and where they shine, the camera and what it sees, the limits of
 * sharpness, the backdrop's curve. The camera looks up the page.
 */
export function LightPlan({ view, azimuth }: { view: StageView; azimuth: number }) {
  const c = usePalette();
  const unit = useLengthUnit();
  const t = (azimuth * Math.PI) / 180;
  const centre = [0, 2].map((k) => (view.bounds.min[k] + view.bounds.max[k]) / 2);
  // Right of the camera is right on the page; away from it is up.
  const at = (x: number, z: number): [number, number] => {
    const [dx, dz] = [x - centre[0], z - centre[1]];
    return [dx * Math.cos(t) - dz * Math.sin(t), dx * Math.sin(t) + dz * Math.cos(t)];
  };
  const of = (p: Vec3) => at(p[0], p[2]);
  const { camera } = view.shot;
  const eye = of(camera.position);
  const lamps = view.rig.lamps.map((l) => {
    const [ux, uz] = [l.u[0], l.u[2]];
    const a = at(l.centre[0] - ux, l.centre[2] - uz);
    const b = at(l.centre[0] + ux, l.centre[2] + uz);
    return { name: l.name, a, b, middle: of(l.centre) };
  });
  const r = view.radius;
  const xs = [...lamps.flatMap((l) => [l.a[0], l.b[0]]), eye[0], -1.6 * r, 1.6 * r];
  const ys = [...lamps.flatMap((l) => [l.a[1], l.b[1]]), eye[1], -5.4 * r];
  const pad = 0.9 * r;
  const [x0, x1, y0, y1] = [
    Math.min(...xs) - pad * 1.6,
    Math.max(...xs) + pad * 1.6,
    Math.min(...ys) - pad * 0.4,
    Math.max(...ys) + pad * 0.7,
  ];
  const size = Math.max((x1 - x0) / 420, (y1 - y0) / 520);
  const text = 12.5 * size;
  const line = 1.1 * size;
  const outline = view.outline.map((p) => at(p[0], p[1]).join(' ')).join('L');
  // Flat on the floor, forward is up the page; heights don't matter from above.
  const flat = Math.hypot(camera.forward[0], camera.forward[2]) || 1;
  const forward = at(centre[0] + camera.forward[0] / flat, centre[1] + camera.forward[2] / flat);
  const side: [number, number] = [-forward[1], forward[0]];
  const along = (d: number, s: number): [number, number] => [
    eye[0] + forward[0] * d * flat + side[0] * s,
    eye[1] + forward[1] * d * flat + side[1] * s,
  ];
  const reach = view.shot.farthest;
  const edge = (s: 1 | -1) => along(reach, s * reach * camera.tanX);
  const limit = (d: number, label: string, accent: boolean) => {
    const half = Math.max(d * camera.tanX * 1.15, 0.9 * r);
    const [a, b] = [along(d, -half), along(d, half)];
    return (
      <g key={label}>
        <line
          x1={a[0]}
          y1={a[1]}
          x2={b[0]}
          y2={b[1]}
          stroke={accent ? c.primary.main : c.sheet.near}
          strokeWidth={line}
          strokeDasharray={`${4 * size} ${3 * size}`}
        />
        <text
          x={Math.max(a[0], b[0]) + 5 * size}
          y={(a[1] + b[1]) / 2 + text * 0.35}
          fontSize={text * 0.88}
          fill={accent ? c.primary.main : c.sheet.near}
        >
          {label}
        </text>
      </g>
    );
  };
  const bar = roundLength((x1 - x0) * 0.28, unit);
  const curve = [-2.2 * r, -5.2 * r];
  return (
    <Box sx={{ position: 'absolute', inset: '46px 10px 28px' }} data-plate="plan">
      <svg
        role="img"
        aria-label={`Light plan from above: ${view.rig.figures.map((f) => `${f.name} ${figure(f.watts, 1)} watts at ${inRoom(f.distanceMm, unit)}`).join(', ')}`}
        viewBox={`${x0} ${y0} ${x1 - x0} ${y1 - y0}`}
        width="100%"
        height="100%"
        style={{ fontFamily: 'inherit', fontStretch: '84%' }}
      >
        {curve.map((y, i) => (
          <line key={y} x1={x0} x2={x1} y1={y} y2={y} stroke={c.sheet.line} strokeWidth={line * (i ? 2.4 : 1)} />
        ))}
        <text x={x0 + 6 * size} y={curve[0] - 4 * size} fontSize={text * 0.85} fill={c.text.secondary}>
          sweep begins
        </text>
        <text x={x0 + 6 * size} y={curve[1] + text} fontSize={text * 0.85} fill={c.text.secondary}>
          backdrop
        </text>
        <path
          d={`M${eye.join(' ')}L${edge(-1).join(' ')}M${eye.join(' ')}L${edge(1).join(' ')}`}
          stroke={c.sheet.muted}
          strokeWidth={line * 0.8}
          fill="none"
        />
        {lamps.map((l) => (
          <path key={l.name} d={`M${l.a.join(' ')}L0 0L${l.b.join(' ')}`} fill={c.sheet.near} fillOpacity={0.09} stroke="none" />
        ))}
        <path d={`M${outline}Z`} fill={c.sheet.tint} stroke={c.primary.main} strokeWidth={line * 1.3} />
        {limit(view.shot.focus.near, 'sharp from', false)}
        {limit(view.shot.focus.at, 'focus', true)}
        {Number.isFinite(view.shot.focus.far) && limit(view.shot.focus.far, 'to', false)}
        {lamps.map((l, i) => {
          const f = view.rig.figures[i];
          const right = l.middle[0] >= 0;
          // Clear of the lamp, on the side away from the piece.
          const x = Math.min(Math.max(l.middle[0] + (right ? 1 : -1) * 0.3 * r, x0 + 80 * size), x1 - 80 * size);
          const y = l.middle[1] < -1.5 * r ? Math.min(l.a[1], l.b[1]) - 24 * size : Math.max(l.a[1], l.b[1]) + 18 * size;
          return (
            <g key={l.name}>
              <line x1={l.a[0]} y1={l.a[1]} x2={l.b[0]} y2={l.b[1]} stroke={c.text.primary} strokeWidth={line * 4} strokeLinecap="round" />
              <line
                x1={l.middle[0]}
                y1={l.middle[1]}
                x2={l.middle[0] * 0.42}
                y2={l.middle[1] * 0.42}
                stroke={c.sheet.near}
                strokeWidth={line}
              />
              <text x={x} y={y} fontSize={text} textAnchor="middle" fill={c.text.primary}>
                <tspan fontWeight={660}>{l.name}</tspan> {figure(f.watts, 2)} W
                <tspan x={x} dy={text * 1.15} fill={c.text.secondary} fontSize={text * 0.88}>
                  {inRoom(f.distanceMm, unit)} · {inRoom(f.widthMm, unit)} × {inRoom(f.heightMm, unit)}
                </tspan>
              </text>
            </g>
          );
        })}
        <g transform={`translate(${eye[0]} ${eye[1]})`}>
          <path
            d={`M${-7 * size} ${9 * size}H${7 * size}V${-1 * size}H${4 * size}L${5.5 * size} ${-7 * size}H${-5.5 * size}L${-4 * size} ${-1 * size}H${-7 * size}Z`}
            fill={c.text.primary}
          />
        </g>
        <text x={eye[0] + 14 * size} y={eye[1] + 8 * size} fontSize={text} fill={c.text.primary}>
          <tspan fontWeight={660}>camera</tspan> {inRoom(view.shot.nearest, unit)} off
        </text>
        <g transform={`translate(${x0 + 8 * size} ${y1 - 10 * size})`}>
          <path d={`M0 ${-4 * size}V0H${bar}V${-4 * size}`} fill="none" stroke={c.text.primary} strokeWidth={line} />
          <text x={bar / 2} y={-6 * size} textAnchor="middle" fontSize={text * 0.88} fill={c.text.secondary}>
            {inRoom(bar, unit)}
          </text>
        </g>
      </svg>
    </Box>
  );
}
