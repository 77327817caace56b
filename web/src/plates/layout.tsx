'use client';

import Box from '@mui/material/Box';
import type { TileRect } from '@wellmorph/core/bake/window';
import { type IslandPlace, type Shift, shifted, UNMOVED } from '@wellmorph/core/uv/hand/places';
import { boxOf, brought, middleOf, roundBoth, snapped, snappedTurn, type TileBox } from '@wellmorph/core/uv/hand/snap';
import { memo, useEffect, useMemo, useRef, useState } from 'react';
import { useLengths } from '@/session/context';
import { usePalette } from '@/theme/theme';
import type { IslandPath } from '@/workers/protocol';
import { type Hand, keyOf } from './hand';
import { drawnMatrix, InHand, pointsOf, trialOf } from './layout-hand';

/** How far a box may be off what it snaps to, screen pixels. */
const CATCH = 7;
/** A drag is one from here on, screen pixels. */
const DRAG = 4;

/** The rectangle between two places of the tile (y up), kept within it, as it is drawn (y down). */
function rectOf(a: readonly [number, number], b: readonly [number, number]): TileRect {
  const inside = (v: number) => Math.min(1, Math.max(0, v));
  const [x0, x1] = [inside(Math.min(a[0], b[0])), inside(Math.max(a[0], b[0]))];
  const [y0, y1] = [inside(1 - Math.max(a[1], b[1])), inside(1 - Math.min(a[1], b[1]))];
  return { x: x0, y: y0, width: x1 - x0, height: y1 - y0 };
}

/** The chosen one last, as it is drawn over the others. */
const inOrder = (islands: readonly IslandPath[], key: string | undefined): readonly IslandPath[] =>
  key === undefined ? islands : [...islands].sort((a, b) => Number(keyOf(a) === key) - Number(keyOf(b) === key));

/** What a hand needs to know of the layout it changes. */
interface HandOn {
  hand: Hand;
  /** Texture size and empty texels wanted, px. */
  size: number;
  padding: number;
}

/** A rectangle of the tile that is looked at by itself. */
export interface Frame {
  at: TileRect | null;
  /** What lies in it, and where. */
  shown: { picture: string; at: TileRect } | null;
  onDraw(at: TileRect): void;
}

interface Grip {
  what: 'paper' | 'frame' | 'move' | 'turn' | 'scale';
  x: number;
  y: number;
  moved: boolean;
  view: { x: number; y: number; size: number };
}

/** The layout as it will be painted: islands in the tile, the chosen one marked. Wheel to come nearer, drag to slide. */
export const LayoutPlate = memo(function LayoutPlate({
  islands,
  selected,
  onPick,
  picture,
  by,
  frame,
  onTile,
}: {
  islands: readonly IslandPath[];
  selected: { part: string; island: number } | null;
  onPick(part: string, island: number): void;
  picture?: string;
  /** Islands are moved by hand. */
  by?: HandOn;
  /** A rectangle of the tile is drawn instead of sliding the paper. */
  frame?: Frame;
  /** A click on an island with its place in the tile, v up; takes the place of `onPick`. */
  onTile?(part: string, island: number, tile: [number, number]): void;
}) {
  const c = usePalette();
  const { length } = useLengths();
  const [view, setView] = useState({ x: -0.03, y: -0.03, size: 1.06 });
  const grip = useRef<Grip | null>(null);
  const box = useRef<SVGSVGElement>(null);
  const unit = () => view.size / Math.min(box.current?.clientWidth || 1, box.current?.clientHeight || 1);
  const [drawing, setDrawing] = useState<TileRect | null>(null);
  const hand = by?.hand;
  const chosen = hand?.chosen ?? null;
  /** The chosen island as it is being moved. */
  const [moving, setMoving] = useState<{ key: string; about: readonly [number, number]; by: Shift; what: Grip['what'] } | null>(null);
  const held = moving && moving.key === chosen?.key ? moving : null;
  const chosenPath = chosen ? islands.find((i) => keyOf(i) === chosen.key)?.path : undefined;
  const points = useMemo(() => (chosenPath ? pointsOf(chosenPath) : null), [chosenPath]);
  const target = chosen && (held ? shifted(chosen.place, held.about, held.by) : chosen.place);
  const placeOf = (key: string): IslandPlace | undefined => hand?.moved.get(key) ?? hand?.there?.get(key);
  const inHand = (key: string): boolean => chosen?.key === key || (hand?.also.has(key) ?? false);
  /** Where one of those in hand is while they are moved. */
  const heldAt = (key: string): IslandPlace | undefined => {
    const place = placeOf(key);
    return place && held ? shifted(place, held.about, held.by) : place;
  };
  const outlines = useRef(new WeakMap<IslandPath, Float64Array>());
  /** Points of an island, read once. */
  const outlineOf = (i: IslandPath): Float64Array => {
    const made = outlines.current.get(i) ?? pointsOf(i.path);
    outlines.current.set(i, made);
    return made;
  };
  /** The box round all that is in hand, each where `at` says. */
  const groupBox = (at: (key: string) => IslandPlace | undefined): TileBox =>
    islands
      .filter((i) => inHand(keyOf(i)))
      .map((i) => {
        const [from, to] = [hand?.there?.get(keyOf(i)), at(keyOf(i))];
        return boxOf(outlineOf(i), from && to ? brought(from, to) : undefined);
      })
      .reduce(roundBoth);
  const several = (hand?.also.size ?? 0) > 0;
  const single = hand && points && target && by ? trialOf(hand, points, target, by.padding) : null;
  // Of several only the box is said: what lies round one of them is not what lies round all.
  const trial = single && several ? { ...single, box: groupBox(heldAt), gaps: null } : single;
  const ended = () => {
    grip.current = null;
    setMoving(null);
  };
  const letGo = useRef<(() => void) | undefined>(undefined);
  letGo.current = hand?.only;
  const handOn = hand !== undefined;
  useEffect(() => {
    if (!handOn) return;
    const key = (e: KeyboardEvent) => {
      if (e.key !== 'Escape') return;
      if (!grip.current) letGo.current?.();
      grip.current = null;
      setMoving(null);
    };
    window.addEventListener('keydown', key);
    return () => window.removeEventListener('keydown', key);
  }, [handOn]);

  /** Boxes of the other islands, where they lie now; made when something is first moved beside them. */
  const others = useMemo((): (() => TileBox[]) => {
    let made: TileBox[] | null = null;
    return () => {
      made ??= islands.flatMap((i) => {
        const from = hand?.there?.get(keyOf(i));
        const to = hand?.moved.get(keyOf(i));
        if (keyOf(i) === chosen?.key || hand?.also.has(keyOf(i))) return [];
        return boxOf(pointsOf(i.path), from && to ? brought(from, to) : undefined);
      });
      return made;
    };
  }, [islands, hand?.there, hand?.moved, hand?.also, chosen?.key]);

  const tileAt = (e: { clientX: number; clientY: number }): [number, number] => {
    const r = box.current?.getBoundingClientRect();
    if (!r) return [0, 0];
    const u = unit();
    const [cx, cy] = [view.x + view.size / 2, view.y + view.size / 2];
    return [cx + (e.clientX - r.left - r.width / 2) * u, 1 - (cy + (e.clientY - r.top - r.height / 2) * u)];
  };
  const take = (what: Grip['what'], e: React.PointerEvent) => {
    if (e.button !== 0) return;
    grip.current = { what, x: e.clientX, y: e.clientY, moved: false, view };
    if (what !== 'paper') e.stopPropagation();
    if (what !== 'paper') box.current?.setPointerCapture(e.pointerId);
    if (what === 'frame') setDrawing(null);
  };
  const drag = (e: React.PointerEvent) => {
    const d = grip.current;
    if (!d || e.buttons === 0) return;
    if (Math.abs(e.clientX - d.x) + Math.abs(e.clientY - d.y) > DRAG) d.moved = true;
    if (!d.moved) return;
    if (d.what === 'paper')
      return setView({ ...d.view, x: d.view.x - (e.clientX - d.x) * unit(), y: d.view.y - (e.clientY - d.y) * unit() });
    if (d.what === 'frame') return setDrawing(rectOf(tileAt({ clientX: d.x, clientY: d.y }), tileAt(e)));
    const from = chosen && hand?.there?.get(chosen.key);
    if (!chosen || !from || !points || !by) return;
    const home = several ? groupBox(placeOf) : boxOf(points, brought(from, chosen.place));
    const about = middleOf(home);
    const [a, b] = [tileAt({ clientX: d.x, clientY: d.y }), tileAt(e)];
    const shift = (): Shift => {
      if (d.what === 'turn') {
        const angle = (p: readonly [number, number]): number => Math.atan2(p[1] - about[1], p[0] - about[0]);
        return { ...UNMOVED, turn: snappedTurn(angle(b) - angle(a), e.shiftKey) };
      }
      if (d.what === 'scale') {
        const far = (p: readonly [number, number]): number => Math.hypot(p[0] - about[0], p[1] - about[1]);
        return { ...UNMOVED, scale: Math.min(20, Math.max(0.05, far(b) / (far(a) || 1))) };
      }
      const near = e.altKey ? 0 : CATCH * unit();
      const [x, y] = snapped(home, b[0] - a[0], b[1] - a[1], others(), by.size, by.padding, near);
      return { ...UNMOVED, x, y };
    };
    setMoving({ key: chosen.key, about, by: shift(), what: d.what });
  };
  const drop = () => {
    if (grip.current?.what === 'frame' && drawing) frame?.onDraw(drawing);
    setDrawing(null);
    if (held && grip.current?.moved) hand?.shift(held.about, held.by);
    if (grip.current?.what !== 'paper') ended();
  };
  const nudge = (e: React.KeyboardEvent) => {
    if (!hand || !by || e.ctrlKey || e.metaKey || e.altKey) return;
    const keys = [...(hand.there?.keys() ?? [])];
    const step = (e.shiftKey ? by.padding || 8 : 1) / by.size;
    const ways: Record<string, [number, number]> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] };
    const turns: Record<string, number> = { ',': 15, '.': -15, '<': 90, '>': -90, ';': 90, ':': -90 };
    const done = (): boolean => {
      if (e.key === 'n' || e.key === 'N') {
        const at = chosen ? keys.indexOf(chosen.key) : -1;
        const next = keys[(at + (e.shiftKey ? keys.length - 1 : 1)) % keys.length];
        const found = islands.find((i) => keyOf(i) === next);
        if (found) hand.pick(found.part, found.island);
        return true;
      }
      if (e.key === '+' && chosen) {
        // The next one too.
        const next = keys[(keys.indexOf(chosen.key) + 1) % keys.length];
        const found = islands.find((i) => keyOf(i) === next);
        if (found) hand.pick(found.part, found.island, true);
        return true;
      }
      // Also in the moment in which a layout takes the place of another one.
      if (ways[e.key] && !chosen) hand.shift([0, 0], { ...UNMOVED, x: ways[e.key][0] * step, y: ways[e.key][1] * step });
      else if (!chosen || !trial) return false;
      else if (ways[e.key]) hand.shift(middleOf(trial.box), { ...UNMOVED, x: ways[e.key][0] * step, y: ways[e.key][1] * step });
      else if (turns[e.key] !== undefined) hand.shift(middleOf(trial.box), { ...UNMOVED, turn: (turns[e.key] * Math.PI) / 180 });
      else if (e.key === 'k') hand.lock(!hand.locked.has(chosen.key));
      else if (e.key === 'Backspace') hand.release();
      else return false;
      return true;
    };
    if (done()) e.preventDefault();
  };
  const placed = (key: string): IslandPlace | undefined => (inHand(key) && held ? heldAt(key) : hand?.moved.get(key));
  return (
    <Box
      sx={{
        position: 'absolute',
        inset: '50px 16px 34px',
        display: 'grid',
        placeItems: 'center',
        '& svg:focus': { outline: 'none' },
        '& svg:focus-visible': { outline: '1px solid', outlineColor: 'primary.main' },
      }}
      data-plate="layout"
    >
      <svg
        ref={box}
        role="img"
        aria-label={
          hand
            ? `Layout of ${islands.length} islands; N chooses the next, + that one too, arrows move them`
            : `Layout of ${islands.length} islands`
        }
        viewBox={`${view.x} ${view.y} ${view.size} ${view.size}`}
        width="100%"
        height="100%"
        style={{ touchAction: 'none', userSelect: 'none' }}
        tabIndex={hand ? 0 : undefined}
        onKeyDown={hand ? nudge : undefined}
        onWheel={(e) => {
          const size = Math.min(1.4, Math.max(0.05, view.size * 1.0012 ** e.deltaY));
          const k = (view.size - size) / 2;
          setView({ x: view.x + k, y: view.y + k, size });
        }}
        onPointerDown={(e) => take(frame ? 'frame' : 'paper', e)}
        onPointerMove={drag}
        onPointerUp={drop}
        onPointerCancel={ended}
      >
        <rect x="0" y="0" width="1" height="1" fill={c.background.paper} stroke={c.sheet.muted} strokeWidth={0.002 * view.size} />
        {picture && (
          <image href={picture} x="0" y="0" width="1" height="1" style={{ imageRendering: view.size < 0.4 ? 'pixelated' : 'auto' }} />
        )}
        {inOrder(islands, chosen?.key).map((i) => {
          const key = keyOf(i);
          const mine = hand ? chosen?.key === key : selected?.part === i.part && selected.island === i.island;
          const from = hand?.there?.get(key);
          const to = placed(key);
          const fast = hand?.locked.has(key);
          const along = hand?.also.has(key);
          return (
            <path
              key={key}
              d={i.path}
              transform={from && to && from !== to ? drawnMatrix(from, to) : undefined}
              fill={mine || along ? c.primary.main : picture ? 'transparent' : c.sheet.tint}
              fillOpacity={mine ? 0.6 : along ? 0.4 : 1}
              stroke={mine || along ? c.primary.main : fast ? c.text.primary : picture ? 'none' : c.sheet.muted}
              strokeWidth={(mine || fast ? 0.0025 : 0.0008) * view.size}
              style={{ cursor: hand ? 'move' : 'pointer' }}
              data-island={key}
              data-locked={fast || undefined}
              data-along={along || undefined}
              onPointerDown={
                hand
                  ? (e) => {
                      hand.pick(i.part, i.island, e.shiftKey);
                      if (!e.shiftKey) take('move', e);
                      else e.stopPropagation();
                      box.current?.focus({ preventScroll: true });
                    }
                  : undefined
              }
              onClick={
                hand || frame
                  ? undefined
                  : (e) => {
                      if (grip.current?.moved) return;
                      if (onTile) onTile(i.part, i.island, tileAt(e));
                      else onPick(i.part, i.island);
                    }
              }
            />
          );
        })}
        {frame?.shown && !drawing && (
          <image
            href={frame.shown.picture}
            {...frame.shown.at}
            preserveAspectRatio="none"
            style={{ imageRendering: view.size < 0.4 ? 'pixelated' : 'auto', pointerEvents: 'none' }}
          />
        )}
        {frame && (drawing ?? frame.at) && (
          <rect
            {...(drawing ?? frame.at)}
            fill="none"
            stroke={c.primary.main}
            strokeWidth={0.004 * view.size}
            data-frame
            style={{ pointerEvents: 'none' }}
          />
        )}
        {trial && by && (
          <InHand
            trial={trial}
            perPixel={unit()}
            size={by.size}
            padding={by.padding}
            colours={{ accent: c.primary.main, over: c.error.main, paper: c.background.paper, ink: c.text.primary }}
            length={(mm) => length(mm, 1)}
            several={(hand?.also.size ?? 0) + 1}
            turned={held?.what === 'turn' ? held.by.turn : null}
            onTurn={(e) => take('turn', e)}
            onScale={(e) => take('scale', e)}
          />
        )}
      </svg>
    </Box>
  );
});
