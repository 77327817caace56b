'use client';

import Box from '@mui/material/Box';
import { useLessons } from '@/logbook/queries';
import type { LessonKind } from '@/server/db/schema';

/** What was learned about something that is chosen here: beside its field, with the run it is from. */
export function LessonsBeside({ kind, subject }: { kind: LessonKind; subject: string | null | undefined }) {
  const lessons = useLessons().filter((l) => l.kind === kind && l.subject === subject);
  if (lessons.length === 0) return null;
  return (
    <Box role="note" aria-label="lesson" sx={{ borderLeft: 3, borderColor: 'primary.main', pl: 1, my: 0.6, fontSize: 12.5 }}>
      {lessons.map((l) => (
        <Box key={l.id}>
          “{l.sentence}”{' '}
          <Box component="span" className="narrow" sx={{ color: 'text.secondary' }}>
            {l.run ? `run ${l.run.number} of ${l.run.asset}` : 'pinned by hand'}
          </Box>
        </Box>
      ))}
    </Box>
  );
}
