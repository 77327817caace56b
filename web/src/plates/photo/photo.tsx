'use client';

import Box from '@mui/material/Box';
import { CORNERS } from '@wellmorph/core/photo/box';
import { type PhotoCamera, seenFrom } from '@wellmorph/core/photo/camera';
import type { Px } from '@wellmorph/core/photo/match';
import type { Corner, Photo, PhotoEdge } from '@wellmorph/core/photo/photo';
import { snapEdge } from '@wellmorph/core/photo/snapped';
import { figure } from '@wellmorph/core/units/lengths';
import { type KeyboardEvent, type PointerEvent, useEffect, useLayoutEffect, useRef, useState } from 'react';
import { newId } from '@/sheet/ids';
import { isTyping } from '@/sheet/typing';
import { usePalette } from '@/theme/theme';
import { useFrame } from '../use-frame';
import { Loupe } from './loupe';
import { DrawnEdge, Mark, nearestSegment } from './marks';
import { PhotoPyramid } from './pyramid';
import { boxLines, cornerName, horizonOf, wireOf } from './seen';

/** What a press on the photograph does: nothing but sliding it, an edge along an axis, or a corner of the box. */
export type PhotoTool = 'look' | 0 | 1 | 2 | 'corner';

/** What is known of the camera, to draw the piece as it sees it. */
export interface PhotoSight {
  camera: PhotoCamera | null;
  /** The box whose corners are marked, mm. */
  box: { min: readonly number[]; max: readonly number[] } | null;
  /** Of each edge, px. */
  edgesPx: readonly number[];
  pinsPx: readonly number[];
  /** Edges of the piece’s faces, 6 numbers each, mm. */
  wire: Float32Array | null;
}

/** What is held: a handle of an edge, a corner, or a new edge that is being drawn. */
type Held =
  | { kind: 'edge'; id: string; point: number; at: Px }
  | { kind: 'corner'; corner: Corner; at: Px }
  | { kind: 'new'; axis: 0 | 1 | 2; from: Px; at: Px };

const MARGIN = { x: 30, y: 100, lower: 24 };

/**
 * A photograph on the sheet, and what is drawn over it: edges along the piece’s axes with what they miss by, corners of a box, the piece as the
 * matched camera sees it. Wheel to come nearer, right-drag to slide.
 */
export function PhotoPlate({
  photo,
  sight,
  tool,
  corner,
  snaps,
  onChange,
  onUnreadable,
}: {
  photo: Photo;
  sight: PhotoSight;
  tool: PhotoTool;
  /** Which corner the corner tool puts next. */
  corner: Corner;
  /** Edges that are drawn are drawn to the picture’s own. */
  snaps: boolean;
  onChange(photo: Photo): void;
  onUnreadable(): void;
}) {
  const c = usePalette();
  const svg = useRef<SVGSVGElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const [pyramid, setPyramid] = useState<PhotoPyramid | null>(null);
  // Tiles come after the picture was first drawn from its whole: it is drawn once more then.
  const [, setTiles] = useState(0);
  const [held, setHeld] = useState<Held | null>(null);
  const [shownMs, setShownMs] = useState<number | null>(null);
  const { widthPx, heightPx } = photo;
  const frame = useFrame(svg, { x0: 0, x1: widthPx, y0: 0, y1: heightPx }, photo.id, MARGIN);
  useEffect(() => {
    let gone = false;
    let made: PhotoPyramid | null = null;
    const started = performance.now();
    PhotoPyramid.open(`/api/blobs/${photo.blob}`, () => !gone && setTiles((n) => n + 1)).then(
      (p) => {
        made = p;
        if (gone) return p.close();
        setPyramid(p);
        setShownMs(performance.now() - started);
      },
      () => !gone && onUnreadable(),
    );
    return () => {
      gone = true;
      setPyramid(null);
      made?.close();
    };
  }, [photo.blob]);

  // Photographs count downward, drawings upward.
  const at = ([x, y]: Px): [number, number] => frame.at([x, heightPx - y]);
  const from = (p: readonly [number, number]): Px => {
    const [x, y] = frame.from(p);
    return [x, heightPx - y];
  };
  const view = (() => {
    const [x, y] = from([0, 0]);
    return { x, y, scale: frame.scale };
  })();
  const { width, height } = frame.size;
  const wire = sight.wire && sight.camera ? { lines: sight.wire, camera: sight.camera } : null;
  useLayoutEffect(() => {
    const element = canvas.current;
    const context = element?.getContext('2d');
    if (!element || !context) return;
    const ratio = window.devicePixelRatio || 1;
    element.width = Math.round(width * ratio);
    element.height = Math.round(height * ratio);
    context.setTransform(ratio, 0, 0, ratio, 0, 0);
    context.clearRect(0, 0, width, height);
    pyramid?.draw(context, view, width, height);
    if (!wire) return;
    context.strokeStyle = c.primary.main;
    context.globalAlpha = 0.8;
    context.lineWidth = 1;
    context.beginPath();
    for (const [p, q] of wireOf(wire.lines, wire.camera)) {
      context.moveTo(...at(p));
      context.lineTo(...at(q));
    }
    context.stroke();
    context.globalAlpha = 1;
  });

  const whole = useRef(frame.whole);
  whole.current = frame.whole;
  useEffect(() => {
    const onKey = (e: globalThis.KeyboardEvent) => {
      if (e.key.toLowerCase() === 'w' && !e.ctrlKey && !e.metaKey && !isTyping(e.target)) whole.current();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);

  const grip = useRef<Held | null>(null);
  grip.current = held;
  useEffect(() => setHeld(null), [tool, photo.id]);

  const setEdge = (id: string, points: Px[]): Photo => ({ ...photo, edges: photo.edges.map((e) => (e.id === id ? { ...e, points } : e)) });
  const setPin = (which: Corner, where: Px): Photo => ({
    ...photo,
    pins: [...photo.pins.filter((p) => String(p.corner) !== String(which)), { corner: which, at: where }],
  });
  /** An edge as it is kept: drawn to the picture’s own, where that is wanted and there is one. */
  const drawn = (points: Px[]): Px[] => {
    if (!snaps || !pyramid || points.length !== 2) return points;
    return snapEdge(points[0], points[1], (a, b, reach) => pyramid.strip(a, b, reach))?.points ?? points;
  };
  const commit = (h: Held): void => {
    if (h.kind === 'new') {
      // A click is no edge.
      if (Math.hypot(h.at[0] - h.from[0], h.at[1] - h.from[1]) * frame.scale < 12) return;
      onChange({ ...photo, edges: [...photo.edges, { id: newId(), axis: h.axis, points: drawn([h.from, h.at]) }] });
    } else if (h.kind === 'edge') {
      const edge = photo.edges.find((e) => e.id === h.id);
      if (edge) onChange(setEdge(h.id, drawn(edge.points.map((p, i) => (i === h.point ? h.at : p)))));
    } else onChange(setPin(h.corner, h.at));
  };

  const onDown = (e: PointerEvent<SVGSVGElement>) => {
    const p = frame.place(e);
    if (e.button !== 0 || e.shiftKey || tool === 'look') {
      if (e.target !== e.currentTarget && e.button === 0) return;
      e.currentTarget.setPointerCapture(e.pointerId);
      frame.startPan(p);
      return;
    }
    if (e.target !== e.currentTarget) return;
    e.currentTarget.setPointerCapture(e.pointerId);
    const where = from(p);
    setHeld(tool === 'corner' ? { kind: 'corner', corner, at: where } : { kind: 'new', axis: tool, from: where, at: where });
  };
  const onMove = (e: PointerEvent<SVGSVGElement>) => {
    const p = frame.place(e);
    if (frame.pan(p)) return;
    if (grip.current) setHeld({ ...grip.current, at: from(p) });
  };
  const onUp = () => {
    frame.endPan();
    if (grip.current) commit(grip.current);
    setHeld(null);
  };
  const grab = (h: Held) => (e: PointerEvent<SVGElement>) => {
    if (e.button !== 0) return;
    e.stopPropagation();
    svg.current?.setPointerCapture(e.pointerId);
    setHeld(h);
  };
  /** Handles are moved by a pixel with the arrow keys, by ten with Shift, and taken away with Delete. */
  const byKeys = (now: Px, put: (to: Px) => void, remove: () => void) => (e: KeyboardEvent<SVGElement>) => {
    const step = e.shiftKey ? 10 : 1;
    const by = { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, -step], ArrowDown: [0, step] }[e.key];
    if (by) put([now[0] + by[0], now[1] + by[1]]);
    else if (e.key === 'Delete' || e.key === 'Backspace') remove();
    else return;
    e.preventDefault();
    e.stopPropagation();
  };

  const edgeNow = (e: PhotoEdge): Px[] =>
    held?.kind === 'edge' && held.id === e.id ? e.points.map((p, i) => (i === held.point ? held.at : p)) : e.points;
  const pinNow = (p: Photo['pins'][number]): Px => (held?.kind === 'corner' && String(held.corner) === String(p.corner) ? held.at : p.at);
  const { camera, box } = sight;
  const ghosts =
    camera && box
      ? CORNERS.filter((k) => !photo.pins.some((p) => String(p.corner) === String(k))).flatMap((k) => {
          const seen = seenFrom(camera, [0, 1, 2].map((i) => (k[i] ? box.max[i] : box.min[i])) as unknown as [number, number, number]);
          return seen ? [{ corner: k, at: seen }] : [];
        })
      : [];
  const horizon = camera && horizonOf(camera);
  const line = (points: readonly Px[]) => points.map((p) => at(p).join(',')).join(' ');
  const loupe = held && pyramid ? held.at : null;
  // Edges often begin where others end: while some are drawn, nothing else is taken hold of.
  const [byEdges, byCorners] = [tool === 'look', tool === 'look' || tool === 'corner'].map((on) => (on ? undefined : ('none' as const)));
  return (
    <Box sx={{ position: 'absolute', inset: 0, overflow: 'hidden', bgcolor: 'sheet.plate' }}>
      <canvas ref={canvas} role="img" aria-label={photo.name} style={{ position: 'absolute', inset: 0, width: '100%', height: '100%' }} />
      <svg
        ref={svg}
        role="group"
        aria-label={`${photo.name}: what is drawn over it`}
        data-shown-ms={shownMs === null ? undefined : Math.round(shownMs)}
        data-view={`${view.x} ${view.y} ${view.scale}`}
        style={{
          position: 'absolute',
          inset: 0,
          width: '100%',
          height: '100%',
          cursor: tool === 'look' ? 'grab' : 'crosshair',
          touchAction: 'none',
          userSelect: 'none',
        }}
        onPointerDown={onDown}
        onPointerMove={onMove}
        onPointerUp={onUp}
        onPointerCancel={() => {
          frame.endPan();
          setHeld(null);
        }}
        onContextMenu={(e) => e.preventDefault()}
        onWheel={(e) => frame.nearer(frame.place(e), e.deltaY)}
      >
        {horizon && (
          <line
            x1={at(horizon[0])[0]}
            y1={at(horizon[0])[1]}
            x2={at(horizon[1])[0]}
            y2={at(horizon[1])[1]}
            stroke={c.sheet.paper}
            strokeDasharray="12 6"
            strokeWidth={1}
            pointerEvents="none"
          />
        )}
        {camera &&
          box &&
          boxLines(box, camera).map(({ ends, behind }, i) => (
            <line
              key={i}
              x1={at(ends[0])[0]}
              y1={at(ends[0])[1]}
              x2={at(ends[1])[0]}
              y2={at(ends[1])[1]}
              stroke={c.primary.main}
              strokeWidth={behind ? 1 : 2}
              strokeDasharray={behind ? '3 5' : undefined}
              pointerEvents="none"
            />
          ))}
        {photo.edges.map((e, number) => (
          <DrawnEdge
            key={e.id}
            axis={e.axis}
            number={number + 1}
            places={edgeNow(e).map(at)}
            off={held ? undefined : sight.edgesPx[number]}
            pointerEvents={byEdges}
            onBetween={(event) => {
              const where = from(frame.place(event));
              const i = nearestSegment(e.points, where);
              onChange(setEdge(e.id, [...e.points.slice(0, i + 1), where, ...e.points.slice(i + 1)]));
            }}
            onGrab={(i) => grab({ kind: 'edge', id: e.id, point: i, at: e.points[i] })}
            onKey={(i) =>
              byKeys(
                e.points[i],
                (to) => onChange(setEdge(e.id, e.points.with(i, to))),
                () =>
                  onChange(
                    e.points.length > 2
                      ? setEdge(e.id, e.points.toSpliced(i, 1))
                      : { ...photo, edges: photo.edges.filter((x) => x.id !== e.id) },
                  ),
              )
            }
          />
        ))}
        {ghosts.map(({ corner: k, at: p }) => (
          <Mark
            key={String(k)}
            place={held?.kind === 'corner' && String(held.corner) === String(k) ? at(held.at) : at(p)}
            label={`${cornerName(k)}, as it follows`}
            colour={c.primary.main}
            hollow
            pointerEvents={byCorners}
            onPointerDown={grab({ kind: 'corner', corner: k, at: p })}
            onKeyDown={byKeys(
              p,
              (to) => onChange(setPin(k, to)),
              () => {},
            )}
          />
        ))}
        {photo.pins.map((p, i) => (
          <Mark
            key={String(p.corner)}
            place={at(pinNow(p))}
            label={`${cornerName(p.corner)}${sight.pinsPx[i] !== undefined ? `, ${figure(sight.pinsPx[i], 1)} px off` : ''}`}
            colour={c.primary.main}
            ink={c.sheet.paper}
            pointerEvents={byCorners}
            onPointerDown={grab({ kind: 'corner', corner: p.corner, at: p.at })}
            onKeyDown={byKeys(
              p.at,
              (to) => onChange(setPin(p.corner, to)),
              () => onChange({ ...photo, pins: photo.pins.filter((x) => x !== p) }),
            )}
          />
        ))}
        {held?.kind === 'new' && <polyline points={line([held.from, held.at])} fill="none" stroke={c.sheet.ink} strokeWidth={1.6} />}
        {held?.kind === 'corner' && !photo.pins.some((p) => String(p.corner) === String(held.corner)) && ghosts.length === 0 && (
          <Mark place={at(held.at)} label="new corner" colour={c.primary.main} hollow />
        )}
      </svg>
      {loupe && pyramid && <Loupe pyramid={pyramid} at={loupe} />}
      {!pyramid && (
        <Box sx={{ position: 'absolute', inset: 0, display: 'grid', placeItems: 'center', color: 'text.secondary', pointerEvents: 'none' }}>
          Unpacking the photograph …
        </Box>
      )}
    </Box>
  );
}
