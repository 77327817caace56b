'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import FormControlLabel from '@mui/material/FormControlLabel';
import { DELIVERABLES, type Deliverable, type HandoffChoices, LEVEL_SHARES, MOST_LEVELS } from '@wellmorph/core/pipeline/document';
import { fileName } from '@wellmorph/core/pipeline/export';
import { notCarried, preflight } from '@wellmorph/core/pipeline/preflight';
import { calledAs } from '@wellmorph/core/pipeline/variants';
import { figure } from '@wellmorph/core/units/lengths';
import { useState } from 'react';
import { useLengths, useSession, useSheet } from '@/session/context';
import { AdviceCard } from '@/sheet/advice';
import { Columns } from '@/sheet/columns';
import { download } from '@/sheet/download';
import { Choice, Either, Heading } from '@/sheet/fields';
import { JobBar } from '@/sheet/job-bar';
import { StatusMark } from '@/sheet/marks';
import { PageLink } from '@/sheet/page-link';
import { Plain } from '@/sheet/plain';
import { useSnagsHere } from '@/sheet/snags';
import { assetState, makeArchive } from './run';

/** Ways of handing over that come up again and again. */
const PRESETS: { name: string; why: string; choices: HandoffChoices }[] = [
  {
    name: 'For a game engine',
    why: 'GLB with its textures beside it, metres, green up',
    choices: {
      unit: 'm',
      y: 'up',
      include: { glb: true, obj: false, textures: true, layout: false, picture: false, sheet: true, levels: true },
    },
  },
  {
    name: 'Green down',
    why: 'the same for engines that want the normal map’s green turned over',
    choices: {
      unit: 'm',
      y: 'down',
      include: { glb: true, obj: false, textures: true, layout: false, picture: false, sheet: true, levels: true },
    },
  },
  {
    name: 'Everything',
    why: 'all formats, millimetres, picture and spec sheet',
    choices: {
      unit: 'mm',
      y: 'up',
      include: { glb: true, obj: true, textures: true, layout: true, picture: true, sheet: true, levels: false },
    },
  },
];

/** Sizes after a set’s own, each half of the one before, in words. */
const halves = (size: number, count: number): string => Array.from({ length: count }, (_, n) => size / 2 ** (n + 1)).join(', ');

export function HandOffStage() {
  const session = useSession();
  const document = useSheet((s) => s.document);
  const busy = useSheet((s) => s.job !== null);
  const id = useSheet((s) => s.id);
  // The preflight looks at every stage.
  const sheet = useSheet((s) => s);
  const [packed, setPacked] = useState<{
    of: string;
    name: string;
    bytes: number;
    files: { name: string; bytes: number; what: string }[];
  } | null>(null);
  const { say } = useLengths();
  const known = assetState(sheet);
  const snags = useSnagsHere().filter((s) => !s.doneAt);
  if (!document || !known) return null;
  const state = { ...known, kept: { work: [], machineMinutes: 0, snags, advice: [] } };
  const h = document.handoff;
  const set = (patch: Partial<HandoffChoices>) => session.dispatch({ type: 'handoff.set', patch });
  const lines = preflight(state);
  const over = lines.filter((l) => l.level === 'over').length;
  const near = lines.filter((l) => l.level === 'near').length;
  const none = !Object.values(h.include).some(Boolean);
  const same = (a: HandoffChoices) => a.unit === h.unit && a.y === h.y && JSON.stringify(a.include) === JSON.stringify(h.include);
  const pack = async () => {
    const made = await makeArchive(session);
    if (!made) return;
    setPacked({ of: document.name, name: made.name, bytes: made.zip.length, files: made.files });
    download(made.name, made.zip);
    if (made.without.length > 0)
      session.notify(`No picture went in of ${made.without.join(', ')}: none is of its present state. Render the variants first.`);
  };
  const lost = notCarried(document, h.include);
  return (
    <Columns
      controls={
        <Box sx={{ px: 1.8 }}>
          <Box sx={{ pb: 1.6 }}>
            <Button variant="contained" disabled={busy || none || document.parts.length === 0} onClick={() => void pack()}>
              Pack and download
            </Button>
          </Box>
          <Heading>To whom</Heading>
          {PRESETS.map((p) => (
            <Plain
              key={p.name}
              aria-pressed={same(p.choices)}
              onClick={() => session.dispatch({ type: 'handoff.set', patch: p.choices })}
              sx={{
                display: 'block',
                width: '100%',
                px: 1.1,
                py: 0.7,
                mb: 0.6,
                border: 1,
                borderRadius: 1,
                borderColor: same(p.choices) ? 'primary.main' : 'divider',
                bgcolor: same(p.choices) ? 'sheet.tint' : 'background.paper',
              }}
            >
              <Box sx={{ fontWeight: 620, fontSize: 13 }}>{p.name}</Box>
              <Box className="narrow" sx={{ fontSize: 12, color: 'text.secondary' }}>
                {p.why}
              </Box>
            </Plain>
          ))}
          <Box sx={{ mt: 1.6 }}>
            <Heading>What goes in</Heading>
            {(Object.keys(DELIVERABLES) as Deliverable[]).map((d) => (
              <FormControlLabel
                key={d}
                label={DELIVERABLES[d]}
                control={<Checkbox checked={h.include[d]} onChange={(e) => set({ include: { ...h.include, [d]: e.target.checked } })} />}
                sx={{ display: 'flex', mr: 0, minHeight: 28 }}
              />
            ))}
            {none && (
              <Box role="alert" sx={{ color: 'error.main', fontSize: 12 }}>
                Nothing is chosen, so there would be nothing in it.
              </Box>
            )}
          </Box>
          <Box sx={{ mt: 1.6 }}>
            <Heading>Conventions</Heading>
            <Choice
              label="Unit of the OBJ"
              value={h.unit}
              choices={[
                ['mm', 'millimetres'],
                ['cm', 'centimetres'],
                ['m', 'metres'],
                ['in', 'inches'],
              ]}
              onChange={(unit) => set({ unit })}
            />
            {h.include.levels && (
              <Choice
                label="Further levels"
                hint={`for ${LEVEL_SHARES.slice(0, h.levels)
                  .map((s) => `1∕${1 / s}`)
                  .join(', ')} of the height`}
                value={h.levels ?? MOST_LEVELS}
                choices={[
                  [1, 'one'],
                  [2, 'two'],
                  [3, 'three'],
                ]}
                onChange={(levels) => set({ levels })}
              />
            )}
            <Choice
              label="Smaller textures too"
              hint={h.smaller ? `${halves(document.brief.limits.textureSize, h.smaller)} px` : undefined}
              value={h.smaller ?? 0}
              choices={[
                [0, 'none'],
                [1, 'half'],
                [2, 'half and a quarter'],
                [3, 'down to an eighth'],
              ]}
              onChange={(smaller) => set({ smaller })}
            />
            <Either
              label="Diffuse, specular, gloss too"
              hint="for receivers of the older school"
              value={h.specular === true}
              words={['yes', 'no']}
              onChange={(specular) => set({ specular })}
            />
            <Choice
              label="Colours as JPEG too"
              hint="with what is lost by it"
              value={h.jpeg ?? 0}
              choices={[
                [0, 'no'],
                [80, 'quality 80'],
                [90, 'quality 90'],
                [96, 'quality 96'],
              ]}
              onChange={(jpeg) => set({ jpeg })}
            />
            <Either
              label="The set on one sheet"
              hint="its maps side by side"
              value={h.setSheet === true}
              words={['yes', 'no']}
              onChange={(setSheet) => set({ setSheet })}
            />
            {(document.variants?.length ?? 0) > 0 && (
              <Either
                label="Every variant too"
                hint="each in a folder of its own"
                value={h.variants === true}
                words={['yes', 'no']}
                onChange={(variants) => set({ variants })}
              />
            )}
            <Choice
              label="Normal map beside it"
              value={h.y}
              choices={[
                ['up', 'Y up'],
                ['down', 'Y down'],
              ]}
              onChange={(y) => set({ y })}
            />
            <Box className="narrow" sx={{ fontSize: 12, color: 'text.secondary' }}>
              Textures are named <span className="mono">{fileName(calledAs(document))}_channel.png</span>. The GLB is always in metres with
              its own map Y up, as the format says.
            </Box>
          </Box>
        </Box>
      }
      plate={
        <>
          <Box sx={{ position: 'absolute', inset: 0, overflowY: 'auto', p: 3 }}>
            <Box sx={{ maxWidth: 760, mx: 'auto', bgcolor: 'background.paper', border: 1, borderColor: 'divider', px: 3.5, py: 3 }}>
              <Box component="h2" sx={{ typography: 'h1', m: 0 }}>
                {over > 0
                  ? `${over === 1 ? 'One thing stands' : `${over} things stand`} in the way`
                  : near > 0
                    ? `Ready, with ${near === 1 ? 'one thing' : `${near} things`} to look at`
                    : 'Ready to hand over'}
              </Box>
              <Box sx={{ color: 'text.secondary', mb: 2 }}>Every stage was looked over, from the brief to the picture.</Box>
              {lines.map((l) => (
                <Box
                  key={l.id}
                  sx={{
                    display: 'grid',
                    gridTemplateColumns: '24px 1fr auto',
                    gap: 1,
                    alignItems: 'baseline',
                    py: 0.8,
                    borderTop: 1,
                    borderColor: 'sheet.faint',
                  }}
                >
                  <Box sx={{ alignSelf: 'center' }}>
                    <StatusMark status={l.level} />
                  </Box>
                  <span>{say(l.sentence)}</span>
                  {l.level !== 'ok' && (
                    <Box
                      component={PageLink}
                      href={`/assets/${id}/${l.stage === 'handoff' ? 'hand-off' : l.stage}`}
                      sx={{ color: 'primary.main', fontSize: 13 }}
                    >
                      go there
                    </Box>
                  )}
                </Box>
              ))}
              {packed && packed.of === document.name && (
                <Box sx={{ mt: 3 }}>
                  <Heading aside={`${packed.name}, ${figure(packed.bytes / 1e6, 2)} MB`}>Packed</Heading>
                  {packed.files.map((f) => (
                    <Box
                      key={f.name}
                      sx={{
                        display: 'grid',
                        gridTemplateColumns: '1fr auto 86px',
                        gap: 2,
                        py: 0.35,
                        fontSize: 13,
                        borderBottom: 1,
                        borderColor: 'sheet.faint',
                      }}
                    >
                      <span className="mono">{f.name}</span>
                      <Box className="narrow" sx={{ color: 'text.secondary' }}>
                        {f.what}
                      </Box>
                      <Box className="mono" sx={{ textAlign: 'right' }}>
                        {figure(f.bytes / 1000, 0)} kB
                      </Box>
                    </Box>
                  ))}
                </Box>
              )}
            </Box>
          </Box>
          <JobBar />
        </>
      }
      aside={
        <>
          {lost.length > 0 ? (
            <>
              <Heading>What the formats can’t carry</Heading>
              {lost.map((s) => (
                <Box key={s} sx={{ fontSize: 13, py: 0.6, borderBottom: 1, borderColor: 'sheet.faint' }}>
                  {s}
                </Box>
              ))}
            </>
          ) : (
            <AdviceCard title="Nothing is lost.">The chosen formats carry all that the piece is made of.</AdviceCard>
          )}
          <Box sx={{ mt: 2 }}>
            <Heading>Sources</Heading>
            {document.sources.length === 0 && <Box sx={{ color: 'text.secondary', fontSize: 13 }}>All of it was made here.</Box>}
            {document.sources.map((s) => (
              <Box key={s.fileName} sx={{ fontSize: 13, py: 0.4 }}>
                {s.fileName}
                <Box className="narrow" sx={{ color: s.licence ? 'text.secondary' : 'warning.main', fontSize: 12 }}>
                  {s.licence || 'no licence noted'}
                </Box>
                {s.note && (
                  <Box className="narrow" sx={{ color: 'text.secondary', fontSize: 12, lineHeight: 1.4 }}>
                    {s.note}
                  </Box>
                )}
              </Box>
            ))}
          </Box>
          <Box sx={{ mt: 2 }}>
            <Heading>Waivers</Heading>
            {state.findings.filter((f) => f.waived).length === 0 && <Box sx={{ color: 'text.secondary', fontSize: 13 }}>None.</Box>}
            {state.findings
              .filter((f) => f.waived)
              .map((f) => (
                <Box key={f.id} sx={{ fontSize: 13, py: 0.4 }}>
                  {say(f.message)}
                  <Box className="narrow" sx={{ color: 'text.secondary', fontSize: 12 }}>
                    intended: {f.waived}
                  </Box>
                </Box>
              ))}
          </Box>
        </>
      }
    />
  );
}
