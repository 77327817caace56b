import { figure } from '@wellmorph/core/units/lengths';
import { type Gaps, gapsAt } from '@wellmorph/core/uv/hand/gaps';
import { type IslandPlace, shiftBetween } from '@wellmorph/core/uv/hand/places';
import { boxOf, brought, type TileBox } from '@wellmorph/core/uv/hand/snap';
import type { Hand } from './hand';

/** Points of a path as it is drawn, v up: x, y each. */
export function pointsOf(path: string): Float64Array {
  const numbers = path.match(/-?\d+(?:\.\d+)?/g) ?? [];
  return Float64Array.from(numbers, (n, i) => (i % 2 ? 1 - Number(n) : Number(n)));
}

/** The same for what is drawn, v down. */
export function drawnMatrix(from: IslandPlace, to: IslandPlace): string {
  const at = brought(from, to);
  const down = (x: number, y: number): [number, number] => {
    const [u, v] = at([x, 1 - y]);
    return [u, 1 - v];
  };
  const [e, f] = down(0, 0);
  const [ax, ay] = down(1, 0);
  const [bx, by] = down(0, 1);
  return `matrix(${ax - e} ${ay - f} ${bx - e} ${by - f} ${e} ${f})`;
}

/** What the chosen island would be if it were put there. */
export interface Trial {
  place: IslandPlace;
  box: TileBox;
  gaps: Gaps | null;
}

/** The chosen island at a place: its box, and its gaps where the field is there. */
export function trialOf(hand: Hand, points: Float64Array, place: IslandPlace, padding: number): Trial | null {
  const { chosen, there } = hand;
  const from = chosen && there?.get(chosen.key);
  if (!chosen || !from) return null;
  return {
    place,
    box: boxOf(points, brought(from, place)),
    gaps: chosen.field ? gapsAt(chosen.field, from.at, shiftBetween(from, place), padding) : null,
  };
}

/** An angle as it is said: −180 … 180°. */
export const degreesOf = (radians: number): number => {
  const d = ((radians * 180) / Math.PI) % 360;
  return d > 180 ? d - 360 : d <= -180 ? d + 360 : d;
};

/** Dimension lines, gaps that are too small, and what is held to turn and scale it by: over the islands, v down. */
export function InHand({
  trial,
  perPixel,
  size,
  padding,
  colours,
  length,
  several,
  turned,
  onTurn,
  onScale,
}: {
  trial: Trial;
  /** Tile per screen pixel. */
  perPixel: number;
  size: number;
  padding: number;
  colours: { accent: string; over: string; paper: string; ink: string };
  length(mm: number): string;
  /** How many are in hand. */
  several: number;
  /** While it is being turned, by how much, radians. */
  turned: number | null;
  onTurn(e: React.PointerEvent<SVGElement>): void;
  onScale(e: React.PointerEvent<SVGElement>): void;
}) {
  const { box, gaps, place } = trial;
  const px = perPixel;
  const [x0, x1, y0, y1] = [box.x0, box.x1, 1 - box.y1, 1 - box.y0];
  const [w, h] = [x1 - x0, y1 - y0];
  const off = 12 * px;
  const said = (share: number): string => `${length(share / place.scale)} · ${figure(share * size, 0)} px`;
  const text = {
    fontSize: 11.5 * px,
    fill: colours.ink,
    stroke: colours.paper,
    strokeWidth: 4 * px,
    className: 'mono',
    style: { pointerEvents: 'none' as const, paintOrder: 'stroke' },
  };
  const line = { stroke: colours.ink, strokeWidth: px, fill: 'none' };
  const bad = gaps && (gaps.overlap > 0 || gaps.outside || gaps.gap < padding);
  const words = gaps
    ? gaps.overlap > 0
      ? `${figure(gaps.overlap, 0)} texels twice`
      : gaps.outside
        ? 'out of the tile'
        : gaps.gap < padding
          ? `${figure(gaps.gap, 0)} px apart, wanted ${figure(padding, 0)}`
          : ''
    : '';
  const density = 10 * size * place.scale;
  const hatch: string[] = [];
  for (let i = 0; gaps && i < gaps.close.length; i += 4)
    hatch.push(`M${gaps.close[i]} ${1 - gaps.close[i + 1]}L${gaps.close[i + 2]} ${1 - gaps.close[i + 3]}`);
  return (
    <g data-in-hand={words || 'free'}>
      {hatch.length > 0 && (
        <path d={hatch.join('')} stroke={colours.over} strokeWidth={1.2 * px} fill="none" style={{ pointerEvents: 'none' }} />
      )}
      <rect
        x={x0}
        y={y0}
        width={w}
        height={h}
        {...line}
        stroke={colours.accent}
        strokeDasharray={`${4 * px} ${3 * px}`}
        pointerEvents="none"
      />
      <path d={`M${x0} ${y1 + off / 2}V${y1 + off * 1.4}M${x1} ${y1 + off / 2}V${y1 + off * 1.4}M${x0} ${y1 + off}H${x1}`} {...line} />
      <text x={(x0 + x1) / 2} y={y1 + off + 13 * px} textAnchor="middle" {...text}>
        {said(w)}
      </text>
      <path d={`M${x1 + off / 2} ${y0}H${x1 + off * 1.4}M${x1 + off / 2} ${y1}H${x1 + off * 1.4}M${x1 + off} ${y0}V${y1}`} {...line} />
      <text textAnchor="middle" {...text} transform={`translate(${x1 + off + 13 * px} ${(y0 + y1) / 2}) rotate(-90)`} y={0}>
        {said(h)}
      </text>
      <text x={(x0 + x1) / 2} y={y0 - off - 16 * px} textAnchor="middle" {...text} fill={bad ? colours.over : colours.ink}>
        {words ||
          `${several > 1 ? `${several} islands` : `${figure(density, 1)} px/cm`}${turned !== null ? ` · ${figure(degreesOf(turned), 1)}°` : ''}`}
      </text>
      <path d={`M${(x0 + x1) / 2} ${y0}V${y0 - off}`} {...line} stroke={colours.accent} />
      <circle
        cx={(x0 + x1) / 2}
        cy={y0 - off}
        r={5 * px}
        fill={colours.paper}
        stroke={colours.accent}
        strokeWidth={1.5 * px}
        style={{ cursor: 'grab' }}
        data-handle="turn"
        onPointerDown={onTurn}
      >
        <title>Drag to turn; Shift for steps of 15°</title>
      </circle>
      <rect
        x={x1 - 4 * px}
        y={y0 - 4 * px}
        width={8 * px}
        height={8 * px}
        fill={colours.paper}
        stroke={colours.accent}
        strokeWidth={1.5 * px}
        style={{ cursor: 'nesw-resize' }}
        data-handle="scale"
        onPointerDown={onScale}
      >
        <title>Drag to change its density</title>
      </rect>
    </g>
  );
}
