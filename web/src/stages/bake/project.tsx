'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import FormControlLabel from '@mui/material/FormControlLabel';
import { type AssetDocument, photosTaken, projectOf } from '@wellmorph/core/pipeline/document';
import {
  DEGREE_GRADIENT,
  honestSize,
  PHOTO_COLOURS,
  PIXEL_GRADIENT,
  PROJECTED,
  type ProjectCheck,
  type ProjectedMap,
  projectChecks,
  projectVerdict,
  standWords,
} from '@wellmorph/core/pipeline/project-figures';
import { figure } from '@wellmorph/core/units/lengths';
import { useBench, useLengths, useSession, useSheet } from '@/session/context';
import type { ProjectView } from '@/session/kept';
import { isFresh } from '@/session/state';
import { inTime, tookTime } from '@/shared/times';
import { Choice, Either, Heading } from '@/sheet/fields';
import { FigureTable } from '@/sheet/figure-table';
import { Checks } from './checks';
import { mendProject, runProject } from './project-run';
import { projectSeconds } from './project-task';
import { PictureChoice, PlateKey } from './shown';

/** Sides of sets, px. */
const SIZES = [512, 1024, 2048, 4096, 8192] as const;
const MENDS: Record<NonNullable<ProjectCheck['fix']>, string> = { 'take-all': 'Take them too', 'lay-anew': 'Lay them anew' };

/** Photographs laid on the piece: which, to what size, what becomes of what none sees, and the way to begin. */
export function ProjectPanel({ document, onMade }: { document: AssetDocument; onMade(): void }) {
  const session = useSession();
  const busy = useSheet((s) => s.job !== null);
  const form = useSheet((s) => s.form);
  const view = useSheet((s) => s.project);
  const layout = useSheet((s) => s.unwrap);
  const { pool, pace } = useBench();
  const photos = document.photos ?? [];
  const p = projectOf(document);
  const set = (patch: Partial<typeof p>) => session.dispatch({ type: 'project.set', patch });
  const checks = projectChecks(document, (id) => {
    const photo = photos.find((x) => x.id === id);
    return photo !== undefined && photo.pins.length > 1 && document.parts.some((x) => x.id === photo.part);
  });
  const fresh = isFresh(document, view, 'project');
  const able = !busy && form !== null && form.gpu.length > 0 && checks.every((c) => c.level !== 'over');
  const sizes = [...new Set([...SIZES, p.size])].sort((a, b) => a - b).map((s) => [s, `${s} px`] as const);
  return (
    <Box component="section" aria-label="photographs laid on" sx={{ px: 1.8, pb: 1.5 }}>
      <Heading aside="with the light in them">Photographs</Heading>
      {photos.map((photo) => (
        <FormControlLabel
          key={photo.id}
          control={
            <Checkbox
              size="small"
              checked={!photo.left}
              onChange={(_, on) => {
                const { left: _left, ...rest } = photo;
                session.dispatch({ type: 'photo.set', photo: on ? rest : { ...rest, left: true } });
              }}
            />
          }
          label={photo.name}
          sx={{ display: 'flex', m: 0, '& .MuiFormControlLabel-label': { fontSize: 13 } }}
        />
      ))}
      <Choice label="The set" value={p.size} choices={sizes} onChange={(size) => set({ size })} />
      <Choice
        label="What none sees"
        value={p.blind}
        choices={[
          ['plain', 'left in its mean colour'],
          ['across-x', 'from the other side, left and right'],
          ['across-z', 'from the other side, front and back'],
        ]}
        onChange={(blind) => set({ blind })}
      />
      <Either
        label="Handed over"
        hint={p.unlit ? undefined : 'it is lit twice then'}
        value={p.unlit}
        words={['unlit, as photographed', 'as a colour, lit once more']}
        onChange={(unlit) => set({ unlit })}
      />
      <Checks label="looked for before laying on" checks={checks} mends={MENDS} onMend={(fix) => mendProject(session, fix)} />
      {able && !fresh && (
        <Box role="note" aria-label="how long laying on takes" className="narrow" sx={{ fontSize: 12.5, color: 'text.secondary', mb: 0.6 }}>
          About {inTime(pace.corrected('project', projectSeconds(photosTaken(document), p.size, pool.threads)))} on this machine
          {isFresh(document, layout, 'unwrap') ? '' : ', after the layout'}.
        </Box>
      )}
      <Box sx={{ display: 'flex', gap: 1, flexWrap: 'wrap' }}>
        <Button variant="contained" disabled={!able} onClick={() => void runProject(session).then((made) => made && onMade())}>
          {view ? 'Lay them on again' : 'Lay them on'}
        </Button>
        {p.on && (
          <Button variant="outlined" disabled={busy} onClick={() => set({ on: false })}>
            Hand over without
          </Button>
        )}
        {!p.on && fresh && (
          <Button variant="outlined" disabled={busy} onClick={() => set({ on: true })}>
            Hand over with them
          </Button>
        )}
      </Box>
    </Box>
  );
}

const NAMES: Record<ProjectedMap, string> = {
  baseColour: 'As photographed',
  pixels: 'Pixels a texel got',
  degrees: 'At what angle',
  by: 'Which photograph',
};

/** Chooses which picture of the photographs laid on is looked at. */
export const ProjectedChoice = (props: { value: ProjectedMap; onChoose(map: ProjectedMap): void }) => (
  <PictureChoice label="which picture" names={PROJECTED.map((m) => [m, NAMES[m]] as const)} {...props} />
);

/** What the picture that is looked at means. */
export function ProjectedKey({ map, view, document }: { map: ProjectedMap; view: ProjectView; document: AssetDocument }) {
  if (map === 'baseColour') return null;
  const scale = (gradient: string, low: string, high: string) => (
    <Box sx={{ display: 'grid', gridTemplateColumns: 'auto 1fr auto', gap: 0.8, alignItems: 'center' }} className="mono">
      <span>{low}</span>
      <Box sx={{ height: 9, minWidth: 130, borderRadius: 0.5, background: gradient }} />
      <span>{high}</span>
    </Box>
  );
  return (
    <PlateKey label="what the picture means">
      {map === 'pixels' && <>{scale(PIXEL_GRADIENT, '¼ px', '4 px')}Of the photograph along a texel; pale: one to one. Grey: not seen.</>}
      {map === 'degrees' && <>{scale(DEGREE_GRADIENT, '0°', '85°')}From straight ahead. Grey: not seen.</>}
      {map === 'by' &&
        view.figures.photos.map(({ id }, i) => (
          <Box key={id} sx={{ display: 'flex', gap: 0.8, alignItems: 'center' }}>
            <Box sx={{ width: 12, height: 12, flex: 'none', bgcolor: `rgb(${PHOTO_COLOURS[i % PHOTO_COLOURS.length].join(' ')})` }} />
            {document.photos?.find((p) => p.id === id)?.name ?? 'a photograph that is gone'}
          </Box>
        ))}
    </PlateKey>
  );
}

/** What laying them on came to. */
export function ProjectFiguresPanel({ document, view }: { document: AssetDocument; view: ProjectView }) {
  const { length } = useLengths();
  const f = view.figures;
  const fresh = isFresh(document, view, 'project');
  const v = projectVerdict(f);
  const honest = honestSize(f);
  const name = (id: string) => document.photos?.find((p) => p.id === id)?.name ?? 'a photograph that is gone';
  return (
    <Box component="section" aria-label="photographs on the piece" sx={{ mb: 2 }}>
      <Heading aside={fresh ? undefined : 'of an older state'}>Photographs on the piece</Heading>
      <Box
        role="status"
        sx={{ fontSize: 13.5, mb: 0.8, color: v.level === 'over' ? 'error.main' : v.level === 'near' ? 'warning.main' : undefined }}
      >
        {v.sentence}
      </Box>
      <Box sx={{ fontSize: 12.5, color: 'text.secondary', mb: 0.8 }}>
        {honest && <Box sx={{ mb: 0.6 }}>Seen from what there is, {honest.sentence}</Box>}
        {f.stand && <Box sx={{ mb: 0.6 }}>{standWords(f.stand, (mm) => length(mm, 0))}</Box>}
        {f.overlap && (
          <Box sx={{ mb: 0.6 }}>
            Where photographs meet they are {figure(f.overlap.after, 1)} of 255 apart, {figure(f.overlap.before, 1)} before their exposures
            were matched ({figure(f.overlap.places, 0)} places).
          </Box>
        )}
        <span className="narrow">
          The set is {figure(f.off.mean, 1)} of 255 off what the photographs show, {figure(f.off.p95, 1)} in 95 of 100 places; made in{' '}
          {tookTime(f.seconds)}.
        </span>
      </Box>
      <FigureTable
        label="photographs"
        columns={['photograph', 'brighter', 'shows']}
        rows={f.photos.map((p) => ({
          key: p.id,
          head: name(p.id),
          cells: [`× ${figure(p.gain, 2)}`, `${figure(100 * p.share, 0)} %`],
        }))}
      />
      <FigureTable
        label="parts in photographs"
        columns={['part', 'seen', 'px a texel']}
        rows={f.parts.map((p) => ({
          key: p.id,
          head: p.name,
          cells: [`${figure(100 * p.seenShare, 0)} %`, p.pixels ? `${figure(p.pixels.p05, 1)} … ${figure(p.pixels.p95, 1)}` : '–'],
        }))}
      />
    </Box>
  );
}
