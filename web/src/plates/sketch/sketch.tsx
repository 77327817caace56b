'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import type { Reference } from '@wellmorph/core/form/reference';
import { beginFeature, featuresFor } from '@wellmorph/core/form/sketch/begin';
import { AXIS } from '@wellmorph/core/form/sketch/convert';
import { extended, nearestCurve, trimmed } from '@wellmorph/core/form/sketch/cutting';
import { withFeatures } from '@wellmorph/core/form/sketch/features';
import {
  arranged,
  CONSTRAINTS,
  type ConstraintKind,
  FEATURES,
  type FeatureKind,
  type Sketch,
  without,
} from '@wellmorph/core/form/sketch/sketch';
import { solveSketch } from '@wellmorph/core/form/sketch/solve';
import { parseLength } from '@wellmorph/core/units/formula';
import { useEffect, useMemo, useRef, useState } from 'react';
import { useLengths } from '@/session/context';
import { sentence } from '@/session/session';
import { StatusMark } from '@/sheet/marks';
import { usePalette } from '@/theme/theme';
import { useFrame } from '../use-frame';
import { Behind, Curve, Figures, Filled, Pencil, Rulers } from './drawn';
import { arcThrough, constrain, type Snap, settledPlaces, snapTo, withCurve, withFigure, withHint, withPoint } from './edit';
import { extentOf, isCentre, isMade, replaced } from './shown';
import { TypedLength } from './typed';

type Tool = 'move' | 'line' | 'arc' | 'circle' | 'trim' | 'extend';
const TOOLS: [Tool, string][] = [
  ['move', 'Move'],
  ['line', 'Line'],
  ['arc', 'Arc'],
  ['circle', 'Circle'],
  ['trim', 'Trim'],
  ['extend', 'Extend'],
];
const HINTS: Record<Tool, string> = {
  move: 'drag · click to choose, Shift for more · Delete',
  line: 'click from corner to corner, or type a length · Esc ends the line',
  arc: 'click both ends, then where it should pass',
  circle: 'click its middle, then its rim, or type its radius',
  trim: 'click what should go, up to the next crossing',
  extend: 'click near the end that should run on to the next curve',
};

export interface SketchEditorProps {
  /** Under which it is remembered what part of it is in view. */
  id: string;
  name: string;
  sketch: Sketch;
  /** Across is the radius; the axis stands at 0. */
  turned: boolean;
  /** A picture drawn behind it, in true mm. */
  behind?: Reference;
  /** Constraints whose figure follows a formula: id → formula. */
  following: Readonly<Record<string, string>>;
  chosen: readonly string[];
  onChoose(ids: readonly string[]): void;
  onChange(next: Sketch): void;
}

/** A drawing of points, lines, arcs and circles with constraints: drawn, dragged as far as they let it, and said how far it is determined. */
export function SketchEditor({ id, name, sketch, turned, behind, following, chosen, onChoose, onChange }: SketchEditorProps) {
  const c = usePalette();
  const lengths = useLengths();
  const svg = useRef<SVGSVGElement>(null);
  const [tool, setTool] = useState<Tool>('move');
  const [guide, setGuide] = useState(false);
  const [drawing, setDrawing] = useState<string[]>([]);
  const [hand, setHand] = useState<Snap | null>(null);
  const [drag, setDrag] = useState<{ point: string; x: number; y: number } | null>(null);
  const [wrong, setWrong] = useState<string | null>(null);
  const [typed, setTyped] = useState<string | null>(null);
  const extent = useMemo(() => extentOf(sketch, turned), [sketch, turned]);
  const frame = useFrame(svg, extent, id);
  // A few dozen equations take a millisecond or two: they may be solved where they are drawn.
  const solved = useMemo(() => solveSketch(sketch, drag ?? undefined), [sketch, drag]);
  const shown = solved.sketch;
  const { at } = frame;
  // What the kept features make of it; what stands in their way is said.
  const made = useMemo(() => {
    try {
      return { sketch: withFeatures(shown, name), wrong: null };
    } catch (error) {
      return { sketch: shown, wrong: sentence(error) };
    }
  }, [shown, name]);
  useEffect(() => {
    setDrawing([]);
    setTyped(null);
    setWrong(null);
  }, [id, tool]);

  const from = shown.points.find((p) => p.id === drawing[drawing.length - 1]);
  const landing = (e: { clientX: number; clientY: number }): Snap =>
    snapTo(shown, frame.from(frame.place(e)), frame.scale, turned, tool === 'line' ? from : undefined);
  const change = (next: Sketch) => {
    setWrong(null);
    onChange(settledPlaces(next, solveSketch(next)));
  };
  const attempt = (make: () => Sketch) => {
    try {
      change(make());
    } catch (error) {
      setWrong(sentence(error));
    }
  };
  const cut = (e: React.PointerEvent) => {
    const place = frame.from(frame.place(e));
    const base = settledPlaces(sketch, solved);
    const under = nearestCurve(base, place, 9 / frame.scale);
    if (!under) return setWrong('There is no curve under the hand.');
    attempt(() => (tool === 'trim' ? trimmed : extended)(base, under, place));
  };
  /** Ends the line in the direction of the hand, or the circle, at what was typed. */
  const commitTyped = () => {
    const mm = ((): number => {
      try {
        return parseLength(typed ?? '', lengths.unit);
      } catch {
        return Number.NaN;
      }
    })();
    const start = shown.points.find((p) => p.id === drawing[0]);
    if (!(mm > 0.001 && mm < 1e5) || !start) return setWrong(`“${typed}” is no length.`);
    setTyped(null);
    svg.current?.focus();
    const base = settledPlaces(sketch, solved);
    const mark = guide ? { guide: true } : {};
    if (tool === 'circle') {
      const round = withCurve(base, { kind: 'circle', centre: drawing[0], radius: mm, ...mark });
      change(withFigure(round.sketch, 'radius', round.id, mm));
      return setDrawing([]);
    }
    const [dx, dy] = hand ? [hand.at[0] - start.x, hand.at[1] - start.y] : [1, 0];
    const far = Math.hypot(dx, dy);
    const way: [number, number] = far > 1e-9 ? [dx / far, dy / far] : [1, 0];
    const snap: Snap = { at: [start.x + way[0] * mm, start.y + way[1] * mm], ...(hand?.line && { line: hand.line }) };
    const point = withPoint(base, snap);
    const line = withCurve(point.sketch, { kind: 'line', a: drawing[0], b: point.id, ...mark });
    change(withFigure(withHint(line.sketch, line.id, snap), 'distance', line.id, mm));
    setDrawing([point.id]);
  };
  const typing = (tool === 'line' || tool === 'circle') && drawing.length === 1;
  const draw = (e: React.PointerEvent) => {
    if (tool === 'trim' || tool === 'extend') return cut(e);
    const snap = landing(e);
    const base = settledPlaces(sketch, solved);
    const mark = guide ? { guide: true } : {};
    if (tool === 'circle' && drawing.length === 1) {
      const m = base.points.find((p) => p.id === drawing[0]);
      const radius = m ? Math.hypot(snap.at[0] - m.x, snap.at[1] - m.y) : 0;
      if (radius > 0.01)
        change(withCurve(base, { kind: 'circle', centre: drawing[0], radius: Math.round(radius * 100) / 100, ...mark }).sketch);
      return setDrawing([]);
    }
    if (tool === 'arc' && drawing.length === 2) {
      const [a, b] = drawing.map((p) => base.points.find((q) => q.id === p));
      const arc = a && b && arcThrough([a.x, a.y], [b.x, b.y], snap.at);
      if (!arc) return setWrong('Those three places lie on one line; click beside it.');
      const centre = withPoint(base, { at: arc.centre });
      change(withCurve(centre.sketch, { kind: 'arc', a: drawing[0], b: drawing[1], centre: centre.id, turn: arc.turn, ...mark }).sketch);
      return setDrawing([]);
    }
    const point = withPoint(base, snap);
    if (tool === 'line' && drawing.length === 1 && point.id !== drawing[0]) {
      const line = withCurve(point.sketch, { kind: 'line', a: drawing[0], b: point.id, ...mark });
      change(withHint(line.sketch, line.id, snap));
      // A line that comes back to a point that was there ends.
      return setDrawing(snap.point ? [] : [point.id]);
    }
    if (point.sketch !== base) change(point.sketch);
    setDrawing(drawing.includes(point.id) ? drawing : [...drawing, point.id]);
  };
  const choose = (what: string, more: boolean) =>
    onChoose(more ? (chosen.includes(what) ? chosen.filter((x) => x !== what) : [...chosen, what]) : [what]);
  const say = (kind: ConstraintKind) => {
    const made = constrain(sketch, kind, chosen);
    if ('wrong' in made) return setWrong(made.wrong);
    setWrong(null);
    onChange(made.sketch);
    onChoose([made.id]);
  };
  const nail = (point: string, down: boolean) => {
    const base = settledPlaces(sketch, solved);
    change({
      ...base,
      points: base.points.map(({ fixed, ...p }) => ((p.id === point ? down : fixed) ? { ...p, fixed: true } : p)),
    });
  };
  const remove = () => {
    const kept = chosen.filter((x) => x !== AXIS.line && x !== AXIS.foot && x !== AXIS.top);
    if (kept.length > 0) change(without(sketch, kept));
    onChoose([]);
  };
  const begin = (kind: FeatureKind) => {
    try {
      const next = beginFeature(settledPlaces(sketch, solved), kind, chosen);
      change(next.sketch);
      onChoose([next.id]);
    } catch (error) {
      setWrong(sentence(error));
    }
  };
  const onKey = (e: React.KeyboardEvent) => {
    if (typing && /^[0-9.,]$/.test(e.key) && !e.ctrlKey && !e.metaKey) setTyped(e.key);
    else if (e.key === 'Escape') {
      setDrawing([]);
      if (drawing.length === 0) {
        setTool('move');
        onChoose([]);
      }
    } else if (e.key === 'Delete' || e.key === 'Backspace') remove();
    else if (e.key.toLowerCase() === 'w' && !e.ctrlKey && !e.metaKey) frame.whole();
    else return;
    e.preventDefault();
    e.stopPropagation();
  };
  const nailed = chosen.length === 1 ? sketch.points.find((p) => p.id === chosen[0]) : undefined;
  const loose = new Set(solved.loose);
  const clashing = new Set(solved.conflicts.flatMap((k) => [k.constraint, ...k.because]));
  const involved = new Set(
    sketch.constraints.filter((k) => chosen.includes(k.id)).flatMap((k) => [k.one, k.two, k.three].filter((x) => x !== undefined)),
  );
  const features = tool === 'move' ? featuresFor(made.sketch, chosen) : [];
  const kinds = (Object.keys(CONSTRAINTS) as ConstraintKind[]).filter((k) => arranged(sketch, k, chosen));
  return (
    <Box sx={{ position: 'absolute', inset: 0 }} data-plate="sketch">
      <svg
        ref={svg}
        role="application"
        aria-label={`Sketch of ${name}: ${solved.free === 0 ? 'fully determined' : `${solved.free} ways to move`}`}
        tabIndex={0}
        width="100%"
        height="100%"
        style={{ touchAction: 'none', outline: 'none', cursor: tool === 'move' ? 'default' : 'crosshair' }}
        onKeyDown={onKey}
        onWheel={(e) => frame.nearer(frame.place(e), e.deltaY)}
        onPointerDown={(e) => {
          svg.current?.focus();
          if (tool !== 'move') return draw(e);
          if (e.target === svg.current) {
            onChoose([]);
            frame.startPan(frame.place(e));
            e.currentTarget.setPointerCapture(e.pointerId);
          }
        }}
        onPointerMove={(e) => {
          const place = frame.place(e);
          if (drag) {
            const [x, y] = frame.from(place);
            setDrag({ point: drag.point, x, y });
          } else if (!frame.pan(place) && tool !== 'move') setHand(landing(e));
        }}
        onPointerUp={() => {
          frame.endPan();
          if (drag) {
            onChange(settledPlaces(sketch, solved));
            setDrag(null);
          }
        }}
        onPointerLeave={() => setHand(null)}
      >
        {behind && <Behind picture={behind} frame={frame} />}
        <Rulers frame={frame} turned={turned} />
        <Filled sketch={made.sketch} frame={frame} />
        {shown.curves
          .filter((k) => !(turned && k.id === AXIS.line))
          .map((k) => (
            <Curve
              key={k.id}
              sketch={shown}
              curve={replaced({ ...made.sketch, constraints: shown.constraints }, k) ? { ...k, guide: true } : k}
              frame={frame}
              state={clashing.has(k.id) ? 'wrong' : chosen.includes(k.id) ? 'chosen' : involved.has(k.id) ? 'involved' : 'plain'}
              onPick={tool === 'move' ? (more) => choose(k.id, more) : undefined}
            />
          ))}
        {made.sketch.curves
          .filter((k) => !k.guide && isMade(shown, k))
          .map((k) => (
            <Curve
              key={`made ${k.id}`}
              sketch={made.sketch}
              curve={k}
              frame={frame}
              state={chosen.includes(k.id) ? 'chosen' : 'made'}
              under={shown.curves.some((x) => x.id === k.id)}
              onPick={tool === 'move' ? (more) => choose(k.id, more) : undefined}
            />
          ))}
        {turned && (
          <line
            x1={at([0, 0])[0]}
            x2={at([0, 0])[0]}
            y1={0}
            y2={frame.size.height}
            stroke={chosen.includes(AXIS.line) ? c.primary.main : c.sheet.muted}
            strokeDasharray="10 3 2 3"
            strokeWidth={chosen.includes(AXIS.line) ? 2 : 1}
          />
        )}
        {turned && tool === 'move' && (
          <line
            x1={at([0, 0])[0]}
            x2={at([0, 0])[0]}
            y1={0}
            y2={frame.size.height}
            stroke="transparent"
            strokeWidth={9}
            data-curve={AXIS.line}
            style={{ cursor: 'pointer' }}
            onPointerDown={(e) => {
              e.stopPropagation();
              svg.current?.focus();
              choose(AXIS.line, e.shiftKey);
            }}
          />
        )}
        <Figures sketch={shown} frame={frame} following={following} chosen={chosen} onPick={(k) => choose(k, false)} />
        {shown.points
          .filter((p) => !(turned && (p.id === AXIS.foot || p.id === AXIS.top)))
          .map((p) => {
            const [x, y] = at([p.x, p.y]);
            const on = chosen.includes(p.id) || involved.has(p.id);
            const size = isCentre(shown, p.id) ? 3 : 4.5;
            return (
              <rect
                key={p.id}
                x={x - size}
                y={y - size}
                width={2 * size}
                height={2 * size}
                rx={p.fixed ? 0 : size}
                fill={on ? c.primary.main : loose.has(p.id) ? c.background.paper : c.text.primary}
                stroke={on ? c.primary.main : c.text.primary}
                strokeWidth="1.4"
                style={{ cursor: tool === 'move' ? 'move' : 'crosshair' }}
                data-point={p.id}
                onPointerDown={(e) => {
                  if (tool !== 'move') return;
                  e.stopPropagation();
                  svg.current?.focus();
                  choose(p.id, e.shiftKey);
                  if (e.shiftKey || p.fixed) return;
                  svg.current?.setPointerCapture(e.pointerId);
                  setDrag({ point: p.id, x: p.x, y: p.y });
                }}
              />
            );
          })}
        {hand && tool !== 'move' && tool !== 'trim' && tool !== 'extend' && (
          <Pencil hand={hand} from={from} frame={frame} line={tool === 'line'} />
        )}
      </svg>
      <Box
        sx={{
          position: 'absolute',
          top: 52,
          left: 14,
          right: 14,
          display: 'flex',
          gap: 1,
          flexWrap: 'wrap',
          alignItems: 'center',
          pointerEvents: 'none',
          '& > *': { pointerEvents: 'auto' },
        }}
      >
        <ToggleButtonGroup value={tool} onChange={(_, v: Tool | null) => v && setTool(v)} aria-label="what a click does">
          {TOOLS.map(([k, words]) => (
            <ToggleButton key={k} value={k}>
              {words}
            </ToggleButton>
          ))}
        </ToggleButtonGroup>
        {tool !== 'move' && tool !== 'trim' && tool !== 'extend' && (
          <ToggleButton value="guide" selected={guide} onChange={() => setGuide(!guide)} sx={{ bgcolor: 'background.paper' }}>
            As a guide
          </ToggleButton>
        )}
        {tool === 'move' && nailed && (
          <Button
            variant="outlined"
            sx={{ bgcolor: 'background.paper', minHeight: 28, minWidth: 0, px: 1 }}
            onClick={() => nail(nailed.id, !nailed.fixed)}
          >
            {nailed.fixed ? 'let go' : 'nail down'}
          </Button>
        )}
        {tool === 'move' &&
          chosen.length > 0 &&
          kinds.map((k) => (
            <Button
              key={k}
              variant="outlined"
              sx={{ bgcolor: 'background.paper', minHeight: 28, minWidth: 0, px: 1 }}
              onClick={() => say(k)}
            >
              {CONSTRAINTS[k].name}
            </Button>
          ))}
        {features.map((k) => (
          <Button
            key={k}
            variant="outlined"
            sx={{ bgcolor: 'sheet.tint', minHeight: 28, minWidth: 0, px: 1 }}
            title="Kept: it follows what it is made of"
            onClick={() => begin(k)}
          >
            + {FEATURES[k]}
          </Button>
        ))}
        {typed !== null && (
          <TypedLength
            label={tool === 'circle' ? 'Radius' : 'Length'}
            value={typed}
            onType={setTyped}
            onDone={commitTyped}
            onLeave={() => svg.current?.focus()}
          />
        )}
      </Box>
      <Box
        sx={{
          position: 'absolute',
          left: 16,
          bottom: 34,
          right: 16,
          display: 'flex',
          gap: 1,
          alignItems: 'center',
          fontSize: 13,
          pointerEvents: 'none',
        }}
      >
        <StatusMark status={solved.conflicts.length > 0 ? 'over' : solved.free === 0 ? 'ok' : 'near'} />
        <span role="status">
          {sketch.points.length <= 2 && sketch.curves.length <= 1
            ? 'Nothing is drawn yet: take the line and click from corner to corner.'
            : solved.conflicts.length > 0
              ? 'Something contradicts itself; see the list.'
              : solved.free === 0
                ? 'Fully determined.'
                : `${solved.free === 1 ? 'One way' : `${solved.free} ways`} left to move: hollow points are free.`}
        </span>
      </Box>
      <Box
        className="narrow"
        sx={{
          position: 'absolute',
          left: 16,
          right: 8,
          bottom: 10,
          fontSize: 12,
          color: 'text.secondary',
          pointerEvents: 'none',
          whiteSpace: 'nowrap',
          overflow: 'hidden',
          textOverflow: 'ellipsis',
        }}
      >
        {HINTS[tool]} · wheel: nearer · W: all
      </Box>
      {(wrong ?? made.wrong) && (
        <Box
          role="alert"
          sx={{
            position: 'absolute',
            left: 16,
            right: 16,
            bottom: 62,
            color: 'error.main',
            bgcolor: 'background.paper',
            border: 1,
            borderColor: 'error.main',
            borderRadius: 1,
            px: 1.2,
            py: 0.6,
          }}
        >
          {lengths.say(wrong ?? made.wrong ?? '')}
        </Box>
      )}
    </Box>
  );
}
