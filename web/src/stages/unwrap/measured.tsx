'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Select from '@mui/material/Select';
import { LAYOUT_VIEWS, type LayoutViewKind } from '@wellmorph/core/inspect/views';
import type { Part } from '@wellmorph/core/pipeline/document';
import { figure } from '@wellmorph/core/units/lengths';
import type { LayoutView, WorstPlace } from '@wellmorph/core/uv/views';
import { type RefObject, useCallback, useEffect, useRef, useState } from 'react';
import { useSession, useSheet } from '@/session/context';
import { sentence } from '@/session/session';
import { isFresh } from '@/session/state';
import { Heading } from '@/sheet/fields';
import type { DrawnView } from '@/workers/protocol';

/** What is measured on the layout in view: its colours on the piece, the address of their picture in the tile, and where it is worst. */
interface Measured extends LayoutView {
  drawn: Record<string, DrawnView>;
  map: string;
}

/** Something measured all over the layout that is in view, once it is there; `tell` writes the value under the pointer into `probe`. */
export function useLayoutView(): {
  kind: LayoutViewKind | null;
  measure(kind: LayoutViewKind | null): void;
  measured: Measured | null;
  probe: RefObject<HTMLSpanElement | null>;
  tell(value: number | null): void;
} {
  const session = useSession();
  const document = useSheet((s) => s.document);
  const layout = useSheet((s) => s.unwrap);
  const [kind, measure] = useState<LayoutViewKind | null>(null);
  const [measured, setMeasured] = useState<{ of: object; made: Measured } | null>(null);
  const probe = useRef<HTMLSpanElement>(null);
  // What is measured is the layout in view; of an older state it is not measured against a newer document.
  const parts = isFresh(document, layout, 'unwrap') ? layout?.parts : undefined;
  const size = document?.brief.limits.textureSize;
  useEffect(() => {
    const about = session.document;
    if (!kind || !parts || !about) return setMeasured(null);
    let gone = false;
    let map = '';
    session.bench.pool
      .run('layoutView', { document: about, parts, kind })
      .then((made) => {
        if (gone) return;
        map = URL.createObjectURL(new Blob([made.map], { type: 'image/png' }));
        setMeasured({ of: parts, made: { ...made, map } });
      })
      .catch((error) => !gone && session.notify(sentence(error), 'error'));
    return () => {
      gone = true;
      URL.revokeObjectURL(map);
      setMeasured(null);
    };
  }, [session, kind, parts, size]);
  const unit = measured?.made.view.unit ?? '';
  const tell = useCallback(
    (value: number | null) => {
      if (probe.current) probe.current.textContent = value === null ? '' : `here ${figure(value, unit ? 1 : 3)} ${unit}`;
    },
    [unit],
  );
  return { kind, measure, measured: measured?.of === parts ? (measured?.made ?? null) : null, probe, tell };
}

/** Chooses what is measured all over the layout, or nothing. */
export function MeasuredChoice({ kind, onKind }: { kind: LayoutViewKind | null; onKind(kind: LayoutViewKind | null): void }) {
  return (
    <Select
      native
      inputProps={{ 'aria-label': 'measured on the layout' }}
      value={kind ?? ''}
      onChange={(e) => onKind((e.target.value || null) as LayoutViewKind | null)}
      sx={{ bgcolor: 'background.paper', minWidth: 0, maxWidth: 112 }}
    >
      <option value="">Measured</option>
      {Object.entries(LAYOUT_VIEWS).map(([k, name]) => (
        <option key={k} value={k}>
          {name}
        </option>
      ))}
    </Select>
  );
}

/** Where the layout is worst, to be flown to. */
export function WorstFaces({
  worst,
  parts,
  onShow,
}: {
  worst: readonly WorstPlace[];
  parts: readonly Part[];
  onShow(place: WorstPlace): void;
}) {
  return (
    <Box sx={{ mb: 2 }}>
      <Heading aside="pulled by">Worst faces</Heading>
      {worst.map((w) => (
        <Button
          key={`${w.part}/${w.island}`}
          fullWidth
          onClick={() => onShow(w)}
          sx={{ display: 'flex', justifyContent: 'space-between', fontSize: 13, fontWeight: 400, py: 0.3, color: 'text.primary' }}
        >
          <span>
            {parts.find((p) => p.id === w.part)?.name}, island {w.island + 1}
          </span>
          <span className="mono">{Number.isFinite(w.value) ? figure(w.value, 3) : 'no area'}</span>
        </Button>
      ))}
    </Box>
  );
}
