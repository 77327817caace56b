'use client';

import Box from '@mui/material/Box';
import Checkbox from '@mui/material/Checkbox';
import FormControlLabel from '@mui/material/FormControlLabel';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import { type AssetDocument, type Material, sharers } from '@wellmorph/core/pipeline/document';
import type { Layer } from '@wellmorph/core/surface/layers/layer';
import type { DrawnStroke } from '@wellmorph/core/surface/layers/stroke-grid';
import { MOST_STROKES, POINT, type Stroke } from '@wellmorph/core/surface/layers/strokes';
import { createContext, useContext, useEffect, useMemo, useRef } from 'react';
import type { Stroking } from '@/plates/stroke';
import { useSession, useSheet } from '@/session/context';
import { isFresh } from '@/session/state';
import { Choice, NumberField } from '@/sheet/fields';
import { useKept } from '@/sheet/kept';
import { Act } from '@/sheet/plain';
import { WorkError } from '@/workers/pool';
import type { Bytes, GpuPart } from '@/workers/protocol';
import { runUnwrap } from '../unwrap/run';

type Mirror = 'none' | NonNullable<Stroke['mirror']>;

/** What a stroke over the piece is like. */
export interface Brush {
  radius: number;
  /** Stays on the piece of the part that it begins on. */
  alone: boolean;
  mirror: Mirror;
}
/** The mask that is painted, and how. */
export interface Painted {
  material: string;
  layer: string;
  /** Number of the field in its mask. */
  field: number;
  does: 'paints' | 'erases';
}

interface Painting {
  brush: Brush;
  onBrush(brush: Brush): void;
  painted: Painted | null;
  onPainted(painted: Painted | null): void;
}
/** The brush of the stage; fields of layers take it up and put it down. */
export const PaintingContext = createContext<Painting | null>(null);

/** The brush, its size remembered between visits. */
export function useBrush(): [Brush, (brush: Brush) => void] {
  return useKept<Brush>('wellmorph-surface-brush', (k) => ({
    radius: typeof k.radius === 'number' && k.radius >= 0.05 && k.radius <= 1000 ? k.radius : 8,
    alone: k.alone === true,
    mirror: k.mirror === 'x' || k.mirror === 'y' || k.mirror === 'z' ? k.mirror : 'none',
  }));
}

/** Layers with further strokes in one of their masks; null where that mask is gone. */
function withStrokes(layers: readonly Layer[], { layer, field }: Painted, strokes: readonly Stroke[]): Layer[] | null {
  const of = layers.find((l) => l.id === layer)?.mask[field]?.field;
  if (of?.kind !== 'strokes') return null;
  return layers.map((l) =>
    l.id === layer
      ? { ...l, mask: l.mask.map((m, n) => (n === field ? { ...m, field: { ...of, strokes: [...of.strokes, ...strokes] } } : m)) }
      : l,
  );
}

/** Parts that wear a material, whole or on a region. */
const wearers = (d: AssetDocument, material: string): ReadonlySet<string> =>
  new Set(d.parts.filter((p) => p.material === material || p.regions?.some((r) => r.material === material)).map((p) => p.id));

/**
 * The brush on the piece: what is drawn is shown at once, and kept when it is lifted.
 *
 * @param parts the laid-out parts and how they are drawn; null where nothing can be painted on @param onDraft layers of a material with what
 * is being drawn; null once nothing is
 */
export function usePainting(
  painted: Painted | null,
  brush: Brush,
  parts: { bytes: Bytes; gpu: readonly GpuPart[] } | null,
  onDraft: (draft: { of: Material; layers: Layer[] } | null) => void,
): Stroking | undefined {
  const session = useSession();
  /** Drawn and not in the document yet: those that are being kept, and those under the brush. */
  const keeping = useRef<DrawnStroke[]>([]);
  const under = useRef<DrawnStroke[]>([]);
  const last = useRef<Promise<void>>(Promise.resolve());
  const shown = useRef(onDraft);
  shown.current = onDraft;
  const stroking = useMemo((): Stroking | undefined => {
    if (!painted || !parts) return undefined;
    const material = () => session.document?.materials.find((m) => m.id === painted.material);
    const show = () => {
      const m = material();
      const open = [...keeping.current, ...under.current];
      const layers = m && withStrokes(m.layers, painted, open.map(asDrawn));
      shown.current(m && layers && open.length > 0 ? { of: m, layers } : null);
    };
    const gpuOf = new Map(parts.gpu.map((p) => [p.id, p]));
    // The stroke that goes on; null where it has left what is painted.
    let on: DrawnStroke | null = null;
    let strayed = false;
    return {
      spacing: Math.max(0.02, brush.radius / 4),
      radius: brush.radius,
      straight: true,
      at(id, [x, y, z], { triangle, normal, pressure }) {
        const d = session.document;
        const gpu = gpuOf.get(id);
        if (!d || !gpu) return;
        const part = sharers(d)[id] ?? id;
        if (!wearers(d, painted.material).has(part)) {
          strayed = true;
          on = null;
          return;
        }
        if (on?.part !== part) {
          const { radius, alone, mirror } = brush;
          on = { part, erases: painted.does === 'erases', radius, points: [], faces: [], alone, ...(mirror !== 'none' && { mirror }) };
          under.current.push(on);
        }
        on.points.push(x, y, z, ...normal, Math.max(0.1, pressure));
        on.faces.push(gpu.face[triangle] ?? 0);
        show();
      },
      end() {
        const drawn = under.current;
        under.current = [];
        on = null;
        if (drawn.length === 0 && strayed) session.notify(`What was painted does not wear ${material()?.name ?? 'this material'}.`);
        strayed = false;
        if (drawn.length === 0) return;
        keeping.current = [...keeping.current, ...drawn];
        // One after the other: the order of strokes is part of what they come to.
        last.current = last.current.then(async () => {
          try {
            const kept = await session.bench.pool.run('strokes', { parts: parts.bytes, drawn });
            const commands = kept.map((stroke) => ({
              type: 'material.stroke' as const,
              material: painted.material,
              layer: painted.layer,
              field: painted.field,
              stroke,
            }));
            session.dispatch(commands.length === 1 ? commands[0] : { type: 'several', what: 'painted on several parts', commands });
          } catch (error) {
            session.notify(error instanceof WorkError ? error.message : 'The stroke could not be kept.', 'error');
          } finally {
            keeping.current = keeping.current.filter((s) => !drawn.includes(s));
            show();
          }
        });
      },
    };
  }, [session, painted, brush, parts]);
  return stroking;
}

/** A stroke that is still being drawn, as it is shown. */
const asDrawn = ({ faces: _, alone: __, ...stroke }: DrawnStroke): Stroke => ({ ...stroke, points: [...stroke.points] });

/** What is painted of a mask, and the brush to paint it with. */
export function PaintFields({
  material,
  layer,
  field,
  strokes,
  onClear,
}: {
  material: Material;
  layer: Layer;
  field: number;
  strokes: readonly Stroke[];
  onClear(): void;
}) {
  const painting = useContext(PaintingContext);
  const session = useSession();
  const canPaint = useSheet((s) => isFresh(s.document, s.unwrap, 'unwrap'));
  const isBusy = useSheet((s) => s.job !== null);
  const putDown = useRef(painting?.onPainted);
  putDown.current = painting?.onPainted;
  // A brush that isn’t to be seen any more is put down.
  useEffect(() => () => putDown.current?.(null), []);
  if (!painting) return null;
  const { brush, onBrush, painted, onPainted } = painting;
  const own = painted?.material === material.id && painted.layer === layer.id && painted.field === field ? painted : null;
  const points = strokes.reduce((n, s) => n + s.points.length / POINT, 0);
  return (
    <>
      <Box sx={{ display: 'flex', alignItems: 'center', justifyContent: 'space-between', gap: 1, minHeight: 34 }}>
        <Box className="narrow" sx={{ fontSize: 13 }}>
          By hand
        </Box>
        <ToggleButtonGroup
          value={own?.does ?? null}
          onChange={(_, does: Painted['does'] | null) => onPainted(does && { material: material.id, layer: layer.id, field, does })}
          aria-label="strokes by hand"
        >
          <ToggleButton value="paints" disabled={!canPaint || strokes.length >= MOST_STROKES}>
            Paint
          </ToggleButton>
          <ToggleButton value="erases" disabled={!canPaint || strokes.length === 0}>
            Erase
          </ToggleButton>
        </ToggleButtonGroup>
      </Box>
      {own && (
        <>
          <NumberField
            label="Brush"
            hint="radius"
            min={0.05}
            max={1000}
            value={brush.radius}
            onCommit={(radius) => onBrush({ ...brush, radius })}
          />
          <Choice
            label="Mirrored"
            value={brush.mirror}
            choices={[
              ['none', 'not'],
              ['x', 'across the middle in x'],
              ['y', 'across the middle in y'],
              ['z', 'across the middle in z'],
            ]}
            onChange={(mirror) => onBrush({ ...brush, mirror })}
          />
          <FormControlLabel
            control={<Checkbox checked={brush.alone} onChange={() => onBrush({ ...brush, alone: !brush.alone })} />}
            label="Only the board it begins on"
            slotProps={{ typography: { sx: { fontSize: 13 }, className: 'narrow' } }}
          />
          <Box className="narrow" sx={{ fontSize: 12, color: 'text.secondary', pb: 0.6 }}>
            Draw over the piece. With Alt a stroke goes straight on from the last one; Shift turns the view.
          </Box>
        </>
      )}
      <Box sx={{ display: 'flex', alignItems: 'center', justifyContent: 'space-between', gap: 1 }}>
        <Box className="narrow" sx={{ fontSize: 12.5, color: 'text.secondary' }}>
          {!canPaint
            ? 'Painting is shown on a layout.'
            : strokes.length === 0
              ? 'nothing painted yet'
              : `${strokes.length === 1 ? 'one stroke' : `${strokes.length} strokes`}, ${points} points`}
        </Box>
        {!canPaint && (
          <Act disabled={isBusy} onClick={() => void runUnwrap(session)}>
            Unwrap
          </Act>
        )}
        {strokes.length > 0 && (
          <Act quiet onClick={onClear}>
            Wipe all
          </Act>
        )}
      </Box>
    </>
  );
}

/** What is painted with: put down when its mask, its layer or its material is gone, or the stage is left. */
export function useStanding(document: AssetDocument | null, painted: Painted | null): Painted | null {
  const of = painted && document?.materials.find((m) => m.id === painted.material)?.layers.find((l) => l.id === painted.layer);
  const isThere = of?.mask[painted?.field ?? -1]?.field.kind === 'strokes';
  return isThere ? painted : null;
}
