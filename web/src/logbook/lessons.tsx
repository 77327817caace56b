'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { ROLES } from '@wellmorph/core/pipeline/document';
import { useState } from 'react';
import type { LoggedRun } from '@/server/db/runs';
import type { LessonKind } from '@/server/db/schema';
import { send } from '@/session/api';
import { STATIONS } from '@/shared/stations';
import { Choice, Heading } from '@/sheet/fields';
import { PageLink } from '@/sheet/page-link';
import { Act, Written } from '@/sheet/plain';
import { useAsk, useLessons, useSnags } from './queries';

/** What a lesson is pinned to, in words. */
export function subjectWords(kind: LessonKind, subject: string): string {
  if (kind === 'role') return `parts that are ${ROLES[subject as keyof typeof ROLES] ?? subject}`;
  if (kind === 'stage') return STATIONS.find((s) => s.id === subject)?.name ?? subject;
  if (kind === 'step') return `steps: ${subject}`;
  return kind === 'rig' ? `the rig ${subject}` : subject;
}

/** Lessons and open snags, in the margin. */
export function LessonsMargin() {
  const lessons = useLessons();
  const snags = useSnags().filter((s) => !s.doneAt);
  const remove = useAsk(
    ({ id, removed }: { id: string; removed: boolean }) => send('PATCH', `/api/lessons/${id}`, { removed }),
    ['lessons'],
  );
  const [gone, setGone] = useState<string | null>(null);
  return (
    <>
      <Box component="section" aria-label="lessons" sx={{ mt: 2.4 }}>
        <Heading aside={lessons.length === 0 ? 'none yet' : `${lessons.length}`}>Lessons</Heading>
        {lessons.map((l) => (
          <Box
            key={l.id}
            sx={{
              border: 1,
              borderColor: 'divider',
              borderLeft: 4,
              borderLeftColor: 'primary.main',
              borderRadius: 1,
              p: 1,
              mb: 0.8,
              fontSize: 13,
            }}
          >
            “{l.sentence}”
            <Box className="narrow" sx={{ display: 'flex', fontSize: 12, color: 'text.secondary', gap: 1 }}>
              <span style={{ flex: 1 }}>
                pinned to {subjectWords(l.kind, l.subject)}
                {l.run && ` · run ${l.run.number}`}
              </span>
              <Act
                quiet
                aria-label={`Take away the lesson ${l.sentence}`}
                onClick={() => {
                  remove.mutate({ id: l.id, removed: true });
                  setGone(l.id);
                }}
              >
                remove
              </Act>
            </Box>
          </Box>
        ))}
        {gone && (
          <Box role="status" sx={{ fontSize: 12.5 }}>
            Removed.{' '}
            <Act
              onClick={() => {
                remove.mutate({ id: gone, removed: false });
                setGone(null);
              }}
            >
              Bring it back
            </Act>
          </Box>
        )}
        {lessons.length === 0 && (
          <Box sx={{ fontSize: 12.5, color: 'text.secondary' }}>
            Choose a run and pin what it taught: it then stands beside the field where the same is chosen again.
          </Box>
        )}
      </Box>
      <Box component="section" aria-label="snags" sx={{ mt: 2 }}>
        <Heading aside={snags.length === 0 ? 'none open' : `${Math.round(snags.reduce((n, s) => n + s.minutes, 0))} min`}>Snags</Heading>
        {snags.map((s) => (
          <Box key={s.id} className="narrow" sx={{ display: 'flex', gap: 1, fontSize: 12.5, py: 0.2 }}>
            <Box sx={{ flex: 1, minWidth: 0 }}>
              <PageLink href={`/assets/${s.assetId}/form`} style={{ color: 'inherit' }}>
                {s.asset}
              </PageLink>
              : {s.words}
            </Box>
            <Box className="mono" sx={{ color: 'text.secondary', whiteSpace: 'nowrap' }}>
              {s.minutes} min
            </Box>
          </Box>
        ))}
      </Box>
    </>
  );
}

/** Pins a sentence to what a run was about. */
export function PinLesson({ run }: { run: LoggedRun }) {
  const subjects: [LessonKind, string][] = [
    ...(run.about?.materials ?? []).map((m): [LessonKind, string] => ['material', m]),
    ...(run.about?.roles ?? []).map((r): [LessonKind, string] => ['role', r]),
    ...(run.about?.rig && (run.stage === 'light' || run.stage === 'render') ? [['rig', run.about.rig] as [LessonKind, string]] : []),
    ...(run.stage === 'form' ? (run.about?.steps ?? []) : []).map((s): [LessonKind, string] => ['step', s]),
    ['stage', run.stage],
  ];
  const [at, setAt] = useState(0);
  const [sentence, setSentence] = useState('');
  const pin = useAsk((lesson: object) => send('POST', '/api/lessons', lesson), ['lessons']);
  const save = () => {
    const [kind, subject] = subjects[Math.min(at, subjects.length - 1)];
    pin.mutate({ sentence: sentence.trim(), kind, subject, trial: run.id }, { onSuccess: () => setSentence('') });
  };
  return (
    <Box component="section" aria-label="pin a lesson" sx={{ mt: 1.6 }}>
      <Heading>Pin a lesson</Heading>
      <Written
        multiline
        minRows={2}
        placeholder="what it taught, in a sentence"
        value={sentence}
        inputProps={{ 'aria-label': 'Lesson', maxLength: 300 }}
        onChange={(e) => setSentence(e.target.value)}
        sx={{ width: '100%' }}
      />
      <Choice label="to" value={at} choices={subjects.map(([k, s], i) => [i, subjectWords(k, s)] as const)} onChange={setAt} />
      <Button variant="outlined" disabled={!sentence.trim() || pin.isPending} onClick={save}>
        Pin it
      </Button>
    </Box>
  );
}
