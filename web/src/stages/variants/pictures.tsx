'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { fileName } from '@wellmorph/core/pipeline/file-name';
import { useSession, useSheet } from '@/session/context';
import { sentence } from '@/session/session';
import { inTime } from '@/shared/times';
import { download } from '@/sheet/download';
import { contactPictures, type LookPicture, runPictures } from './run';

/** Renders all looks of the piece, and puts their pictures on one sheet. */
export function VariantPictures({
  pictures,
  secondsEach,
  onDrawn,
}: {
  pictures: readonly LookPicture[];
  /** What one picture is thought to take; null until that is measured. */
  secondsEach: number | null;
  onDrawn(): void;
}) {
  const session = useSession();
  const busy = useSheet((s) => s.job !== null);
  const name = useSheet((s) => s.piece?.name ?? '');
  const missing = pictures.filter((p) => !p.png).length;
  const sheet = async () => {
    try {
      const { png } = await session.bench.pool.run('contactSheet', { pictures: await contactPictures(session, pictures) });
      download(`${fileName(name)}_contact-sheet.png`, png);
    } catch (error) {
      session.notify(sentence(error), 'error');
    }
  };
  const takes = secondsEach === null || missing === 0 ? '' : `, about ${inTime(secondsEach * missing)}`;
  return (
    <Box role="group" aria-label="pictures of the variants" sx={{ mb: 1.6 }}>
      <Box sx={{ display: 'flex', gap: 1 }}>
        <Button
          variant="outlined"
          disabled={busy || missing === 0}
          onClick={() => void runPictures(session).then((done) => done && onDrawn())}
        >
          Render all {pictures.length}
        </Button>
        <Button variant="outlined" disabled={missing === pictures.length} onClick={() => void sheet()}>
          Contact sheet
        </Button>
      </Box>
      <Box className="narrow" sx={{ fontSize: 12, color: 'text.secondary', pt: 0.5 }}>
        {missing === 0
          ? 'The piece and its variants all have their picture.'
          : `${pictures.length - missing} of ${pictures.length} pictures are of what is there now${takes}.`}
      </Box>
    </Box>
  );
}
