'use client';

import Box from '@mui/material/Box';
import { FIX_NAMES, type Finding } from '@wellmorph/core/inspect/finding';
import { figure } from '@wellmorph/core/units/lengths';
import { type ReactNode, useState } from 'react';
import { useLengths, useSession, useSheet } from '@/session/context';
import { applyFixTo } from '@/stages/form/run';
import { Heading } from './fields';
import { InfoMark, StatusMark } from './marks';

const linkButton = {
  all: 'unset',
  cursor: 'pointer',
  fontSize: 12.5,
  fontWeight: 600,
  color: 'primary.main',
  borderBottom: '1px solid',
  '&:focus-visible': { outline: '2px solid', outlineColor: 'primary.main', outlineOffset: 2 },
} as const;

/** Findings, worst first: choosing one flies there; fixes and waivers can be taken back. */
export function Findings({
  findings,
  title = 'Findings',
  actions,
  busy,
}: {
  findings: readonly Finding[];
  title?: string;
  /** What can be done with all of them. */
  actions?: ReactNode;
  /** How far a longer look is that may still find more, 0…1. */
  busy?: number | null;
}) {
  const open = findings.filter((f) => !f.waived);
  const mend = open.filter((f) => f.severity !== 'information').length;
  const know = open.length - mend;
  const aside =
    findings.length === 0
      ? 'nothing found'
      : [
          mend > 0 && `${mend} to mend`,
          know > 0 && `${know} to know`,
          findings.length > open.length && `${findings.length - open.length} waived`,
        ]
          .filter(Boolean)
          .join(' · ');
  return (
    <Box component="section" aria-label={title} sx={{ mt: 2 }}>
      <Heading aside={busy == null ? aside : `${aside} · looking, ${Math.round(100 * busy)} %`}>{title}</Heading>
      {findings.map((f) => (
        <FindingRow key={f.id} finding={f} />
      ))}
      {actions}
    </Box>
  );
}

function FindingRow({ finding: f }: { finding: Finding }) {
  const session = useSession();
  const chosen = useSheet((s) => s.selected.finding === f.id);
  const part = useSheet((s) => s.document?.parts.find((p) => p.id === f.part));
  const [reason, setReason] = useState<string | null>(null);
  const { say } = useLengths();
  const mark = f.waived ? (
    <StatusMark status="ok" size={14} />
  ) : f.severity === 'error' ? (
    <StatusMark status="over" size={14} />
  ) : f.severity === 'warning' ? (
    <StatusMark status="near" size={14} />
  ) : (
    <InfoMark size={14} />
  );
  const waive = () => {
    if (
      reason &&
      reason.trim().length >= 3 &&
      session.dispatch({
        type: 'waive',
        waiver: { finding: f.id, reason: reason.trim(), value: f.value, ...(f.covers && { covers: [...f.covers] }) },
      })
    )
      setReason(null);
  };
  return (
    <Box
      sx={{
        display: 'grid',
        gridTemplateColumns: '22px 1fr',
        py: 0.9,
        borderBottom: 1,
        borderColor: 'sheet.faint',
        opacity: f.waived ? 0.75 : 1,
        bgcolor: chosen ? 'sheet.tint' : undefined,
      }}
      onMouseEnter={() => session.select({ finding: f.id })}
    >
      <Box sx={{ pt: '2px' }}>{mark}</Box>
      <Box>
        <Box
          component="button"
          type="button"
          onClick={() => session.select({ finding: f.id, part: f.part })}
          sx={{
            all: 'unset',
            cursor: f.where.length > 0 ? 'pointer' : 'default',
            fontSize: 13,
            lineHeight: 1.4,
            '&:focus-visible': { outline: '2px solid', outlineColor: 'primary.main' },
          }}
        >
          {say(f.message)}
        </Box>
        <Box className="narrow" sx={{ fontSize: 12, color: 'text.secondary', lineHeight: 1.4 }}>
          {f.waived
            ? `Meant: ${f.waived}`
            : f.reopened
              ? `Was meant, “${f.reopened}”, but covers something else now. ${say(f.why)}`
              : say(f.why)}
          {f.frees ? ` Frees ${figure(f.frees, 0)} triangles.` : ''}
        </Box>
        <Box sx={{ display: 'flex', flexWrap: 'wrap', columnGap: 1.6, rowGap: 0.5, mt: 0.4 }}>
          {!f.waived &&
            f.fixes.map((fix) => (
              <Box key={fix} component="button" type="button" sx={linkButton} onClick={() => void applyFixTo(session, f, fix)}>
                {FIX_NAMES[fix]}
              </Box>
            ))}
          {!f.waived && f.kind === 'open-rim' && part && !part.declaredOpen && (
            <Box
              component="button"
              type="button"
              sx={linkButton}
              onClick={() => session.dispatch({ type: 'part.set', part: part.id, patch: { declaredOpen: true } })}
            >
              Declare it open
            </Box>
          )}
          {f.waived ? (
            <Box component="button" type="button" sx={linkButton} onClick={() => session.dispatch({ type: 'unwaive', finding: f.id })}>
              Take the waiver back
            </Box>
          ) : (
            f.severity !== 'information' &&
            reason === null && (
              <Box
                component="button"
                type="button"
                sx={{ ...linkButton, color: 'text.secondary', fontWeight: 500 }}
                onClick={() => setReason('')}
              >
                It is meant …
              </Box>
            )
          )}
        </Box>
        {reason !== null && (
          <Box
            component="form"
            sx={{ display: 'flex', gap: 1, mt: 0.6 }}
            onSubmit={(e: React.FormEvent) => {
              e.preventDefault();
              waive();
            }}
          >
            <Box
              component="input"
              autoFocus
              aria-label="Why it is meant"
              placeholder="because …"
              value={reason}
              onChange={(e: React.ChangeEvent<HTMLInputElement>) => setReason(e.target.value)}
              onKeyDown={(e: React.KeyboardEvent) => e.key === 'Escape' && setReason(null)}
              sx={{
                flex: 1,
                minWidth: 0,
                font: 'inherit',
                fontSize: 12.5,
                border: 1,
                borderColor: 'divider',
                borderRadius: 1,
                px: 0.8,
                bgcolor: 'background.paper',
                color: 'text.primary',
              }}
            />
            <Box component="button" type="submit" sx={linkButton} disabled={reason.trim().length < 3}>
              Waive
            </Box>
          </Box>
        )}
      </Box>
    </Box>
  );
}
