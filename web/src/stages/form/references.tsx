'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import { REFERENCE_VIEWS, type Reference, type ReferenceView, rescaled, scaleBetween } from '@wellmorph/core/form/reference';
import { useState } from 'react';
import { useLengths, useSession, useSheet } from '@/session/context';
import type { AssetSession } from '@/session/session';
import { sentence } from '@/session/session';
import { Choice, NumberField } from '@/sheet/fields';
import { useFiles } from '@/sheet/file-input';
import { newId } from '@/sheet/ids';
import { usePalette } from '@/theme/theme';
import { Fold } from './fold';

/** Larger pictures are scaled down when they are brought: they only stand behind. */
const LARGEST_PX = 2048;

const put = (session: AssetSession, reference: Reference) => session.dispatch({ type: 'reference.set', reference });

/** Reads a picture file; what the browser can't read is said, and nothing is stored. */
async function bring(session: AssetSession, file: File): Promise<void> {
  const { document } = session;
  if (!document) return;
  let bitmap: ImageBitmap;
  try {
    bitmap = await createImageBitmap(file);
  } catch {
    session.notify(`“${file.name}” is not a picture that can be read; PNG, JPEG and WebP can.`, 'error');
    return;
  }
  try {
    const k = Math.min(1, LARGEST_PX / Math.max(bitmap.width, bitmap.height));
    const [width, height] = [Math.max(1, Math.round(bitmap.width * k)), Math.max(1, Math.round(bitmap.height * k))];
    const canvas = new OffscreenCanvas(width, height);
    canvas.getContext('2d')?.drawImage(bitmap, 0, 0, width, height);
    const bytes = new Uint8Array(await (await canvas.convertToBlob({ type: 'image/png' })).arrayBuffer());
    // As tall as the brief says the piece is, standing on the floor in the middle, until it is scaled.
    const mmPerPx = document.brief.sizeMm[1] / height;
    const free = (Object.keys(REFERENCE_VIEWS) as ReferenceView[]).find((v) => !document.references.some((r) => r.view === v));
    put(session, {
      id: newId(),
      name: file.name.slice(0, 120),
      view: free ?? 'front',
      blob: await session.bench.blobs.put(bytes, 'png'),
      widthPx: width,
      heightPx: height,
      mmPerPx,
      x: (-width * mmPerPx) / 2,
      y: 0,
      opacity: 0.5,
    });
  } catch (error) {
    session.notify(sentence(error), 'error');
  }
}

/** Pictures behind the piece and behind its drawings, one for each view. */
export function ReferencePanel() {
  const session = useSession();
  const references = useSheet((s) => s.document?.references) ?? [];
  const [open, setOpen] = useState(false);
  const [scaling, setScaling] = useState<string | null>(null);
  const files = useFiles({
    label: 'Picture file',
    accept: 'image/png,image/jpeg,image/webp',
    onFiles: ([file]) => {
      setOpen(true);
      void bring(session, file);
    },
  });
  const { length } = useLengths();
  const scaled = references.find((r) => r.id === scaling);
  return (
    <Box {...files.zone} sx={{ outline: files.over ? '2px dashed' : 0, outlineColor: 'primary.main', outlineOffset: -2 }}>
      <Fold
        title="Pictures behind"
        about={references.length === 0 ? 'none' : references.map((r) => REFERENCE_VIEWS[r.view]).join(', ')}
        open={open}
        onOpen={setOpen}
        actions={
          <>
            <Button sx={{ minWidth: 0, px: 0.8, minHeight: 24 }} onClick={files.choose}>
              + picture
            </Button>
            {files.input}
          </>
        }
      >
        {references.map((r) => (
          <Box key={r.id} sx={{ borderTop: 1, borderColor: 'sheet.line', mt: 0.6, pt: 0.4 }}>
            <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.5, fontSize: 12.5 }}>
              <Box sx={{ flex: 1, minWidth: 0, overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}>{r.name}</Box>
              <Button sx={{ minHeight: 24 }} onClick={() => setScaling(r.id)}>
                Scale
              </Button>
              <Button
                sx={{ minWidth: 0, px: 0.5, minHeight: 22 }}
                aria-label={`Remove ${r.name}`}
                onClick={() => session.dispatch({ type: 'reference.remove', reference: r.id })}
              >
                ×
              </Button>
            </Box>
            <Choice
              label="Seen from"
              value={r.view}
              choices={Object.entries(REFERENCE_VIEWS) as [ReferenceView, string][]}
              onChange={(view) => put(session, { ...r, view })}
            />
            <NumberField label="Left edge at" value={r.x} digits={1} onCommit={(x) => put(session, { ...r, x })} />
            <NumberField label="Lower edge at" value={r.y} digits={1} onCommit={(y) => put(session, { ...r, y })} />
            <NumberField
              label="Strength"
              kind="number"
              unit="%"
              min={5}
              max={100}
              digits={0}
              value={r.opacity * 100}
              onCommit={(v) => put(session, { ...r, opacity: v / 100 })}
            />
            <Box className="narrow" sx={{ fontSize: 12, color: 'text.secondary' }}>
              {length([r.widthPx * r.mmPerPx, r.heightPx * r.mmPerPx], 1)} · {length(r.mmPerPx, 4)} a pixel
            </Box>
          </Box>
        ))}
        {scaled && <ScaleDialog key={scaled.id} picture={scaled} onClose={() => setScaling(null)} />}
      </Fold>
    </Box>
  );
}

/** Two clicks on the picture and the distance between them set its scale; the first place stays where it is. */
function ScaleDialog({ picture, onClose }: { picture: Reference; onClose(): void }) {
  const session = useSession();
  const c = usePalette();
  const [places, setPlaces] = useState<[number, number][]>([]);
  const [mm, setMm] = useState(100);
  const [wrong, setWrong] = useState<string | null>(null);
  const r = Math.max(picture.widthPx, picture.heightPx) / 90;
  const apply = () => {
    try {
      const scale = scaleBetween(places[0], places[1], mm);
      if (put(session, rescaled(picture, scale, places[0]))) onClose();
    } catch (error) {
      setWrong(sentence(error));
    }
  };
  return (
    <Dialog open onClose={onClose} maxWidth="md">
      <DialogTitle sx={{ pb: 0.5 }}>Scale of the picture</DialogTitle>
      <DialogContent>
        <Box sx={{ color: 'text.secondary', fontSize: 13, mb: 1 }}>
          {places.length < 2
            ? `Click ${places.length === 0 ? 'a place' : 'another place'} whose distance you know.`
            : 'Type how far apart they are; click again to choose other places.'}
        </Box>
        <svg
          viewBox={`0 0 ${picture.widthPx} ${picture.heightPx}`}
          role="img"
          aria-label={`${picture.name}: click two places`}
          style={{
            width: 'min(720px, 80vw)',
            maxHeight: '52vh',
            display: 'block',
            cursor: 'crosshair',
            border: `1px solid ${c.sheet.line}`,
          }}
          onPointerDown={(e) => {
            const svg = e.currentTarget;
            const p = svg.createSVGPoint();
            [p.x, p.y] = [e.clientX, e.clientY];
            const at = p.matrixTransform(svg.getScreenCTM()?.inverse());
            setWrong(null);
            setPlaces((old) => (old.length === 2 ? [[at.x, at.y]] : [...old, [at.x, at.y]]));
          }}
        >
          <image href={`/api/blobs/${picture.blob}`} width={picture.widthPx} height={picture.heightPx} />
          {places.length === 2 && (
            <line x1={places[0][0]} y1={places[0][1]} x2={places[1][0]} y2={places[1][1]} stroke={c.primary.main} strokeWidth={r / 4} />
          )}
          {places.map(([x, y], i) => (
            <circle key={i} cx={x} cy={y} r={r} fill="none" stroke={c.primary.main} strokeWidth={r / 3} />
          ))}
        </svg>
        <Box sx={{ maxWidth: 260, mt: 1 }}>
          <NumberField label="Distance between them" min={0.01} value={mm} onCommit={setMm} />
        </Box>
        {wrong && (
          <Box role="alert" sx={{ color: 'error.main', fontSize: 13 }}>
            {wrong}
          </Box>
        )}
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>Close</Button>
        <Button variant="contained" disabled={places.length < 2} onClick={apply}>
          Set the scale
        </Button>
      </DialogActions>
    </Dialog>
  );
}
