'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import { meanColour } from '@wellmorph/core/image/mean';
import { type KeyboardEvent, type PointerEvent, useEffect, useState } from 'react';
import { useSheet } from '@/session/context';
import { Choice, NumberField } from './fields';

type Colour = [number, number, number];

const hexOf = (c: Colour): string =>
  `#${c
    .map((v) =>
      Math.round(v * 255)
        .toString(16)
        .padStart(2, '0'),
    )
    .join('')}`;

/** A colour taken from one of the pictures behind the piece: where it is pressed, or where the arrow keys lead and Enter takes it. */
export function PickColour({ label, onPick, onClose }: { label: string; onPick(colour: Colour): void; onClose(): void }) {
  const references = useSheet((s) => s.document?.references) ?? [];
  const [id, setId] = useState(references[0]?.id ?? '');
  const [side, setSide] = useState(5);
  const [pixels, setPixels] = useState<ImageData | null>(null);
  const [unread, setUnread] = useState(false);
  const [at, setAt] = useState<{ x: number; y: number } | null>(null);
  const picture = references.find((r) => r.id === id);
  const blob = picture?.blob;
  useEffect(() => {
    if (!blob) return;
    let here = true;
    setPixels(null);
    setUnread(false);
    const read = async () => {
      const bitmap = await createImageBitmap(await (await fetch(`/api/blobs/${blob}`)).blob());
      const context = new OffscreenCanvas(bitmap.width, bitmap.height).getContext('2d');
      context?.drawImage(bitmap, 0, 0);
      // Another picture may have been chosen meanwhile.
      if (here && context) setPixels(context.getImageData(0, 0, bitmap.width, bitmap.height));
    };
    read().catch(() => here && setUnread(true));
    return () => {
      here = false;
    };
  }, [blob]);
  const colour = pixels && at ? meanColour(pixels, at.x, at.y, side) : null;
  const placeOf = (e: PointerEvent<HTMLElement>) => {
    const box = e.currentTarget.getBoundingClientRect();
    if (!pixels) return null;
    return {
      x: Math.min(pixels.width - 1, Math.max(0, Math.floor(((e.clientX - box.left) / box.width) * pixels.width))),
      y: Math.min(pixels.height - 1, Math.max(0, Math.floor(((e.clientY - box.top) / box.height) * pixels.height))),
    };
  };
  const take = (c: Colour | null) => {
    if (!c) return;
    onPick(c);
    onClose();
  };
  const onKey = (e: KeyboardEvent) => {
    if (!pixels) return;
    const step = e.shiftKey ? 1 : Math.max(1, Math.round(pixels.width / 60));
    const by = { ArrowLeft: [-step, 0], ArrowRight: [step, 0], ArrowUp: [0, -step], ArrowDown: [0, step] }[e.key];
    if (e.key === 'Enter') take(colour);
    else if (by) {
      const from = at ?? { x: pixels.width >> 1, y: pixels.height >> 1 };
      setAt({
        x: Math.min(pixels.width - 1, Math.max(0, from.x + by[0])),
        y: Math.min(pixels.height - 1, Math.max(0, from.y + by[1])),
      });
    } else return;
    e.preventDefault();
  };
  return (
    <Dialog open onClose={onClose} aria-labelledby="pick-title" maxWidth="md">
      <Box sx={{ p: 3, width: 620 }}>
        <Box id="pick-title" component="h2" sx={{ typography: 'h2', mt: 0 }}>
          {label}, from a picture
        </Box>
        <Choice label="Picture" value={id} choices={references.map((r) => [r.id, r.name] as const)} onChange={setId} />
        <NumberField label="Mean of a square of" kind="whole" unit="px" min={1} max={99} value={side} onCommit={setSide} />
        <Box
          tabIndex={0}
          role="application"
          aria-busy={!pixels && !unread}
          aria-label="Picture to take the colour from: arrow keys move, Enter takes"
          onKeyDown={onKey}
          onPointerMove={(e) => setAt(placeOf(e))}
          onPointerUp={(e) => {
            const place = placeOf(e);
            if (pixels && place) take(meanColour(pixels, place.x, place.y, side));
          }}
          sx={{ position: 'relative', mt: 1, display: 'inline-block', cursor: 'crosshair', bgcolor: 'sheet.plate', lineHeight: 0 }}
        >
          {blob && <Box component="img" src={`/api/blobs/${blob}`} alt="" draggable={false} sx={{ maxWidth: 572, maxHeight: 380 }} />}
          {at && pixels && (
            <Box
              sx={{
                position: 'absolute',
                left: `${(100 * (at.x + 0.5)) / pixels.width}%`,
                top: `${(100 * (at.y + 0.5)) / pixels.height}%`,
                width: 14,
                height: 14,
                ml: '-7px',
                mt: '-7px',
                border: '2px solid #fff',
                outline: '1px solid #000',
                pointerEvents: 'none',
              }}
            />
          )}
        </Box>
        <Box sx={{ mt: 1.5, display: 'flex', alignItems: 'center', gap: 1 }}>
          <Box sx={{ width: 36, height: 24, border: 1, borderColor: 'divider', bgcolor: colour ? hexOf(colour) : undefined }} />
          <Box className="mono" role="status" sx={{ flex: 1, fontSize: 13 }}>
            {unread
              ? 'This picture can’t be read just now.'
              : !pixels
                ? 'reading the picture …'
                : colour
                  ? hexOf(colour)
                  : at
                    ? 'clear there'
                    : 'press the place in the picture'}
          </Box>
          <Button variant="outlined" onClick={onClose}>
            Cancel
          </Button>
        </Box>
      </Box>
    </Dialog>
  );
}
