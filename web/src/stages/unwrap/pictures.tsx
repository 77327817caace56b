'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { labelledSvg } from '@wellmorph/core/pipeline/labels';
import { useState } from 'react';
import { useSession, useSheet } from '@/session/context';
import { sentence } from '@/session/session';
import { download } from '@/sheet/download';
import { Choice, Heading } from '@/sheet/fields';
import { useKept } from '@/sheet/kept';
import { fileName } from './template';

/** Sides of pictures to paint on, px; 0: as the textures are. */
const SIZES = [0, 1024, 2048, 4096, 8192] as const;
const sizeFrom = (kept: Record<string, unknown>): { size: number } => ({ size: SIZES.find((s) => s === kept.size) ?? 0 });

/** The layout as a picture to paint on, of any usual size; the second one too where there is one. */
export function LayoutPictures() {
  const session = useSession();
  const document = useSheet((s) => s.document);
  const layout = useSheet((s) => s.unwrap);
  const [{ size }, keep] = useKept('wellmorph-layout-picture', sizeFrom);
  const [second, setSecond] = useState(false);
  const [drawing, setDrawing] = useState(false);
  if (!document || !layout) return null;
  const both = layout.second.length > 0;
  const ofSecond = both && second;
  const own = (ofSecond && document.unwrap.second?.size) || document.brief.limits.textureSize;
  const save = async (as: 'png' | 'svg') => {
    setDrawing(true);
    try {
      const name = `${fileName(document.name)}_layout${ofSecond ? '-2' : ''}${size ? `_${size}` : ''}.${as}`;
      // The first at its own size is there already.
      const { file } =
        !ofSecond && !size
          ? { file: await session.bench.blobs.get(as === 'png' ? layout.png : layout.svg) }
          : await session.bench.pool.run('layoutPicture', { parts: layout.parts, size: size || own, second: ofSecond, as });
      download(name, as === 'svg' ? labelledSvg(file, document) : file);
    } catch (error) {
      session.notify(sentence(error), 'error');
    } finally {
      setDrawing(false);
    }
  };
  return (
    <Box sx={{ mt: 2 }}>
      <Heading>Layout to paint on</Heading>
      {both && (
        <Choice
          label="Of the layouts"
          value={second ? 1 : 0}
          choices={[
            [0, 'the first'],
            [1, 'the second'],
          ]}
          onChange={(v) => setSecond(v === 1)}
        />
      )}
      <Choice
        label="Its size"
        value={size}
        choices={SIZES.map((s) => [s, s ? `${s} px` : `as the textures, ${own} px`] as const)}
        onChange={(s) => keep({ size: s })}
      />
      <Box sx={{ display: 'flex', gap: 1, mt: 1 }}>
        <Button variant="outlined" disabled={drawing} onClick={() => void save('png')}>
          PNG
        </Button>
        <Button variant="outlined" disabled={drawing} onClick={() => void save('svg')}>
          SVG
        </Button>
      </Box>
    </Box>
  );
}
