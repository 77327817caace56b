'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import { type Artwork, MOST_PRINTS, type Print } from '@wellmorph/core/print/print';
import type { PrintFigures } from '@wellmorph/core/print/verdict';
import { useEffect, useMemo, useRef, useState } from 'react';
import { artworkFiles } from '@/session/artwork-files';
import { useLengths, useSession, useSheet } from '@/session/context';
import { sentence } from '@/session/session';
import { useAnswered } from '@/sheet/answered';
import { BeginMenu } from '@/sheet/begin-menu';
import { Heading } from '@/sheet/fields';
import { useFiles } from '@/sheet/file-input';
import { newId } from '@/sheet/ids';
import { Act, Plain } from '@/sheet/plain';
import { MoveButtons, SortableList, SortableRow } from '@/sheet/sortable';
import type { GpuPart } from '@/workers/protocol';
import { BEGINNINGS } from './artworks';
import { freeName } from './bench';
import { bringArtwork, newPrint, printable } from './print-bring';
import { PrintFields } from './print-fields';

/** What is printed on the piece: a list from the topmost down, and the fields of the one that is open. */
export function Prints({
  document,
  gpu,
  open,
  onOpen,
  putting,
  onPutting,
  onDraft,
  figures,
}: {
  document: AssetDocument;
  gpu: readonly GpuPart[];
  open: string | null;
  onOpen(id: string | null): void;
  /** Whether the open one is put on the piece by pressing there. */
  putting: boolean;
  onPutting(on: boolean): void;
  /** Hears of fields on their way. */
  onDraft(of: Print, print: Print): void;
  figures: readonly PrintFigures[];
}) {
  const session = useSession();
  const selected = useSheet((s) => s.selected.part);
  const { length } = useLengths();
  const [adding, setAdding] = useState<HTMLElement | null>(null);
  const prints = document.prints ?? [];
  const topmost = useMemo(() => [...prints].reverse(), [prints]);
  const isFull = prints.length >= MOST_PRINTS;
  const add = (name: string, artwork: Artwork, size: { width: number; height: number }) => {
    const part = session.document && printable(session.document, selected);
    const drawn = gpu.find((p) => p.id === part);
    if (!drawn) {
      session.notify('No part has a material and texels of its own to print on.', 'error');
      return;
    }
    const print = newPrint(freeName(name, session.document?.prints ?? []), drawn, artwork, size);
    if (session.dispatch({ type: 'print.set', print })) onOpen(print.id);
  };
  const files = useFiles({
    label: 'Artwork',
    accept: 'image/png,image/jpeg,image/webp,image/svg+xml,.svg',
    several: true,
    onFiles: async (list) => {
      for (const file of list) {
        const made = await bringArtwork(session, file);
        if (made) add(made.name, made.artwork, made);
      }
    },
  });
  const begin = async ({ name, artwork }: (typeof BEGINNINGS)[number]) => {
    setAdding(null);
    try {
      const { size } = await session.bench.pool.run('artwork', { artwork, name, files: {} });
      if (size) add(name, artwork, size);
    } catch (error) {
      session.notify(sentence(error), 'error');
    }
  };
  return (
    <Box {...files.zone} role="group" aria-label="prints" sx={{ px: 1.8, mb: 1.8 }}>
      <Heading aside="in true millimetres">Prints</Heading>
      {prints.length === 0 && (
        <Box className="narrow" sx={{ fontSize: 12.5, color: 'text.secondary', pb: 0.6 }}>
          Nothing is printed on the piece. Drop artwork here, or set a text.
        </Box>
      )}
      <SortableList rows={topmost} onMove={(id, by) => session.dispatch({ type: 'print.move', print: id, by: -by })}>
        {topmost.map((print) => {
          const isOpen = print.id === open;
          const part = document.parts.find((p) => p.id === print.part);
          return (
            <SortableRow key={print.id} id={print.id} name={print.name}>
              {(grip) => (
                <Box sx={{ borderBottom: 1, borderColor: 'divider', bgcolor: isOpen ? 'sheet.tint' : undefined, py: 0.3 }}>
                  <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.7 }}>
                    {grip}
                    <Plain
                      aria-expanded={isOpen}
                      onClick={() => onOpen(isOpen ? null : print.id)}
                      sx={{ flex: 1, minWidth: 0, gap: 0.9, py: 0.3 }}
                    >
                      <Chip artwork={print.artwork} name={print.name} />
                      <Box sx={{ minWidth: 0 }}>
                        <Box sx={{ fontSize: 13, overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}>{print.name}</Box>
                        <Box className="narrow" sx={{ fontSize: 11.5, color: 'text.secondary' }}>
                          {length(print.width, 1)} × {length(print.height, 1)}, {part?.name ?? 'a removed part'}
                        </Box>
                      </Box>
                    </Plain>
                    <Checkbox
                      slotProps={{ input: { 'aria-label': `${print.name} is printed` } }}
                      title={print.on ? 'Leave it off' : 'Print it'}
                      checked={print.on}
                      onChange={() => session.dispatch({ type: 'print.set', print: { ...print, on: !print.on } })}
                      sx={{ p: 0.3 }}
                    />
                  </Box>
                  {isOpen && (
                    <Box sx={{ pl: 2.6, pr: 0.6, pb: 1 }}>
                      <PrintFields
                        key={print.id}
                        document={document}
                        print={print}
                        figures={figures.find((f) => f.id === print.id) ?? null}
                        putting={putting}
                        onPutting={onPutting}
                        onDraft={(next) => onDraft(print, next)}
                      />
                      <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: 1.2, mt: 0.6, alignItems: 'center' }}>
                        <Act
                          disabled={isFull}
                          onClick={() => {
                            const copy = { ...structuredClone(print), id: newId(), name: freeName(print.name, prints) };
                            if (session.dispatch({ type: 'print.set', print: copy })) onOpen(copy.id);
                          }}
                        >
                          Copy it
                        </Act>
                        <Act
                          quiet
                          onClick={() => {
                            onOpen(null);
                            session.dispatch({ type: 'print.remove', print: print.id });
                          }}
                        >
                          Remove it
                        </Act>
                        <MoveButtons
                          id={print.id}
                          name={print.name}
                          rows={topmost}
                          onMove={(by) => session.dispatch({ type: 'print.move', print: print.id, by: -by })}
                        />
                      </Box>
                    </Box>
                  )}
                </Box>
              )}
            </SortableRow>
          );
        })}
      </SortableList>
      {files.input}
      <Box sx={{ display: 'flex', gap: 0.8, mt: 0.8 }}>
        <Button variant="outlined" disabled={isFull} onClick={files.choose}>
          Bring artwork
        </Button>
        <Button variant="outlined" aria-haspopup="menu" disabled={isFull} onClick={(e) => setAdding(e.currentTarget)}>
          Set one
        </Button>
      </Box>
      <BeginMenu
        label="kinds of print"
        anchor={adding}
        beginnings={BEGINNINGS}
        onPick={(b) => void begin(b)}
        onClose={() => setAdding(null)}
      />
    </Box>
  );
}

/** A small picture of an artwork, over paper. */
function Chip({ artwork, name }: { artwork: Artwork; name: string }) {
  const { bench } = useSession();
  const canvas = useRef<HTMLCanvasElement>(null);
  const text = JSON.stringify(artwork);
  // Another name is no other picture.
  const ask = useMemo(() => ({ artwork: JSON.parse(text) as Artwork, name }), [text]);
  const made = useAnswered(ask, async (what) =>
    bench.pool.run('artwork', { ...what, files: await artworkFiles([what.artwork], bench.blobs) }).catch(() => null),
  );
  const picture = made?.answer;
  useEffect(() => {
    if (!picture || !canvas.current) return;
    canvas.current.width = picture.width;
    canvas.current.height = picture.height;
    canvas.current.getContext('2d')?.putImageData(new ImageData(new Uint8ClampedArray(picture.rgba), picture.width, picture.height), 0, 0);
  }, [picture]);
  return (
    <Box
      sx={{
        width: 40,
        height: 32,
        flex: 'none',
        border: 1,
        borderColor: 'divider',
        // Between white ink and black.
        bgcolor: '#96938b',
        display: 'flex',
        alignItems: 'center',
        justifyContent: 'center',
        overflow: 'hidden',
      }}
    >
      <Box component="canvas" ref={canvas} aria-hidden sx={{ maxWidth: '100%', maxHeight: '100%' }} />
    </Box>
  );
}
