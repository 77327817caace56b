'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useEffect, useState } from 'react';
import { useSession, useSheet } from '@/session/context';
import { sentence } from '@/session/session';
import { download } from '@/sheet/download';
import { Heading, NumberField } from '@/sheet/fields';
import { useKept } from '@/sheet/kept';

const within = (x: unknown, least: number, most: number, usual: number): number =>
  typeof x === 'number' && x >= least && x <= most ? x : usual;
/** 300 dpi and 3 mm are common practice in print, no source. */
const optionsFrom = (kept: Record<string, unknown>) => ({
  dpi: within(kept.dpi, 30, 1200, 300),
  bleedMm: within(kept.bleedMm, 0, 50, 3),
});

/** A name that every system takes for a file. */
export const fileName = (name: string): string => name.toLowerCase().replace(/\W+/g, '-');

/** The chosen island as a template for artwork, in true millimetres. */
export function IslandTemplate() {
  const session = useSession();
  const layout = useSheet((s) => s.unwrap);
  const chosen = useSheet((s) => s.selected.island);
  const name = useSheet((s) => s.document?.parts.find((p) => p.id === s.selected.island?.part)?.name);
  const [options, setOptions] = useKept('wellmorph-template', optionsFrom);
  const [words, setWords] = useState<string | null>(null);
  const parts = layout?.parts;
  const { dpi, bleedMm } = options;
  useEffect(() => {
    setWords(null);
    if (!parts || !chosen || !name) return;
    let gone = false;
    session.bench.pool
      .run('template', { parts, ...chosen, name, options: { dpi, bleedMm }, as: 'words' })
      .then((made) => !gone && setWords(made.words))
      .catch((error) => !gone && setWords(sentence(error)));
    return () => {
      gone = true;
    };
  }, [session, parts, chosen, name, dpi, bleedMm]);
  if (!parts) return null;
  const save = async (as: 'svg' | 'pdf' | 'png') => {
    if (!chosen || !name) return;
    try {
      const { file } = await session.bench.pool.run('template', { parts, ...chosen, name, options, as });
      if (file) download(`${fileName(name)}_island-${chosen.island + 1}.${as}`, file);
    } catch (error) {
      session.notify(sentence(error), 'error');
    }
  };
  return (
    <Box sx={{ mt: 2 }}>
      <Heading>Template for artwork</Heading>
      {!chosen || !name ? (
        <Box sx={{ fontSize: 12.5, color: 'text.secondary', mt: 0.6 }}>
          Choose an island on the piece or in the layout: it is drawn at its true size, the right way up.
        </Box>
      ) : (
        <>
          <Box role="status" sx={{ fontSize: 12.5, my: 0.6 }}>
            <b>
              {name}, island {chosen.island + 1}
            </b>
            {words ? `: ${words}.` : ''}
          </Box>
          <NumberField
            label="Resolution"
            kind="whole"
            unit="dpi"
            min={30}
            max={1200}
            value={dpi}
            onCommit={(v) => setOptions({ ...options, dpi: v })}
          />
          <NumberField label="Bleed" min={0} max={50} value={bleedMm} onCommit={(v) => setOptions({ ...options, bleedMm: v })} />
          <Box sx={{ display: 'flex', gap: 1, mt: 1 }}>
            <Button variant="outlined" aria-label="Template as PNG" onClick={() => void save('png')}>
              PNG
            </Button>
            <Button variant="outlined" aria-label="Template as SVG" onClick={() => void save('svg')}>
              SVG
            </Button>
            <Button variant="outlined" aria-label="Template as PDF" onClick={() => void save('pdf')}>
              PDF
            </Button>
          </Box>
        </>
      )}
    </Box>
  );
}
