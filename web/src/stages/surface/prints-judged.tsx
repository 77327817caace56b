'use client';

import Box from '@mui/material/Box';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import type { PrintedFigures } from '@wellmorph/core/pipeline/printed';
import { unprinted } from '@wellmorph/core/pipeline/prints';
import type { Print } from '@wellmorph/core/print/print';
import { legibility, type PrintFigures, printVerdicts } from '@wellmorph/core/print/verdict';
import { figure } from '@wellmorph/core/units/lengths';
import { useLengths } from '@/session/context';
import { Heading } from '@/sheet/fields';
import { Plain } from '@/sheet/plain';
import { FigureRow } from '../unwrap/figure-row';

const LIES: Record<PrintFigures['lies'], string> = {
  flat: 'on a flat',
  round: 'round',
  cone: 'round a cone',
  wall: 'round a wall',
  draped: 'draped',
};

/** What becomes of every print where it lies now. */
export function PrintsJudged({
  document,
  printed,
  wrong,
  isLaid,
  onOpen,
}: {
  document: AssetDocument;
  printed: PrintedFigures | null;
  /** Why they can’t be laid on. */
  wrong: string | null;
  /** Whether there is a layout to lay them on. */
  isLaid: boolean;
  onOpen(id: string): void;
}) {
  const prints = document.prints ?? [];
  const unseen = unprinted(document);
  if (prints.length === 0) return null;
  return (
    <Box role="group" aria-label="prints, judged" sx={{ mt: 1.5, mb: 1.5 }}>
      <Heading aside="where they lie now">Prints</Heading>
      {printed === null && (
        <Box className="narrow" sx={{ fontSize: 12.5, color: 'text.secondary' }}>
          {wrong ?? (isLaid ? 'Laying them on …' : 'They are laid on once the piece is unwrapped.')}
        </Box>
      )}
      {printed?.prints.map((f) => {
        const print = prints.find((p) => p.id === f.id);
        return print && <Judged key={f.id} document={document} print={print} figures={f} onOpen={onOpen} />;
      })}
      {unseen.length > 0 && (
        <Box className="narrow" sx={{ fontSize: 12.5, color: 'error.main', mb: 0.8 }}>
          {unseen.map((p) => p.name).join(', ')}: what {unseen.length === 1 ? 'it lies' : 'they lie'} on goes out in the pictures it came
          with, or in photographs. Nothing is printed on those.
        </Box>
      )}
      {printed?.wrong.map((w) => (
        <Box key={w.id} sx={{ mb: 0.8, fontSize: 12.5 }} className="narrow">
          <Box sx={{ fontWeight: 600 }}>{prints.find((p) => p.id === w.id)?.name ?? w.name}</Box>
          <Box sx={{ color: 'error.main' }}>{w.sentence}</Box>
        </Box>
      ))}
    </Box>
  );
}

function Judged({
  document,
  print,
  figures: f,
  onOpen,
}: {
  document: AssetDocument;
  print: Print;
  figures: PrintFigures;
  onOpen(id: string): void;
}) {
  const { length } = useLengths();
  const read = legibility(f, print, document.brief);
  const edge = (mm: number | null) => (mm === null ? '–' : length(mm, 2));
  const isBounded = Object.values(f.edges).some((e) => e !== null);
  return (
    <Box data-print={print.name} sx={{ mb: 1.2 }}>
      <Plain className="narrow" onClick={() => onOpen(print.id)} sx={{ fontSize: 12.5, fontWeight: 600 }}>
        {print.name}
      </Plain>
      <FigureRow
        label={f.round ? `Round Ø ${length(f.round.diameter, 1)}` : 'Lies'}
        value={f.round ? figure(f.round.degrees, 1) : LIES[f.lies]}
        unit={f.round ? '°' : ''}
      />
      {isBounded && (
        <>
          {f.edges.left !== null && (
            <FigureRow label="To the left, right edge" value={`${edge(f.edges.left)}, ${edge(f.edges.right)}`} unit="" />
          )}
          {f.edges.below !== null && (
            <FigureRow label="To the lower, upper edge" value={`${edge(f.edges.below)}, ${edge(f.edges.above)}`} unit="" />
          )}
        </>
      )}
      <FigureRow
        label="Texels a mm"
        value={figure(f.pxPerMm.mean, 1)}
        unit=""
        why={f.pxPerMm.own === null ? 'drawn from lines, at any size' : `its picture has ${figure(f.pxPerMm.own, 1)} px a mm`}
      />
      {read && (
        <FigureRow
          label={`Capitals of ${length(read.mm, 1)}`}
          value={`${figure(read.screenPx, 0)} px, ${figure(read.texels, 0)} texels`}
          unit=""
        />
      )}
      {f.lies === 'draped' && (
        <FigureRow
          label="Drawn out by"
          value={`${figure(100 * (f.stretch.mean - 1), 1)} %, up to ${figure(100 * (f.stretch.most - 1), 0)} %`}
          unit=""
        />
      )}
      {f.seams > 0 && <FigureRow label="Seams across it" value={length(f.seams, 1)} unit="" />}
      {printVerdicts(f, print, document.brief)
        .filter((v) => v.level !== 'ok')
        .map((v) => (
          <Box key={v.sentence} className="narrow" sx={{ fontSize: 12.5, color: v.level === 'over' ? 'error.main' : 'text.secondary' }}>
            {v.sentence}
          </Box>
        ))}
    </Box>
  );
}
