'use client';

import Box from '@mui/material/Box';
import ButtonBase from '@mui/material/ButtonBase';
import Collapse from '@mui/material/Collapse';
import Typography from '@mui/material/Typography';
import { FIX_NAMES, type Finding } from '@wellmorph/core/inspect/finding';
import { type Group, grouped } from '@wellmorph/core/inspect/grouped';
import { several } from '@wellmorph/core/pipeline/commands/together';
import { figure } from '@wellmorph/core/units/lengths';
import { type ReactNode, useMemo, useState } from 'react';
import { useLengths, useSession, useSheet } from '@/session/context';
import { applyFixTo } from '@/stages/form/run';
import { Heading } from './fields';
import { InfoMark, StatusMark } from './marks';
import { Act } from './plain';
import { WhyMeant } from './why-meant';

/** Findings, worst first, one entry for each kind: choosing one flies there; fixes and waivers can be taken back. */
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
  const groups = useMemo(() => grouped(findings), [findings]);
  const open = groups.filter((g) => !g.waived);
  const mend = open.filter((g) => g.severity !== 'information').length;
  const know = open.length - mend;
  const aside =
    groups.length === 0
      ? 'nothing found'
      : [
          mend > 0 && `${mend} to mend`,
          know > 0 && `${know} to know`,
          groups.length > open.length && `${groups.length - open.length} waived`,
        ]
          .filter(Boolean)
          .join(' · ');
  return (
    <Box component="section" aria-label={title} sx={{ mt: 2 }}>
      <Heading aside={busy == null ? aside : `${aside} · looking, ${Math.round(100 * busy)} %`}>{title}</Heading>
      {groups.map((g) => (
        <GroupRow key={g.id} group={g} />
      ))}
      {actions}
    </Box>
  );
}

const SIZE = 14;
function SeverityMark({ waived, severity }: Pick<Group, 'waived' | 'severity'>) {
  if (waived) return <StatusMark status="ok" size={SIZE} />;
  if (severity === 'information') return <InfoMark size={SIZE} />;
  return <StatusMark status={severity === 'error' ? 'over' : 'near'} size={SIZE} />;
}

function GroupRow({ group: g }: { group: Group }) {
  const session = useSession();
  const chosen = useSheet((s) => s.selected.finding === g.id);
  const [shown, setShown] = useState(false);
  const { say } = useLengths();
  const [first] = g.findings;
  const count = g.findings.length;
  return (
    <Box
      sx={{
        display: 'grid',
        gridTemplateColumns: '22px 1fr',
        py: 0.9,
        borderBottom: 1,
        borderColor: 'sheet.faint',
        opacity: g.waived ? 0.75 : 1,
        bgcolor: chosen ? 'sheet.tint' : undefined,
      }}
      onMouseEnter={() => session.select({ finding: g.id })}
    >
      <Box sx={{ pt: '2px' }}>
        <SeverityMark {...g} />
      </Box>
      <Box sx={{ minWidth: 0 }}>
        <Message onClick={() => session.select({ finding: g.id, part: count === 1 ? first.part : null })}>{say(g.message)}</Message>
        <Typography className="narrow" variant="body2" sx={{ fontSize: 12, color: 'text.secondary' }}>
          {g.waived
            ? `Meant: ${g.waived}`
            : g.reopened
              ? `Was meant, “${g.reopened}”, but covers something else now. ${say(g.why)}`
              : say(g.why)}
          {g.frees ? ` Frees ${figure(g.frees, 0)} triangles.` : ''}
        </Typography>
        <Doings findings={g.findings} group={g}>
          {count > 1 && (
            <Act quiet aria-expanded={shown} onClick={() => setShown(!shown)}>
              {shown ? 'Hide the parts' : `Show the ${figure(count, 0)} parts`}
            </Act>
          )}
        </Doings>
        <Collapse in={shown} unmountOnExit>
          <Box component="ul" sx={{ listStyle: 'none', m: 0, mt: 0.8, p: 0, pl: 1, borderLeft: 2, borderColor: 'sheet.faint' }}>
            {g.findings.map((f) => (
              <Box component="li" key={f.id} sx={{ py: 0.5 }} onMouseEnter={() => session.select({ finding: f.id })}>
                <Message onClick={() => session.select({ finding: f.id, part: f.part })}>{say(f.message)}</Message>
                <Doings findings={[f]} group={{ ...g, fixes: f.fixes }} />
              </Box>
            ))}
          </Box>
        </Collapse>
      </Box>
    </Box>
  );
}

/** A sentence that can be chosen: the view flies to what it is about. */
const Message = ({ onClick, children }: { onClick(): void; children: ReactNode }) => (
  <ButtonBase
    onClick={onClick}
    sx={{
      display: 'inline',
      textAlign: 'left',
      font: 'inherit',
      fontSize: 13,
      lineHeight: 1.4,
      verticalAlign: 'baseline',
      '&:focus-visible': { outline: '2px solid', outlineColor: 'primary.main' },
    }}
  >
    {children}
  </ButtonBase>
);

/** What can be done about findings of one kind: mend them, declare them meant, take that back. */
function Doings({ findings, group: g, children }: { findings: readonly Finding[]; group: Group; children?: ReactNode }) {
  const session = useSession();
  const document = useSheet((s) => s.document);
  const [asked, setAsked] = useState(false);
  const all = findings.length > 1 ? ` on all ${figure(findings.length, 0)}` : '';
  const ids = new Set(findings.map((f) => f.part));
  const undeclared = g.kind === 'open-rim' ? (document?.parts ?? []).filter((p) => ids.has(p.id) && !p.declaredOpen) : [];
  const waive = (words: string) => {
    const waivers = findings.map((f) => ({
      type: 'waive' as const,
      waiver: { finding: f.id, reason: words, value: f.value, ...(f.covers && { covers: [...f.covers] as typeof f.covers }) },
    }));
    if (session.dispatch(several(`waived ${figure(waivers.length, 0)} findings: ${words}`, waivers))) setAsked(false);
  };
  return (
    <>
      <Box sx={{ display: 'flex', flexWrap: 'wrap', columnGap: 1.6, rowGap: 0.5, mt: 0.4 }}>
        {!g.waived &&
          g.fixes.map((fix) => (
            <Act key={fix} onClick={() => void applyFixTo(session, findings, fix)}>
              {FIX_NAMES[fix]}
              {all}
            </Act>
          ))}
        {!g.waived && undeclared.length > 0 && (
          <Act
            onClick={() =>
              session.dispatch(
                several(
                  `declared ${figure(undeclared.length, 0)} parts open`,
                  undeclared.map((p) => ({ type: 'part.set', part: p.id, patch: { declaredOpen: true } })),
                ),
              )
            }
          >
            {findings.length > 1 ? 'Declare all of them open' : 'Declare it open'}
          </Act>
        )}
        {g.waived ? (
          <Act
            onClick={() =>
              session.dispatch(
                several(
                  `took ${figure(findings.length, 0)} waivers back`,
                  findings.map((f) => ({ type: 'unwaive', finding: f.id })),
                ),
              )
            }
          >
            {findings.length > 1 ? 'Take the waivers back' : 'Take the waiver back'}
          </Act>
        ) : (
          g.severity !== 'information' &&
          !asked && (
            <Act quiet onClick={() => setAsked(true)}>
              {findings.length > 1 ? 'They are meant …' : 'It is meant …'}
            </Act>
          )
        )}
        {children}
      </Box>
      {asked && <WhyMeant does="Waive" onSay={waive} onLeave={() => setAsked(false)} />}
    </>
  );
}
