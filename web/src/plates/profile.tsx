'use client';

import Box from '@mui/material/Box';
import { FormError } from '@wellmorph/core/errors';
import { pointAt } from '@wellmorph/core/form/curves';
import { drawnCurves, outlineOf, type ProfilePoint, type ProfileSegment } from '@wellmorph/core/form/profile';
import type { TurnedStep } from '@wellmorph/core/form/steps/turned';
import { figure } from '@wellmorph/core/units/lengths';
import { useMemo, useRef, useState } from 'react';
import { useLengths } from '@/session/context';
import { usePalette } from '@/theme/theme';
import { useFrame } from './use-frame';

/** A point snaps to whole half-millimetres, and to the radius or height of another point within this many px. */
const SNAP_MM = 0.5;
const SNAP_PX = 6;

const path = (
  curves: readonly { curve: Parameters<typeof pointAt>[0] }[],
  at: (p: readonly [number, number]) => [number, number],
): string =>
  curves
    .map(({ curve }, i) => {
      const steps = curve.kind === 'line' ? 1 : Math.max(4, Math.ceil(Math.abs(curve.sweep) * 16));
      return Array.from({ length: steps + 1 }, (_, k) => at(pointAt(curve, k / steps)))
        .map(([x, y], k) => `${i === 0 && k === 0 ? 'M' : 'L'}${x.toFixed(2)} ${y.toFixed(2)}`)
        .join('');
    })
    .join('');

/**
 * The half-profile of a turned step, drawn: corners are dragged with snapping or moved with the arrow keys, a click on a
 * line adds a corner. Every figure can be typed beside it.
 */
export function ProfileEditor({
  step,
  point,
  onPoint,
  onChange,
}: {
  step: TurnedStep;
  point: string | null;
  onPoint(id: string | null): void;
  onChange(step: TurnedStep): void;
}) {
  const c = usePalette();
  const svg = useRef<SVGSVGElement>(null);
  const [drag, setDrag] = useState<{ id: string; r: number; y: number; guides: { r?: number; y?: number } } | null>(null);
  const extent = useMemo(() => {
    const { points } = step.profile;
    const heights = points.map((p) => p.y);
    return { x0: 0, x1: Math.max(...points.map((p) => p.r), 1), y0: Math.min(...heights), y1: Math.max(...heights) };
  }, [step.profile]);
  const view = useFrame(svg, extent, step.id);
  const { at, size, scale, place } = view;

  const shown: TurnedStep = drag
    ? {
        ...step,
        profile: { ...step.profile, points: step.profile.points.map((p) => (p.id === drag.id ? { ...p, r: drag.r, y: drag.y } : p)) },
      }
    : step;
  const { say } = useLengths();
  const finished = useMemo(() => {
    try {
      return {
        outline: outlineOf(drawnCurves(shown.profile), { body: shown.body, wall: shown.wall, drawnIs: shown.drawnIs }),
        wrong: null,
      };
    } catch (error) {
      if (!(error instanceof FormError)) throw error;
      return { outline: null, wrong: error.message };
    }
  }, [shown]);
  const drawn = useMemo(() => {
    try {
      return drawnCurves(shown.profile).curves.map((curve) => ({ curve }));
    } catch {
      return [];
    }
  }, [shown]);

  const snap = (id: string, x: number, y: number): { r: number; y: number; guides: { r?: number; y?: number } } => {
    const [r0, y0] = view.from([x, y]);
    const others = step.profile.points.filter((p) => p.id !== id);
    const near = (v: number, list: number[]) => list.find((o) => Math.abs(o - v) * scale < SNAP_PX);
    const [gr, gy] = [near(r0, [0, ...others.map((p) => p.r)]), near(y0, [0, ...others.map((p) => p.y)])];
    const grid = (v: number) => Math.round(v / SNAP_MM) * SNAP_MM;
    return {
      r: Math.max(0, gr ?? grid(r0)),
      y: gy ?? grid(y0),
      guides: { ...(gr !== undefined && { r: gr }), ...(gy !== undefined && { y: gy }) },
    };
  };
  const setPoint = (id: string, patch: Partial<ProfilePoint>) =>
    onChange({ ...step, profile: { ...step.profile, points: step.profile.points.map((p) => (p.id === id ? { ...p, ...patch } : p)) } });
  const insert = (i: number, x: number, y: number) => {
    const fresh = (list: { id: string }[], letter: string) => {
      let n = list.length;
      while (list.some((o) => o.id === `${letter}${n}`)) n++;
      return `${letter}${n}`;
    };
    const { points, segments } = step.profile;
    const p: ProfilePoint = { id: fresh(points, 'p'), ...(({ r, y: yy }) => ({ r, y: yy }))(snap('', x, y)) };
    const half: ProfileSegment = { id: fresh(segments, 's'), name: segments[i].name, kind: 'line' };
    // The first half keeps the segment's id, so that what was chosen on it stays.
    onChange({
      ...step,
      profile: {
        points: [...points.slice(0, i + 1), p, ...points.slice(i + 1)],
        segments: [
          ...segments.slice(0, i),
          { ...segments[i], kind: 'line' as const, bulge: undefined },
          half,
          ...segments.slice(i + 1),
        ].map(({ bulge, ...s }): ProfileSegment => (bulge === undefined ? s : { ...s, bulge })),
      },
    });
    onPoint(p.id);
  };
  const remove = (id: string) => {
    const { points, segments } = step.profile;
    if (points.length <= 2) return;
    const i = points.findIndex((p) => p.id === id);
    onChange({
      ...step,
      profile: { points: points.filter((p) => p.id !== id), segments: segments.filter((_, k) => k !== Math.min(i, segments.length - 1)) },
    });
    onPoint(null);
  };
  const onKey = (e: React.KeyboardEvent) => {
    const p = step.profile.points.find((q) => q.id === point);
    if (!p) return;
    const by = e.shiftKey ? 0.1 : 1;
    const move: Record<string, [number, number]> = { ArrowLeft: [-by, 0], ArrowRight: [by, 0], ArrowUp: [0, by], ArrowDown: [0, -by] };
    if (e.key in move) {
      const [dr, dy] = move[e.key];
      const round = (v: number) => Math.round(v * 1000) / 1000;
      setPoint(p.id, { r: Math.max(0, round(p.r + dr)), y: round(p.y + dy) });
    } else if (e.key === 'Delete' || e.key === 'Backspace') remove(p.id);
    else return;
    e.preventDefault();
    e.stopPropagation();
  };
  const [axisX] = at([0, 0]);
  const step10 = scale > 12 ? 1 : scale > 3 ? 10 : 50;
  const ticks = Array.from(
    { length: Math.ceil(size.height / scale / step10) + 1 },
    (_, i) => (Math.ceil(view.frame.y / step10) + i) * step10,
  );
  return (
    <Box sx={{ position: 'absolute', inset: 0 }} data-plate="profile">
      <svg
        ref={svg}
        role="application"
        aria-label={`Profile of ${step.name}: ${step.profile.points.length} corners`}
        tabIndex={0}
        width="100%"
        height="100%"
        style={{ touchAction: 'none', outline: 'none', cursor: 'default' }}
        onKeyDown={onKey}
        onWheel={(e) => view.nearer(place(e), e.deltaY)}
        onPointerDown={(e) => {
          if (e.target === svg.current) {
            onPoint(null);
            view.startPan(place(e));
            e.currentTarget.setPointerCapture(e.pointerId);
          }
        }}
        onPointerMove={(e) => {
          const [x, y] = place(e);
          if (drag) setDrag({ id: drag.id, ...snap(drag.id, x, y) });
          else view.pan([x, y]);
        }}
        onPointerUp={() => {
          view.endPan();
          if (drag) {
            const p = step.profile.points.find((q) => q.id === drag.id);
            if (p && (p.r !== drag.r || p.y !== drag.y)) setPoint(drag.id, { r: drag.r, y: drag.y });
            setDrag(null);
          }
        }}
      >
        {ticks.map((t) => (
          <g key={t}>
            <line x1={axisX - 5} x2={axisX} y1={at([0, t])[1]} y2={at([0, t])[1]} stroke={c.sheet.line} />
            <text x={axisX - 9} y={at([0, t])[1] + 4} textAnchor="end" fontSize="10.5" className="mono" fill={c.sheet.muted}>
              {t}
            </text>
          </g>
        ))}
        <line x1={axisX} x2={axisX} y1={0} y2={size.height} stroke={c.sheet.muted} strokeDasharray="10 3 2 3" />
        {drag?.guides.r !== undefined && (
          <line
            x1={at([drag.guides.r, 0])[0]}
            x2={at([drag.guides.r, 0])[0]}
            y1={0}
            y2={size.height}
            stroke={c.primary.main}
            strokeDasharray="2 3"
          />
        )}
        {drag?.guides.y !== undefined && (
          <line
            x1={0}
            x2={size.width}
            y1={at([0, drag.guides.y])[1]}
            y2={at([0, drag.guides.y])[1]}
            stroke={c.primary.main}
            strokeDasharray="2 3"
          />
        )}
        {finished.outline && (
          <path
            d={`${path(finished.outline.stretches, at)}${finished.outline.closed ? 'Z' : ''}`}
            fill={c.sheet.tint}
            stroke={c.text.primary}
            strokeWidth="1.4"
            pointerEvents="none"
          />
        )}
        {drawn.map(({ curve }, i) => (
          <path
            key={i}
            d={path([{ curve }], at)}
            fill="none"
            stroke={finished.outline ? 'transparent' : c.sheet.over}
            strokeWidth={finished.outline ? 11 : 1.5}
            style={{ cursor: 'copy' }}
            onClick={(e) => insert(i, ...place(e))}
          >
            <title>{`${step.profile.segments[i]?.name}: click to add a corner`}</title>
          </path>
        ))}
        {shown.profile.points.map((p) => {
          const [x, y] = at([p.r, p.y]);
          const chosen = p.id === point;
          return (
            <g key={p.id}>
              <rect
                x={x - 4.5}
                y={y - 4.5}
                width="9"
                height="9"
                rx={p.fillet ? 4.5 : 1}
                fill={chosen ? c.primary.main : c.background.paper}
                stroke={chosen ? c.primary.main : c.text.primary}
                strokeWidth="1.4"
                style={{ cursor: 'move' }}
                data-point={p.id}
                onPointerDown={(e) => {
                  e.stopPropagation();
                  svg.current?.focus();
                  svg.current?.setPointerCapture(e.pointerId);
                  onPoint(p.id);
                  setDrag({ id: p.id, r: p.r, y: p.y, guides: {} });
                }}
              />
              {chosen && (
                <text x={x + 11} y={y - 9} fontSize="12" className="mono" fill={c.text.primary}>
                  {`Ø ${figure(2 * p.r, 2)} · ${figure(p.y, 2)}`}
                </text>
              )}
            </g>
          );
        })}
      </svg>
      {finished.wrong && (
        <Box
          role="alert"
          sx={{
            position: 'absolute',
            left: 16,
            right: 16,
            bottom: 34,
            color: 'error.main',
            bgcolor: 'background.paper',
            border: 1,
            borderColor: 'error.main',
            borderRadius: 1,
            px: 1.2,
            py: 0.6,
          }}
        >
          {say(finished.wrong)}
        </Box>
      )}
    </Box>
  );
}
