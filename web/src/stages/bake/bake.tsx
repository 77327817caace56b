'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import { PREVIEW } from '@wellmorph/core/bake/forecast';
import type { WorstPlace } from '@wellmorph/core/bake/judge';
import type { TileRect } from '@wellmorph/core/bake/window';
import { adviseBrief } from '@wellmorph/core/brief/advice';
import type { BakeFigures, BakeFile } from '@wellmorph/core/pipeline/bake';
import { canBake, deliveredParts } from '@wellmorph/core/pipeline/document';
import type { GatheredMap } from '@wellmorph/core/pipeline/gather-figures';
import type { ProjectedMap } from '@wellmorph/core/pipeline/project-figures';
import { figure } from '@wellmorph/core/units/lengths';
import { useCallback, useEffect, useMemo, useState } from 'react';
import { warmCharts } from '@/plates/chart';
import { LayoutPlate } from '@/plates/layout';
import type { PlaceMarks } from '@/plates/place-marks';
import { Piece, PlateFoot, PlateTop, PlateWords, TwoPlates } from '@/plates/plate';
import type { QueuedJob } from '@/server/jobs/queue';
import { useSession, useSheet } from '@/session/context';
import type { BakeView } from '@/session/kept';
import { putInQueue } from '@/session/queued';
import { isFresh } from '@/session/state';
import { inTime, tookTime } from '@/shared/times';
import { Columns } from '@/sheet/columns';
import { download } from '@/sheet/download';
import { JobBar } from '@/sheet/job-bar';
import { useMaterials } from '@/sheet/materials';
import { SuggestedHere } from '@/sheet/suggested';
import { bakeForecast, runBake } from '@/stages/bake/run';
import { showHigh } from '@/stages/form/run';
import { exportFiles } from '@/stages/hand-off/run';
import type { IslandPath } from '@/workers/protocol';
import { useQueue } from '@/workshop/queue';
import { SweepButton } from '../sweep/sweep';
import { type Brush, DistanceSettings, useBrush, useStroking } from './brush';
import { useCage } from './cage';
import { FromItself, roundedBy } from './from-itself';
import { canGather, GatherPanel } from './gather';
import { GatheredChoice, GatherFiguresPanel, useSetOn } from './gathered';
import { InQueue } from './in-queue';
import { Judged } from './judged';
import { usePairs } from './lies';
import { MapSettings } from './maps';
import { PairAdvice } from './pair-advice';
import { Pairs } from './pairs';
import { useBakePreview } from './preview';
import { Previewed } from './previewed';
import { ProjectedChoice, ProjectedKey, ProjectFiguresPanel, ProjectPanel } from './project';
import { MapChoice, MapKey, shownFile } from './shown';
import { type BakedWindow, useWindow } from './window';

/** Files of a stored bake by their addresses. */
const stored = (files: BakeView['files']): BakeView['files'] =>
  Object.fromEntries(Object.entries(files).map(([name, hash]) => [name, `/api/blobs/${hash}`]));

/** What the bake took: all of it, or the rows that differ from the one before. */
const howMade = ({ rays, seconds, anewShare }: BakeFigures): string =>
  anewShare === undefined
    ? `${figure(rays / 1e6, 1)} M rays in ${figure(seconds, 0)} s`
    : `${figure(100 * anewShare, 0)} % of the rows baked anew in ${figure(seconds, 0)} s`;

/** What is to be known of the rectangle. */
function frameWords(rect: TileRect | null, baked: BakedWindow | null): string {
  if (!rect) return 'Draw a rectangle: it alone is baked, at full size.';
  if (!baked) return 'Baking the rectangle …';
  const lost =
    baked.missedShare > 0 ? `${figure(100 * baked.missedShare, 1)} % of its rays find nothing` : 'every ray of it finds something';
  return `${baked.side}² texels at full size in ${tookTime(baked.milliseconds / 1000)}: ${lost}`;
}

type Show = 'baked' | 'map' | 'bare' | 'high' | 'gathered' | 'project';
/** Sets that take the place of a piece’s own materials are looked at by themselves. */
const isSet = (show: Show): boolean => show === 'gathered' || show === 'project';
const NO_ISLANDS: IslandPath[] = [];
const NOTHING = () => {};
const OPEN: readonly QueuedJob['state'][] = ['waiting', 'running', 'paused'];

export function BakeStage() {
  const session = useSession();
  const document = useSheet((s) => s.document);
  const form = useSheet((s) => s.form);
  const layout = useSheet((s) => s.unwrap);
  const bake = useSheet((s) => s.bake);
  const high = useSheet((s) => s.high);
  const selected = useSheet((s) => s.selected);
  const id = useSheet((s) => s.id);
  const busy = useSheet((s) => s.job !== null);
  const materialOf = useMaterials();
  const [show, setShow] = useState<Show>('baked');
  const [map, setMap] = useState<BakeFile>('normal');
  const [marks, setMarks] = useState<PlaceMarks>([]);
  const [kept, setBrush] = useBrush();
  const [caged, setCaged] = useState(false);
  const [framing, setFraming] = useState(false);
  const [rect, setRect] = useState<TileRect | null>(null);
  const gatherView = useSheet((s) => s.gather);
  const [gatheredMap, setGatheredMap] = useState<GatheredMap>('baseColour');
  const gathered = useSetOn('gather', show === 'gathered');
  const projectView = useSheet((s) => s.project);
  const [projectedMap, setProjectedMap] = useState<ProjectedMap>('baseColour');
  const projected = useSetOn('project', show === 'project');
  const onSet = show === 'project' ? projected : gathered;
  const cage = useCage(caged);
  const preview = useBakePreview();
  const pairs = usePairs();
  const jobs = useQueue();
  const queued = jobs.find((j) => j.kind === 'bake' && j.assetId === id && OPEN.includes(j.state));
  useEffect(warmCharts, []);
  useEffect(() => {
    if (show === 'high') void showHigh(session);
  }, [show, document]);
  const worst = bake?.figures.judgement;
  useEffect(() => setMarks([]), [worst]);
  const strays = (preview ?? bake)?.figures.ids?.strays;
  const astray = useMemo(() => strays?.map((s) => ({ part: s.part, faces: s.faces })), [strays]);
  const shownName = preview ? shownFile(preview.files, map) : bake ? shownFile(bake.files, map) : map;
  const inFrame = useWindow(framing ? rect : null, shownName);
  const dabs = document?.bake.dabs;
  // There is nothing to erase any more.
  const spent = kept.does === 'erases' && !dabs?.length;
  const brush = useMemo((): Brush => (spent ? { ...kept, does: 'nothing' } : kept), [kept, spent]);
  const painting = brush.does !== 'nothing' && show !== 'high' && !isSet(show);
  const { stroking, drawn } = useStroking(brush, painting);
  const dots = useMemo(() => [...(dabs ?? []), ...drawn].map((d) => ({ part: d.part, points: [d.at] })), [dabs, drawn]);
  const showPlace = useCallback((p: WorstPlace) => {
    setShow((now) => (now === 'high' ? 'baked' : now));
    setMarks([{ part: p.id, points: [[p.x, p.y, p.z]] }]);
  }, []);
  if (!document) return null;
  const b = document.bake;
  const fresh = isFresh(document, bake, 'bake');
  const frame = framing ? { at: rect, shown: inFrame, onDraw: setRect } : undefined;
  const formed = Boolean(form && form.gpu.length > 0);
  const able = formed && canBake(document);
  const told = bakeForecast({ id, document, form, unwrap: layout, bake, high }, session.bench);
  const wanted = adviseBrief(document.brief).wanted.densityPxPerCm;
  const gatheredBlob = gatherView?.files[gatherView.files[gatheredMap] ? gatheredMap : 'baseColour'];
  const setBlob = show === 'project' ? projectView?.files[projectedMap] : gatheredBlob;
  const setPicture = setBlob && `/api/blobs/${setBlob}`;
  // What each texel got is looked at without light.
  const setMapOn = show === 'project' && projectedMap !== 'baseColour';
  const setFresh = show === 'project' ? isFresh(document, projectView, 'project') : isFresh(document, gatherView, 'gather');
  const nothing = !b.normal && !b.occlusion && b.further.length === 0;
  const bakeButton =
    formed && !able && deliveredParts(document).length > 0 ? (
      <FromItself radius={roundedBy(form?.gpu ?? [])} disabled={busy || nothing} />
    ) : (
      <Button variant="contained" disabled={busy || !able || nothing} onClick={() => void runBake(session)}>
        {bake ? 'Bake again' : 'Bake'}
      </Button>
    );
  // What is previewed is of the settings as they are now; what was baked stays in view until then.
  const look = preview ?? (bake && { figures: bake.figures, files: stored(bake.files) });
  const file = look ? shownFile(look.files, map) : null;
  const shownMap = file ? look?.files[file] : undefined;
  const gpu = show === 'high' ? high?.gpu : (layout?.gpu ?? form?.gpu);
  return (
    <Columns
      controls={
        <Box>
          <Box sx={{ px: 1.8, pb: 1.4, display: 'flex', gap: 1, flexWrap: 'wrap' }}>
            {bakeButton}
            {able && (
              <Button
                variant="outlined"
                disabled={busy || nothing || queued !== undefined}
                onClick={() => void putInQueue(session, 'bake', told)}
              >
                Queue it
              </Button>
            )}
            <Export />
          </Box>
          {told !== null && !busy && (!fresh || !bake) && (
            <Box
              role="note"
              aria-label="how long it takes"
              className="narrow"
              sx={{ px: 1.8, pb: 1.2, fontSize: 12.5, color: 'text.secondary' }}
            >
              About {inTime(told)} on this machine{layout ? '' : ', after the layout'}.
            </Box>
          )}
          {queued && <InQueue job={queued} />}
          <Box sx={{ px: 1.8 }}>
            <SweepButton stage="bake" disabled={!able || nothing} />
          </Box>
          {canGather(document) && <GatherPanel document={document} wanted={wanted} onMade={() => setShow('gathered')} />}
          {(document.photos?.length ?? 0) > 0 && <ProjectPanel document={document} onMade={() => setShow('project')} />}
          <Pairs measured={pairs} />
          <MapSettings document={document}>
            <DistanceSettings document={document} brush={brush} onBrush={setBrush} />
          </MapSettings>
        </Box>
      }
      plate={
        <>
          <TwoPlates
            left={
              <>
                <PlateTop>
                  <ToggleButtonGroup value={show} onChange={(_, v: Show | null) => v && setShow(v)} aria-label="what the piece shows">
                    <ToggleButton value="baked" disabled={!look}>
                      Baked
                    </ToggleButton>
                    <ToggleButton value="map" disabled={!shownMap}>
                      The map
                    </ToggleButton>
                    <ToggleButton value="bare">Low</ToggleButton>
                    <ToggleButton value="high">High</ToggleButton>
                    {gatherView && <ToggleButton value="gathered">Gathered</ToggleButton>}
                    {projectView && <ToggleButton value="project">Photographs</ToggleButton>}
                  </ToggleButtonGroup>
                  <ToggleButton value="cage" selected={caged} disabled={!canBake(document)} onChange={() => setCaged(!caged)}>
                    Cage
                  </ToggleButton>
                </PlateTop>
                {show === 'high' && !high ? (
                  <PlateWords>Forming the high mesh …</PlateWords>
                ) : isSet(show) ? (
                  onSet ? (
                    <Piece
                      key={show}
                      gpu={onSet.gpu}
                      materialOf={onSet.materialOf}
                      came={!setMapOn}
                      plain={setMapOn}
                      picture={setMapOn ? setPicture : undefined}
                    />
                  ) : (
                    <PlateWords coming={setFresh}>
                      {setFresh
                        ? 'Laying the set on the piece …'
                        : show === 'project'
                          ? 'The photographs were laid on an older state of the piece; lay them on again.'
                          : 'What was gathered is of an older state of the piece; gather again.'}
                    </PlateWords>
                  )
                ) : (
                  gpu &&
                  gpu.length > 0 && (
                    <Piece
                      gpu={gpu}
                      materialOf={materialOf}
                      plain
                      normalMap={(show === 'baked' && look?.files.glbNormal) || null}
                      occlusionMap={(show === 'baked' && look?.files.occlusion) || null}
                      picture={show === 'map' ? shownMap : undefined}
                      marks={marks}
                      dots={dots}
                      cage={cage ?? undefined}
                      stroking={stroking}
                      regions={file === 'id' && (show === 'high') === (look?.figures.ids?.by === 'colour') ? astray : undefined}
                      selectedIsland={show === 'high' ? null : selected.island}
                      onPick={show === 'high' ? undefined : session.pickIsland}
                    />
                  )
                )}
              </>
            }
            right={
              <>
                {show === 'gathered' && gatherView && (
                  <PlateTop>
                    <GatheredChoice view={gatherView} value={gatheredMap} onChoose={setGatheredMap} />
                  </PlateTop>
                )}
                {show === 'project' && projectView && (
                  <PlateTop>
                    <ProjectedChoice value={projectedMap} onChoose={setProjectedMap} />
                  </PlateTop>
                )}
                {!isSet(show) && layout && canBake(document) && (
                  <PlateTop>
                    {look && file && <MapChoice files={look.files} value={file} onChoose={setMap} />}
                    <ToggleButton
                      value="frame"
                      selected={framing}
                      onChange={() => setFraming(!framing)}
                      title="Draw a rectangle: it alone is baked at full size, with the settings as they are"
                    >
                      Rectangle
                    </ToggleButton>
                  </PlateTop>
                )}
                <LayoutPlate
                  islands={(isSet(show) ? onSet?.islands : layout?.islands) ?? NO_ISLANDS}
                  selected={isSet(show) ? null : selected.island}
                  onPick={isSet(show) ? NOTHING : session.pickIsland}
                  picture={isSet(show) ? setPicture : shownMap}
                  frame={frame}
                />
                {show === 'project' && projectView && <ProjectedKey map={projectedMap} view={projectView} document={document} />}
                {!isSet(show) && look && file && <MapKey file={file} figures={look.figures} />}
                {show === 'project' ? (
                  <PlateFoot>
                    <span>{projectView ? `${projectView.figures.size}² texels` : ''}</span>
                  </PlateFoot>
                ) : show === 'gathered' ? (
                  <PlateFoot>
                    <span>{gatherView ? `${gatherView.figures.size}² texels, no light in them` : ''}</span>
                  </PlateFoot>
                ) : framing ? (
                  <PlateFoot>
                    <span>{frameWords(rect, inFrame)}</span>
                  </PlateFoot>
                ) : preview ? (
                  <PlateFoot>
                    <span data-preview-ms={Math.round(preview.milliseconds)}>
                      previewed at {PREVIEW}², {tookTime(preview.milliseconds / 1000)}: not baked yet
                    </span>
                  </PlateFoot>
                ) : bake ? (
                  <PlateFoot>
                    <span>
                      {figure(bake.figures.leaningShare * 100, 0)} % of the texels lean more than 10° · {howMade(bake.figures)}
                    </span>
                  </PlateFoot>
                ) : (
                  <PlateWords action={bakeButton}>
                    <Box sx={{ bgcolor: 'background.paper', border: 1, borderColor: 'divider', p: 1.6 }}>
                      {able
                        ? layout
                          ? 'Nothing baked yet. The distances between the low and the high mesh are measured first; no number has to be guessed.'
                          : 'Nothing baked yet. The piece is unwrapped first, then its distances are measured and its maps baked.'
                        : 'No part has a high mesh. Bring one in on the left: its parts are paired by name, then by place. Or bake the parts from themselves: their hard edges rounded, and all maps.'}
                    </Box>
                  </PlateWords>
                )}
              </>
            }
          />
          <JobBar />
        </>
      }
      aside={
        <>
          {projectView && <ProjectFiguresPanel document={document} view={projectView} />}
          {gatherView && <GatherFiguresPanel document={document} view={gatherView} />}
          {pairs && <PairAdvice document={document} pairs={pairs} />}
          {preview && <Previewed preview={preview} older={bake !== null} busy={busy} onBake={() => void runBake(session)} />}
          {bake ? (
            <Judged fresh={fresh} previewed={preview !== null} busy={busy} onShow={showPlace} />
          ) : (
            <Box sx={{ color: 'text.secondary' }}>
              The bake is judged here: the exported map on the exported mesh, against the high mesh, in degrees, every texel of it.
            </Box>
          )}
          <SuggestedHere stage="bake" />
        </>
      }
    />
  );
}

/** The GLB with its maps, and the maps and layout beside it. */
function Export() {
  const session = useSession();
  const busy = useSheet((s) => s.job !== null);
  const form = useSheet((s) => s.form);
  return (
    <Button
      variant="outlined"
      disabled={busy || !form || form.gpu.length === 0}
      onClick={async () => {
        const files = await exportFiles(session);
        for (const f of files ?? []) {
          download(f.name, f.bytes);
          await new Promise((r) => setTimeout(r, 150));
        }
      }}
    >
      Export GLB
    </Button>
  );
}
