import type { Px } from '@wellmorph/core/photo/match';
import { figure } from '@wellmorph/core/units/lengths';
import type { KeyboardEvent, MouseEvent, PointerEvent } from 'react';
import { usePalette } from '@/theme/theme';

const NAMES = ['x', 'y', 'z'] as const;
/** Pencil lines of the three directions are told apart by how they are broken. */
const DASHES = ['', '9 4', '2 4'] as const;

/** An edge that was drawn: a pencil line with a handle at each of its places, its axis and what it misses by, px. */
export function DrawnEdge({
  axis,
  number,
  places,
  off,
  pointerEvents,
  onBetween,
  onGrab,
  onKey,
}: {
  axis: 0 | 1 | 2;
  number: number;
  /** Where its places lie on the plate. */
  places: readonly (readonly [number, number])[];
  off: number | undefined;
  pointerEvents?: 'none';
  /** A handle between its ends is wanted, where the lens bends it. */
  onBetween(e: MouseEvent<SVGElement>): void;
  onGrab(handle: number): (e: PointerEvent<SVGElement>) => void;
  onKey(handle: number): (e: KeyboardEvent<SVGElement>) => void;
}) {
  const c = usePalette();
  const points = places.map((p) => p.join(',')).join(' ');
  const [first, last] = [places[0], places[places.length - 1]];
  // Beside the line, away from its ends: there others end too.
  const [x, y] = [first[0] + 0.7 * (last[0] - first[0]), first[1] + 0.7 * (last[1] - first[1])];
  return (
    <g>
      <polyline points={points} fill="none" stroke={c.sheet.paper} strokeWidth={4} strokeOpacity={0.75} pointerEvents="none" />
      <polyline points={points} fill="none" stroke={c.sheet.ink} strokeWidth={1.6} strokeDasharray={DASHES[axis]} pointerEvents="none" />
      <polyline
        points={points}
        fill="none"
        stroke="transparent"
        strokeWidth={9}
        pointerEvents={pointerEvents}
        style={{ cursor: 'pointer' }}
        onDoubleClick={onBetween}
      />
      <text
        x={x + 9}
        y={y - 6}
        fontSize={12}
        fill={c.sheet.ink}
        stroke={c.sheet.paper}
        strokeWidth={3}
        paintOrder="stroke"
        pointerEvents="none"
      >
        {NAMES[axis]}
        {off !== undefined ? ` ${figure(off, 1)} px` : ''}
      </text>
      {places.map(([hx, hy], i) => (
        <circle
          key={i}
          role="button"
          tabIndex={0}
          aria-label={`edge ${number} along ${NAMES[axis]}, handle ${i + 1}`}
          cx={hx}
          cy={hy}
          r={6}
          fill={c.sheet.paper}
          fillOpacity={0.35}
          stroke={c.sheet.ink}
          strokeWidth={1.5}
          pointerEvents={pointerEvents}
          style={{ cursor: 'move' }}
          onPointerDown={onGrab(i)}
          onKeyDown={onKey(i)}
        />
      ))}
    </g>
  );
}

/** A corner of the box: filled where it was put, hollow where it only follows. */
export function Mark({
  place: [x, y],
  label,
  colour,
  ink,
  hollow,
  ...handlers
}: {
  place: readonly [number, number];
  label: string;
  colour: string;
  ink?: string;
  hollow?: boolean;
  pointerEvents?: 'none';
  onPointerDown?(e: PointerEvent<SVGElement>): void;
  onKeyDown?(e: KeyboardEvent<SVGElement>): void;
}) {
  return (
    <rect
      role="button"
      tabIndex={0}
      aria-label={label}
      x={x - 5.5}
      y={y - 5.5}
      width={11}
      height={11}
      fill={colour}
      fillOpacity={hollow ? 0.12 : 0.85}
      stroke={hollow ? colour : ink}
      strokeWidth={1.5}
      style={{ cursor: 'move' }}
      {...handlers}
    >
      <title>{label}</title>
    </rect>
  );
}

/** The segment of a line that a place lies nearest to. */
export function nearestSegment(points: readonly Px[], [x, y]: Px): number {
  let best = { i: 0, off: Infinity };
  for (let i = 0; i + 1 < points.length; i++) {
    const [[ax, ay], [bx, by]] = [points[i], points[i + 1]];
    const [dx, dy] = [bx - ax, by - ay];
    const t = Math.min(1, Math.max(0, ((x - ax) * dx + (y - ay) * dy) / (dx * dx + dy * dy || 1)));
    const off = Math.hypot(ax + t * dx - x, ay + t * dy - y);
    if (off < best.off) best = { i, off };
  }
  return best.i;
}
