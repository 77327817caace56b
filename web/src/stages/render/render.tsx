'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import { TONES } from '@wellmorph/core/light/tone';
import type { RenderChoices } from '@wellmorph/core/pipeline/document';
import { nameOf } from '@wellmorph/core/pipeline/results';
import { fitNoise, forecast, type Measured, secondsASample } from '@wellmorph/core/render/forecast';
import { figure } from '@wellmorph/core/units/lengths';
import { useEffect, useState } from 'react';
import { Chart, warmCharts } from '@/plates/chart';
import { PlateFoot, PlateTop, PlateWords } from '@/plates/plate';
import { useLengths, useSession, useSheet } from '@/session/context';
import { putInQueue } from '@/session/queued';
import { isFresh } from '@/session/state';
import { inTime } from '@/shared/times';
import { AdviceCard } from '@/sheet/advice';
import { Columns } from '@/sheet/columns';
import { Choice, Heading, NumberField } from '@/sheet/fields';
import { JobBar } from '@/sheet/job-bar';
import { StatusMark } from '@/sheet/marks';
import { SuggestedHere } from '@/sheet/suggested';
import { useQueue } from '@/workshop/queue';
import { useLight } from '../light/use-light';
import { SweepButton } from '../sweep/sweep';
import { FigureRow } from '../unwrap/figure-row';
import { VariantPictures } from '../variants/pictures';
import { SideBySide, useLookPictures } from '../variants/side-by-side';
import { Frame, Pixels } from './picture';
import { runPreview, runRender, stopPreview } from './run';

/** What the full picture will take, from the preview's own measurements: the same noise a pixel, more pixels. */
function fullSize(measured: readonly Measured[], ratio: number): Measured[] {
  return measured.map((m) => ({ ...m, seconds: m.seconds * ratio }));
}

export function RenderStage() {
  const session = useSession();
  const document = useSheet((s) => s.document);
  const render = useSheet((s) => s.render);
  const form = useSheet((s) => s.form);
  const made = useSheet((s) => [s.unwrap?.name, s.bake?.name, s.surface?.name].join());
  const busy = useSheet((s) => s.job !== null);
  const rendering = useSheet((s) => s.job?.what === 'render');
  const growing = useSheet((s) => s.growing);
  const preview = useSheet((s) => s.preview);
  const { view, trouble } = useLight();
  const [show, setShow] = useState<'preview' | 'final' | 'variants'>('preview');
  const piece = useSheet((s) => s.piece);
  // Every picture that is made is a trial.
  const tried = useSheet((s) => `${s.render?.name} ${s.trials.length}`);
  const pictures = useLookPictures(piece, tried);
  const name = document ? nameOf(document, 'render') : null;
  // What the preview is a picture of doesn't depend on how many samples the final gets.
  const look = document
    ? JSON.stringify([
        document.rig,
        { ...document.shot, locked: 0 },
        nameOf(document, 'surface'),
        document.render.seed,
        document.render.maps,
        made,
      ])
    : null;
  const formed = form !== null && form.gpu.length > 0;
  useEffect(warmCharts, []);
  useEffect(() => {
    if (look && formed && !rendering) void runPreview(session);
    return () => stopPreview(session);
  }, [look, formed, rendering]);
  const { say } = useLengths();
  const jobs = useQueue();
  const id = useSheet((s) => s.id);
  const queued = jobs.find((j) => j.kind === 'render' && j.assetId === id && (j.state === 'waiting' || j.state === 'running'));
  useEffect(() => setShow((now) => (now === 'variants' ? now : rendering || render ? 'final' : 'preview')), [rendering, render]);
  if (!document || !name) return null;
  const r = document.render;
  const set = (patch: Partial<RenderChoices>) => session.dispatch({ type: 'render.set', patch });
  const fresh = isFresh(document, render, 'render');
  const { widthPx, heightPx } = document.shot;
  const ratio = preview ? (widthPx * heightPx) / (preview.width * preview.height) : 1;
  const measured = preview ? fullSize(preview.measured, ratio) : [];
  const { pace } = session.bench;
  const raw = r.until === 'noise' ? forecast(measured, r.noise) : null;
  const told = raw && { ...raw, seconds: pace.corrected('render', raw.seconds) };
  const fit = fitNoise(measured);
  const expected = measured.length > 0 ? fit.a * r.samples ** -fit.b : null;
  const each = measured.length > 0 ? pace.corrected('render', secondsASample(measured)) : null;
  const go = (
    <Button
      variant="contained"
      disabled={busy || !formed || view?.checks.some((c) => c.level === 'over' && c.id !== 'materials')}
      onClick={() => void runRender(session, told?.seconds ?? (each === null ? undefined : each * r.samples))}
    >
      {render ? 'Render again' : 'Render'}
    </Button>
  );
  const seen = show === 'final' && growing && (rendering || !render) ? growing : preview;
  return (
    <Columns
      controls={
        <Box sx={{ px: 1.8 }}>
          <Box sx={{ pb: 1.4, display: 'flex', gap: 1 }}>
            {go}
            <Button
              variant="outlined"
              disabled={!formed || queued !== undefined || document.shot.photo !== undefined}
              title={document.shot.photo === undefined ? undefined : 'A picture that stands in a photograph is drawn on the page'}
              onClick={() => void putInQueue(session, 'render', told?.seconds ?? (each === null ? null : each * r.samples))}
            >
              Put in the queue
            </Button>
          </Box>
          {queued && (
            <Box role="status" aria-label="in the queue" sx={{ fontSize: 12.5, color: 'text.secondary', mb: 1.2 }}>
              {queued.state === 'waiting'
                ? 'This piece’s picture waits in the queue.'
                : `Being drawn on the server: ${figure(100 * queued.share, 0)} %${queued.secondsLeft ? `, about ${inTime(queued.secondsLeft)} left` : ''}.`}
            </Box>
          )}
          <SweepButton stage="render" disabled={!formed} />
          {pictures.length > 0 && (
            <VariantPictures
              pictures={pictures}
              secondsEach={each === null ? null : each * r.samples}
              onDrawn={() => setShow('variants')}
            />
          )}
          <Choice
            label="Drawn with"
            value={r.maps ? 1 : 0}
            choices={[
              [1, 'its composed maps'],
              [0, 'plain materials'],
            ]}
            onChange={(v) => set({ maps: v === 1 })}
          />
          <Heading aside={`${widthPx} × ${heightPx} px`}>Until</Heading>
          <Choice
            label="It ends at"
            value={r.until}
            choices={[
              ['samples', 'so many samples'],
              ['noise', 'so little noise'],
            ]}
            onChange={(until) => set({ until })}
          />
          {r.until === 'samples' ? (
            <NumberField
              label="Samples a pixel"
              kind="whole"
              unit=""
              min={2}
              max={65536}
              value={r.samples}
              onCommit={(samples) => set({ samples })}
            />
          ) : (
            <NumberField
              label="Noise"
              kind="number"
              unit="%"
              digits={2}
              min={0.02}
              max={50}
              value={100 * r.noise}
              onCommit={(v) => set({ noise: v / 100 })}
            />
          )}
          <NumberField label="Seed" kind="whole" unit="" min={0} max={1e9} value={r.seed} onCommit={(seed) => set({ seed })} />
          <Choice
            label="Curve"
            hint="kept by the shot"
            value={document.shot.tone}
            choices={[
              ['neutral', TONES.neutral],
              ['linear', TONES.linear],
            ]}
            onChange={(tone) => session.dispatch({ type: 'shot.set', patch: { tone } })}
          />
          <Box sx={{ mt: 2 }}>
            <Heading>Forecast</Heading>
            {measured.length < 2 || each === null ? (
              <Box sx={{ color: 'text.secondary', fontSize: 13 }}>Measuring this scene’s own noise and cost …</Box>
            ) : r.until === 'noise' ? (
              told && (
                <Box sx={{ fontSize: 13.5 }}>
                  <b>{figure(told.samples, 0)} samples</b> a pixel for {figure(100 * r.noise, 2)} % noise: about{' '}
                  <b>{inTime(told.seconds)}</b>.
                </Box>
              )
            ) : (
              <Box sx={{ fontSize: 13.5 }}>
                About <b>{inTime(each * r.samples)}</b> for {figure(r.samples, 0)} samples; <b>{figure(100 * (expected ?? 0), 2)} %</b>{' '}
                noise will be left.
              </Box>
            )}
            {measured.length > 1 && (
              <Chart
                kind="line"
                height={130}
                label="Noise in per cent against samples per pixel"
                series={[{ name: 'measured', data: measured.map((m) => ({ x: m.samples, y: Math.round(1e4 * m.noise) / 100 })) }]}
                options={{
                  xaxis: { type: 'numeric', tickAmount: 3, title: { text: 'samples' } },
                  yaxis: { labels: { formatter: (v: number) => `${figure(v, 1)} %` }, min: 0 },
                  markers: { size: 3 },
                }}
              />
            )}
          </Box>
        </Box>
      }
      plate={
        <>
          <PlateTop>
            <ToggleButtonGroup value={show} onChange={(_, v: typeof show | null) => v && setShow(v)} aria-label="which picture">
              <ToggleButton value="preview">Preview</ToggleButton>
              <ToggleButton value="final" disabled={!render && !growing}>
                Picture
              </ToggleButton>
              {pictures.length > 0 && <ToggleButton value="variants">Variants</ToggleButton>}
            </ToggleButtonGroup>
          </PlateTop>
          {!formed ? (
            <PlateWords>There is nothing to draw yet. Form the piece or import one first.</PlateWords>
          ) : show === 'variants' && pictures.length > 0 ? (
            <SideBySide pictures={pictures} aspect={widthPx / heightPx} />
          ) : show === 'final' && render && !rendering ? (
            <Frame width={render.figures.width} height={render.figures.height}>
              <Box
                component="img"
                src={`/api/blobs/${render.png}`}
                alt={`Picture of ${document.name}`}
                sx={{ width: '100%', height: '100%', display: 'block' }}
              />
            </Frame>
          ) : seen?.rgba ? (
            <Pixels
              rgba={seen.rgba}
              width={seen.width}
              height={seen.height}
              label={`${seen.preview ? 'Preview' : 'Picture so far'} of ${document.name}`}
            />
          ) : (
            <PlateWords>{trouble ?? 'The first light is being traced …'}</PlateWords>
          )}
          {!rendering && (
            <PlateFoot>
              <span>
                {show === 'final' && render
                  ? `${figure(render.figures.samples, 0)} samples, noise ${figure(100 * render.figures.noise, 2)} %, ${inTime(render.figures.seconds)}`
                  : show === 'variants'
                    ? 'one shot, one light, one exposure: only they differ'
                    : preview
                      ? `preview, ${preview.width} × ${preview.height} px, ${preview.measured.at(-1)?.samples ?? 0} samples${preview.done ? '' : ' so far'}`
                      : ''}
              </span>
              <span>{show === 'final' && render && !fresh ? 'made from an older state' : ''}</span>
            </PlateFoot>
          )}
          <JobBar />
        </>
      }
      aside={
        <>
          {render && !fresh && (
            <AdviceCard
              level="near"
              title="This picture is from an older state."
              accept={{ words: 'Render again', run: () => void runRender(session), disabled: busy }}
            >
              The piece, its surface, the light or the shot have changed since it was made.
            </AdviceCard>
          )}
          <Heading>Safe to start?</Heading>
          {trouble && (
            <AdviceCard level="over" title={trouble}>
              Nothing was changed.
            </AdviceCard>
          )}
          {view?.checks.map((c) => (
            <Box key={c.id} sx={{ display: 'flex', gap: 1, py: 0.5, borderBottom: 1, borderColor: 'sheet.faint', fontSize: 13 }}>
              <Box sx={{ pt: '2px' }}>
                <StatusMark status={c.level} />
              </Box>
              <span>{say(c.sentence)}</span>
            </Box>
          ))}
          {render && (
            <Box sx={{ mt: 2 }}>
              <Heading aside={`${render.figures.width} × ${render.figures.height}`}>The picture</Heading>
              <FigureRow label="samples a pixel" value={figure(render.figures.samples, 0)} unit="" />
              <FigureRow
                label="noise of two halves"
                value={figure(100 * render.figures.noise, 2)}
                unit="%"
                bad={render.figures.noise > 0.02}
              />
              <FigureRow
                label="burnt out"
                value={figure(100 * render.figures.clippedShare, 2)}
                unit="%"
                bad={render.figures.clippedShare > 0.05}
              />
              <FigureRow
                label="light held back"
                value={figure(100 * render.figures.heldBackShare, 2)}
                unit="%"
                why="chanced upon by mirrors"
              />
              <FigureRow label="rays a sample" value={figure(render.figures.raysPerSample, 1)} unit="" />
              <FigureRow label="time" value={inTime(render.figures.seconds)} unit="" />
            </Box>
          )}
          <SuggestedHere stage="render" />
          <Box className="narrow" sx={{ fontSize: 12, color: 'text.secondary', mt: 2 }}>
            Paths are traced through area lamps, metal, rough and thin glass; light goes straight through clear panes, so they cast no bent
            light.
          </Box>
        </>
      }
    />
  );
}
