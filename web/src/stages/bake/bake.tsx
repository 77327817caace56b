'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import { canBake, deliveredParts } from '@wellmorph/core/pipeline/document';
import { figure } from '@wellmorph/core/units/lengths';
import { useEffect, useState } from 'react';
import { Chart, warmCharts } from '@/plates/chart';
import { LayoutPlate } from '@/plates/layout';
import { Piece, PlateFoot, PlateTop, PlateWords, TwoPlates } from '@/plates/plate';
import { useLengths, useSession, useSheet } from '@/session/context';
import { isFresh } from '@/session/state';
import { inTime } from '@/shared/times';
import { AdviceCard } from '@/sheet/advice';
import { Columns } from '@/sheet/columns';
import { download } from '@/sheet/download';
import { Choice, Heading, NumberField } from '@/sheet/fields';
import { JobBar } from '@/sheet/job-bar';
import { useMaterials } from '@/sheet/materials';
import { bakeForecast, runBake } from '@/stages/bake/run';
import { showHigh } from '@/stages/form/run';
import { exportFiles } from '@/stages/hand-off/run';
import type { IslandPath } from '@/workers/protocol';
import { FigureRow } from '../unwrap/figure-row';
import { Pairs } from './pairs';

type Show = 'baked' | 'bare' | 'high';
const NO_ISLANDS: IslandPath[] = [];

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
  const [map, setMap] = useState<'normal' | 'occlusion'>('normal');
  useEffect(warmCharts, []);
  useEffect(() => {
    if (show === 'high') void showHigh(session);
  }, [show, document]);
  if (!document) return null;
  const b = document.bake;
  const fresh = isFresh(document, bake, 'bake');
  const set = (patch: Partial<typeof b>) => session.dispatch({ type: 'bake.set', patch });
  const able = Boolean(form && form.gpu.length > 0) && canBake(document);
  const told = bakeForecast({ id, document, form, unwrap: layout, bake, high }, session.bench);
  const bakeButton = (
    <Button variant="contained" disabled={busy || !able || (!b.normal && !b.occlusion)} onClick={() => void runBake(session)}>
      {bake ? 'Bake again' : 'Bake'}
    </Button>
  );
  const url = (hash: string | null | undefined) => (hash ? `/api/blobs/${hash}` : undefined);
  const shownMap = bake ? url(map === 'normal' ? bake.files.normal : bake.files.occlusion) : undefined;
  const gpu = show === 'high' ? high?.gpu : (layout?.gpu ?? form?.gpu);
  const maps = (
    <ToggleButtonGroup value={map} onChange={(_, v: 'normal' | 'occlusion' | null) => v && setMap(v)} aria-label="which map">
      <ToggleButton value="normal">Normal</ToggleButton>
      <ToggleButton value="occlusion">Occlusion</ToggleButton>
    </ToggleButtonGroup>
  );
  return (
    <Columns
      controls={
        <Box>
          <Box sx={{ px: 1.8, pb: 1.4, display: 'flex', gap: 1 }}>
            {bakeButton}
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
          <Pairs />
          <Box sx={{ px: 1.8, mt: 2 }}>
            <Heading aside={`${document.brief.limits.textureSize}, in ${b.samples} × ${b.samples}`}>Maps</Heading>
            <Choice
              label="Normal"
              value={b.normal ? b.y : 'no'}
              choices={[
                ['up', 'Y up'],
                ['down', 'Y down'],
                ['no', 'not baked'],
              ]}
              onChange={(v) => set(v === 'no' ? { normal: false } : { normal: true, y: v })}
            />
            <Choice
              label="Depth"
              value={b.bits}
              choices={[
                [8, '8 bit'],
                [16, '16 bit'],
              ]}
              onChange={(bits) => set({ bits })}
            />
            <Choice
              label="Occlusion"
              value={b.occlusion ? 1 : 0}
              choices={[
                [1, 'baked'],
                [0, 'not baked'],
              ]}
              onChange={(v) => set({ occlusion: v === 1 })}
            />
            {b.occlusion && (
              <>
                <NumberField
                  label="Rays a texel"
                  kind="whole"
                  unit=""
                  min={1}
                  max={1024}
                  value={b.occlusionRays}
                  onCommit={(occlusionRays) => set({ occlusionRays })}
                />
                <NumberField label="Reach" min={0.1} value={b.reachMm} onCommit={(reachMm) => set({ reachMm })} />
                {deliveredParts(document).some((p) => p.travel) && (
                  <Choice
                    label="Parts that move"
                    hint="drawers, lids, knobs"
                    value={b.movingOcclude ? 1 : 0}
                    choices={[
                      [0, 'darken only themselves'],
                      [1, 'darken what they cover'],
                    ]}
                    onChange={(v) => set({ movingOcclude: v === 1 })}
                  />
                )}
              </>
            )}
            <Choice
              label="Samples a texel"
              value={b.samples}
              choices={[
                [1, '1'],
                [2, '2 × 2'],
                [4, '4 × 4'],
              ]}
              onChange={(samples) => set({ samples })}
            />
            <Choice
              label="Distances"
              value={b.distances}
              choices={[
                ['measured', 'measured'],
                ['uniform', 'one for all'],
              ]}
              onChange={(distances) => set({ distances })}
            />
            {b.distances === 'uniform' && (
              <>
                <NumberField label="Outward" min={0} value={b.frontMm} onCommit={(frontMm) => set({ frontMm })} />
                <NumberField label="Inward" min={0} value={b.rearMm} onCommit={(rearMm) => set({ rearMm })} />
              </>
            )}
          </Box>
        </Box>
      }
      plate={
        <>
          <TwoPlates
            left={
              <>
                <PlateTop>
                  <ToggleButtonGroup value={show} onChange={(_, v: Show | null) => v && setShow(v)} aria-label="what the piece shows">
                    <ToggleButton value="baked" disabled={!bake}>
                      Baked
                    </ToggleButton>
                    <ToggleButton value="bare">Low</ToggleButton>
                    <ToggleButton value="high">High</ToggleButton>
                  </ToggleButtonGroup>
                </PlateTop>
                {show === 'high' && !high ? (
                  <PlateWords>Forming the high mesh …</PlateWords>
                ) : (
                  gpu &&
                  gpu.length > 0 && (
                    <Piece
                      gpu={gpu}
                      materialOf={materialOf}
                      plain
                      normalMap={(show === 'baked' && url(bake?.files.glbNormal)) || null}
                      occlusionMap={(show === 'baked' && url(bake?.files.occlusion)) || null}
                      selectedIsland={show === 'high' ? null : selected.island}
                      onPick={show === 'high' ? undefined : session.pickIsland}
                    />
                  )
                )}
              </>
            }
            right={
              bake && !shownMap ? (
                <>
                  <PlateTop>{maps}</PlateTop>
                  <PlateWords>This map was not baked.</PlateWords>
                </>
              ) : (
                <>
                  {bake && <PlateTop>{maps}</PlateTop>}
                  <LayoutPlate
                    islands={layout?.islands ?? NO_ISLANDS}
                    selected={selected.island}
                    onPick={session.pickIsland}
                    picture={shownMap}
                  />
                  {bake ? (
                    <PlateFoot>
                      <span>
                        {figure(bake.figures.leaningShare * 100, 0)} % of the texels lean more than 10° ·{' '}
                        {figure(bake.figures.rays / 1e6, 1)} M rays in {figure(bake.figures.seconds, 0)} s
                      </span>
                    </PlateFoot>
                  ) : (
                    <PlateWords action={bakeButton}>
                      <Box sx={{ bgcolor: 'background.paper', border: 1, borderColor: 'divider', p: 1.6 }}>
                        {able
                          ? layout
                            ? 'Nothing baked yet. The distances between the low and the high mesh are measured first; no number has to be guessed.'
                            : 'Nothing baked yet. The piece is unwrapped first, then its distances are measured and its maps baked.'
                          : 'No part has a high mesh. Bring one in on the left: its parts are paired by name, then by place.'}
                      </Box>
                    </PlateWords>
                  )}
                </>
              )
            }
          />
          <JobBar />
        </>
      }
      aside={
        bake ? (
          <Judged fresh={fresh} busy={busy} />
        ) : (
          <Box sx={{ color: 'text.secondary' }}>
            The bake is judged here: the exported map on the exported mesh, against the high mesh, in degrees.
          </Box>
        )
      }
    />
  );
}

function Judged({ fresh, busy }: { fresh: boolean; busy: boolean }) {
  const session = useSession();
  const bake = useSheet((s) => s.bake);
  const document = useSheet((s) => s.document);
  const { unit, length, bare, say } = useLengths();
  if (!bake || !document) return null;
  const f = bake.figures;
  const j = f.judgement;
  const deg = (x: number) => figure(x, 1);
  const { from, to, counts } = f.histogram;
  const again = () => void runBake(session);
  const useMeasured = f.verdict?.change?.startsWith('Search') || f.verdict?.change?.startsWith('Use the measured');
  return (
    <>
      {!fresh && (
        <AdviceCard level="near" title="This bake is from an older state." accept={{ words: 'Bake again', run: again, disabled: busy }}>
          The piece, its layout or the settings have changed since it was made.
        </AdviceCard>
      )}
      {fresh && f.verdict && (
        <AdviceCard
          level={f.verdict.level}
          title={say(f.verdict.sentence)}
          accept={
            useMeasured
              ? {
                  words: 'Search as far as measured and bake again',
                  run: () => session.dispatch({ type: 'bake.set', patch: { distances: 'measured' } }) && again(),
                  disabled: busy,
                }
              : undefined
          }
        >
          {f.verdict.change ? say(f.verdict.change) : 'Nothing needs changing.'}
        </AdviceCard>
      )}
      <Heading aside={`${unit}, outward is +`}>How far apart they are</Heading>
      <Chart
        kind="bar"
        height={120}
        label={`Distances between the meshes from ${length(from)} to ${length(to)}`}
        series={[
          {
            name: 'samples',
            data: counts.map((y, i) => ({ x: bare(from + ((i + 0.5) * (to - from)) / counts.length, unit === 'mm' ? 2 : 1), y })),
          },
        ]}
        options={{
          plotOptions: { bar: { columnWidth: '88%' } },
          xaxis: { tickAmount: 4, labels: { rotate: 0, hideOverlappingLabels: true } },
          yaxis: { show: false },
          // Room for the sign of the first figure.
          grid: { yaxis: { lines: { show: false } }, padding: { left: 22, right: 10 } },
        }}
      />
      <Box className="narrow" sx={{ fontSize: 12, color: 'text.secondary', mb: 1.5 }}>
        One distance for the whole piece would have to be {length(f.uniform.front)} outward and {length(f.uniform.rear)} inward.
      </Box>
      {j && (
        <>
          <Heading aside="degrees off">Against the high mesh</Heading>
          <FigureRow label="mean" value={deg(j.mean)} unit="°" />
          <FigureRow label="19 of 20 texels under" value={deg(j.p95)} unit="°" />
          <FigureRow label={`worst, on ${j.worstAt.part}`} value={deg(j.worst)} unit="°" />
          <FigureRow label="seams meet within" value={deg(j.seamMean)} unit="°" why="mean" />
        </>
      )}
      <FigureRow label="rays that find nothing" value={figure(f.missedShare * 100, 2)} unit="%" bad={f.missedShare > 0.002} />
      <FigureRow label="rays on a back face" value={figure(f.backShare * 100, 2)} unit="%" bad={f.backShare > 0.005} />
      {j && j.parts.length > 1 && (
        <Box sx={{ mt: 2 }}>
          <Heading aside="mean · 19 of 20">By part</Heading>
          {[...j.parts]
            .sort((x, y) => y.mean - x.mean)
            .map((p) => (
              <FigureRow key={p.name} label={p.name} value={`${deg(p.mean)} · ${deg(p.p95)}`} unit="°" />
            ))}
        </Box>
      )}
    </>
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
