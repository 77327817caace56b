'use client';

import Box from '@mui/material/Box';
import { useQuery } from '@tanstack/react-query';
import type { Command } from '@wellmorph/core/pipeline/commands/index';
import { fieldName } from '@wellmorph/core/pipeline/field-names';
import { nameOf } from '@wellmorph/core/pipeline/results';
import type { Suggestion } from '@wellmorph/core/plan/nearest';
import { get } from '@/session/api';
import { useLengthUnit, useSession, useSheet } from '@/session/context';
import { Heading } from './fields';
import { LessonsBeside } from './lessons-beside';
import { Act } from './plain';
import { shownValue } from './trial-words';

/** What did well on the pieces most like this one, each with its evidence, taken in one click. */
export function SuggestedHere({ stage }: { stage: 'unwrap' | 'bake' | 'render' }) {
  const session = useSession();
  const unit = useLengthUnit();
  const id = useSheet((s) => s.id);
  const state = useSheet((s) => (s.document && s.saving === 'saved' ? nameOf(s.document, stage) : null));
  // Asked for the piece as it is stored: what was taken is no suggestion any more.
  const { data = [] } = useQuery({
    queryKey: ['runs', 'suggestions', id, stage, state],
    queryFn: () => get<(Suggestion & { command: Command })[]>(`/api/runs/suggestions?asset=${id}&stage=${stage}`),
    enabled: state !== null,
  });
  const lesson = <LessonsBeside kind="stage" subject={stage} />;
  if (data.length === 0) return lesson;
  return (
    <>
      {lesson}
      <Box component="section" aria-label="from the logbook" sx={{ mt: 2 }}>
        <Heading aside="the nearest pieces">From the logbook</Heading>
        {data.map((s) => (
          <Box key={s.key} sx={{ py: 0.5, borderBottom: 1, borderColor: 'sheet.faint', fontSize: 13 }}>
            <Box sx={{ display: 'flex', gap: 1 }}>
              <Box sx={{ flex: 1, minWidth: 0 }}>
                {fieldName(s.key)} <b className="mono">{shownValue(s.key, s.value, unit)}</b>
              </Box>
              <Act
                aria-label={`Take ${fieldName(s.key)}`}
                onClick={() => session.dispatch(s.command, `${fieldName(s.key)} ${shownValue(s.key, s.value, unit)}: ${s.sentence}`)}
              >
                Take
              </Act>
            </Box>
            <Box className="narrow" sx={{ fontSize: 12, color: 'text.secondary' }}>
              {s.sentence}
            </Box>
          </Box>
        ))}
      </Box>
    </>
  );
}
