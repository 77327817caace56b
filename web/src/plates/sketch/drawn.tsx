'use client';

import { pointAt } from '@wellmorph/core/form/curves';
import type { Reference } from '@wellmorph/core/form/reference';
import { chainsOf } from '@wellmorph/core/form/sketch/chains';
import type { Sketch, SketchCurve } from '@wellmorph/core/form/sketch/sketch';
import { figure } from '@wellmorph/core/units/lengths';
import { useMemo } from 'react';
import { useLengths } from '@/session/context';
import { usePalette } from '@/theme/theme';
import type { DrawingFrame } from '../use-frame';
import type { Snap } from './edit';

/** Ticks in mm along the left and the lower edge. */
export function Rulers({ frame, turned }: { frame: DrawingFrame; turned: boolean }) {
  const c = usePalette();
  const { at, from, size, scale } = frame;
  const step = scale > 12 ? 1 : scale > 3 ? 10 : scale > 0.6 ? 50 : 200;
  const [x0, y0] = from([0, size.height]);
  const ticks = (start: number, long: number) =>
    Array.from({ length: Math.ceil(long / scale / step) + 1 }, (_, i) => (Math.ceil(start / step) + i) * step);
  return (
    <g className="mono" fontSize="10.5" fill={c.sheet.muted}>
      {ticks(y0, size.height).map((t) => (
        <g key={`y${t}`}>
          <line x1={0} x2={5} y1={at([0, t])[1]} y2={at([0, t])[1]} stroke={c.sheet.line} />
          <text x={8} y={at([0, t])[1] + 4}>
            {t}
          </text>
        </g>
      ))}
      {!turned &&
        ticks(x0, size.width).map((t) => (
          <g key={`x${t}`}>
            <line x1={at([t, 0])[0]} x2={at([t, 0])[0]} y1={size.height} y2={size.height - 5} stroke={c.sheet.line} />
          </g>
        ))}
    </g>
  );
}

const pathOf = (sketch: Sketch, k: SketchCurve, at: DrawingFrame['at']): string => {
  const point = (id: string | undefined) => sketch.points.find((p) => p.id === id);
  const [a, b, m] = [point(k.a), point(k.b), point(k.centre)];
  if (k.kind === 'line') return a && b ? `M${at([a.x, a.y]).join(' ')}L${at([b.x, b.y]).join(' ')}` : '';
  if (!m) return '';
  const polyline = (from: number, sweep: number, r: number) => {
    const n = Math.max(8, Math.ceil(Math.abs(sweep) * 24));
    return Array.from({ length: n + 1 }, (_, i) => {
      const t = from + (sweep * i) / n;
      return `${i === 0 ? 'M' : 'L'}${at([m.x + r * Math.cos(t), m.y + r * Math.sin(t)]).join(' ')}`;
    }).join('');
  };
  if (k.kind === 'circle') return polyline(0, 2 * Math.PI, k.radius ?? 1);
  if (!a || !b) return '';
  const from = Math.atan2(a.y - m.y, a.x - m.x);
  let sweep = Math.atan2(b.y - m.y, b.x - m.x) - from;
  if (k.turn !== 'right' && sweep <= 0) sweep += 2 * Math.PI;
  if (k.turn === 'right' && sweep >= 0) sweep -= 2 * Math.PI;
  return polyline(from, sweep, Math.hypot(a.x - m.x, a.y - m.y));
};

/** Closed outlines are filled, so that it shows at once when one isn't closed. */
export function Filled({ sketch, frame }: { sketch: Sketch; frame: DrawingFrame }) {
  const c = usePalette();
  const d = useMemo(() => {
    try {
      return chainsOf(sketch, '')
        .filter((chain) => chain.closed)
        .map((chain) => {
          const points = chain.curves.flatMap((k) => {
            const n = k.kind === 'line' ? 1 : Math.max(4, Math.ceil(Math.abs(k.sweep) * 24));
            return Array.from({ length: n }, (_, i) => pointAt(k, i / n));
          });
          return `M${points.map((p) => frame.at(p).join(' ')).join('L')}Z`;
        })
        .join('');
    } catch {
      return '';
    }
  }, [sketch, frame.frame, frame.size]);
  return <path d={d} fill={c.sheet.tint} fillRule="evenodd" pointerEvents="none" />;
}

export function Curve({
  sketch,
  curve,
  frame,
  state,
  under,
  onPick,
}: {
  sketch: Sketch;
  curve: SketchCurve;
  frame: DrawingFrame;
  state: 'plain' | 'chosen' | 'involved' | 'wrong' | 'made';
  /** It lies over the curve it was made from, which is what a hand takes. */
  under?: boolean;
  onPick?(more: boolean): void;
}) {
  const c = usePalette();
  const d = pathOf(sketch, curve, frame.at);
  const colour = state === 'wrong' ? c.sheet.over : state === 'plain' || state === 'made' ? c.text.primary : c.primary.main;
  return (
    <>
      <path
        d={d}
        fill="none"
        stroke={colour}
        strokeWidth={state === 'chosen' ? 2.6 : 1.5}
        strokeDasharray={curve.guide ? '6 4' : undefined}
        pointerEvents="none"
      />
      {!under && (
        <path
          d={d}
          fill="none"
          stroke="transparent"
          strokeWidth={11}
          data-curve={curve.id}
          pointerEvents={onPick ? undefined : 'none'}
          style={{ cursor: 'pointer' }}
          onPointerDown={(e) => {
            e.stopPropagation();
            (e.currentTarget.ownerSVGElement as SVGSVGElement | null)?.focus();
            onPick?.(e.shiftKey);
          }}
        >
          <title>{curve.name}</title>
        </path>
      )}
    </>
  );
}

/** Figures of the constraints, standing by what they measure. */
export function Figures({
  sketch,
  frame,
  following,
  chosen,
  onPick,
}: {
  sketch: Sketch;
  frame: DrawingFrame;
  following: Readonly<Record<string, string>>;
  chosen: readonly string[];
  onPick(constraint: string): void;
}) {
  const { bare } = useLengths();
  const c = usePalette();
  const middleOf = (id: string | undefined): [number, number] | null => {
    const p = sketch.points.find((q) => q.id === id);
    if (p) return [p.x, p.y];
    const k = sketch.curves.find((q) => q.id === id);
    if (!k) return null;
    const ends = [k.a, k.b].map((e) => sketch.points.find((q) => q.id === e)).filter((q) => q !== undefined);
    const m = sketch.points.find((q) => q.id === k.centre);
    if (k.kind !== 'line' && m) {
      const r = k.kind === 'circle' ? (k.radius ?? 1) : Math.hypot(ends[0].x - m.x, ends[0].y - m.y);
      const [tx, ty] = k.kind === 'circle' ? [1, 1] : [(ends[0].x + ends[1].x) / 2 - m.x, (ends[0].y + ends[1].y) / 2 - m.y];
      const l = Math.hypot(tx, ty) || 1;
      return [m.x + (tx / l) * r, m.y + (ty / l) * r];
    }
    return ends.length === 2 ? [(ends[0].x + ends[1].x) / 2, (ends[0].y + ends[1].y) / 2] : null;
  };
  return sketch.constraints
    .filter((k) => k.mm !== undefined || k.degrees !== undefined)
    .map((k) => {
      const [a, b] = [middleOf(k.one), middleOf(k.two) ?? middleOf(k.one)];
      if (!a || !b) return null;
      const [x, y] = frame.at([(a[0] + b[0]) / 2, (a[1] + b[1]) / 2]);
      const words = `${k.kind === 'radius' ? 'R ' : ''}${k.kind === 'angle' ? `${figure(k.degrees ?? 0)}°` : bare(k.mm ?? 0)}${following[k.id] ? ' =' : ''}`;
      const width = words.length * 7 + 10;
      return (
        <g
          key={k.id}
          style={{ cursor: 'pointer' }}
          onPointerDown={(e) => {
            e.stopPropagation();
            onPick(k.id);
          }}
          data-figure={k.id}
        >
          <rect
            x={x + 8}
            y={y - 20}
            width={width}
            height={17}
            rx={3}
            fill={c.background.paper}
            stroke={chosen.includes(k.id) ? c.primary.main : c.sheet.line}
          />
          <text
            x={x + 8 + width / 2}
            y={y - 7.5}
            textAnchor="middle"
            fontSize="11.5"
            className="mono"
            fill={following[k.id] ? c.primary.main : c.text.primary}
          >
            {words}
          </text>
        </g>
      );
    });
}

/** Where the next click lands, and the line it would draw. */
export function Pencil({ hand, from, frame, line }: { hand: Snap; from?: { x: number; y: number }; frame: DrawingFrame; line: boolean }) {
  const c = usePalette();
  const [x, y] = frame.at(hand.at);
  const start = from && frame.at([from.x, from.y]);
  return (
    <g pointerEvents="none">
      {line && start && <line x1={start[0]} y1={start[1]} x2={x} y2={y} stroke={c.primary.main} strokeDasharray="4 3" />}
      <circle cx={x} cy={y} r={hand.point || hand.onAxis ? 7 : 4} fill="none" stroke={c.primary.main} strokeWidth="1.6" />
      <text x={x + 11} y={y - 9} fontSize="12" className="mono" fill={c.text.primary}>
        {`${figure(hand.at[0])} · ${figure(hand.at[1])}${line && from ? ` · ${figure(Math.hypot(hand.at[0] - from.x, hand.at[1] - from.y))} long` : ''}${hand.line === 'horizontal' ? ' · level' : hand.line === 'vertical' ? ' · upright' : ''}`}
      </text>
    </g>
  );
}

/** A picture behind the drawing, where and as large as it was set. */
export function Behind({ picture, frame }: { picture: Reference; frame: DrawingFrame }) {
  const [w, h] = [picture.widthPx * picture.mmPerPx, picture.heightPx * picture.mmPerPx];
  const [x, y] = frame.at([picture.x, picture.y + h]);
  return (
    <image
      href={`/api/blobs/${picture.blob}`}
      x={x}
      y={y}
      width={w * frame.scale}
      height={h * frame.scale}
      opacity={picture.opacity}
      preserveAspectRatio="none"
      pointerEvents="none"
    />
  );
}
