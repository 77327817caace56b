'use client';

import Box from '@mui/material/Box';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import { useEffect, useState } from 'react';
import { useSession } from '@/session/context';
import { Plain } from '@/sheet/plain';
import { type LookPicture, looksOf, picturesOf } from './run';

/** The pictures of a piece and its variants that are of them as they are; looked for again whenever a picture was made. */
export function useLookPictures(piece: AssetDocument | null, made: string | null): LookPicture[] {
  const session = useSession();
  const [pictures, setPictures] = useState<LookPicture[]>([]);
  useEffect(() => {
    let gone = false;
    if (!piece?.variants?.length) setPictures([]);
    else void picturesOf(session, looksOf(piece)).then((list) => !gone && setPictures(list));
    return () => {
      gone = true;
    };
  }, [session, piece, made]);
  return pictures;
}

/** Columns that let pictures of a shape be largest on a plate about a sixth wider than high. */
function columnsFor(count: number, aspect: number): number {
  const size = (columns: number) => Math.min(1.15 / columns, aspect / Math.ceil(count / columns));
  return Array.from({ length: count }, (_, i) => i + 1).reduce((best, c) => (size(c) > size(best) ? c : best), 1);
}

/** Pictures of one shot beside each other, as large as there is room for all. */
export function SideBySide({ pictures, aspect }: { pictures: readonly LookPicture[]; aspect: number }) {
  const session = useSession();
  const columns = columnsFor(pictures.length, aspect);
  return (
    <Box
      role="group"
      aria-label="variants side by side"
      sx={{
        position: 'absolute',
        inset: '52px 16px 38px',
        display: 'grid',
        gridTemplateColumns: `repeat(${columns}, minmax(0, 1fr))`,
        gridTemplateRows: `repeat(${Math.ceil(pictures.length / columns)}, minmax(0, 1fr))`,
        gap: 1.5,
      }}
    >
      {pictures.map(({ look, name, png }) => (
        <Box
          component="figure"
          key={look.as ?? ''}
          sx={{ m: 0, minWidth: 0, minHeight: 0, display: 'flex', flexDirection: 'column', alignItems: 'center' }}
        >
          <Box
            sx={{
              aspectRatio: String(aspect),
              flex: '0 1 auto',
              minHeight: 0,
              height: '100%',
              maxWidth: '100%',
              bgcolor: 'background.paper',
              border: 1,
              borderColor: 'divider',
              display: 'grid',
              placeItems: 'center',
              color: 'text.secondary',
              fontSize: 12.5,
            }}
          >
            {png ? (
              <Box
                component="img"
                src={`/api/blobs/${png}`}
                alt={`Picture of ${name}`}
                sx={{ width: '100%', height: '100%', display: 'block' }}
              />
            ) : (
              'no picture of it as it is yet'
            )}
          </Box>
          <Box component="figcaption" sx={{ pt: 0.3, overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}>
            <Plain title="Look at this one" onClick={() => session.showVariant(look.as ?? null)} sx={{ fontSize: 12.5 }}>
              {name}
            </Plain>
          </Box>
        </Box>
      ))}
    </Box>
  );
}
