'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import { type MeasureKind, measure, PLACES_FOR } from '@wellmorph/core/form/measure';
import type { Finding } from '@wellmorph/core/inspect/finding';
import { grouped } from '@wellmorph/core/inspect/grouped';
import { travelled } from '@wellmorph/core/inspect/relations';
import type { Wall } from '@wellmorph/core/inspect/section';
import type { ViewKind } from '@wellmorph/core/inspect/views';
import { multiply } from '@wellmorph/core/maths/mat4';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import { figure } from '@wellmorph/core/units/lengths';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { Piece, PlateFoot, PlateTop, PlateWords } from '@/plates/plate';
import { Scale } from '@/plates/scale';
import { boundsOf } from '@/plates/view';
import { type Lengths, useLengths, useSession, useSheet } from '@/session/context';
import { ALL_SHOWN, type Pose } from '@/session/state';
import { Columns } from '@/sheet/columns';
import { Findings } from '@/sheet/findings';
import { JobBar } from '@/sheet/job-bar';
import { LessonsBeside } from '@/sheet/lessons-beside';
import { useMaterials } from '@/sheet/materials';
import { SnagsPanel, useSnagDots, useSnagMarks } from '@/sheet/snags';
import { isTyping } from '@/sheet/typing';
import { saveAsset, saveReport, showHigh } from '@/stages/form/run';
import type { GpuPart } from '@/workers/protocol';
import { Beginnings } from './beginnings';
import { Bringing, useBringing } from './bring';
import { BudgetPanel } from './budget';
import { DrawingPlate, SketchSwitch } from './drawing-plate';
import { drawingsOf } from './drawings';
import { hasLines, LinesBefore } from './lines';
import { useFindings, useLook } from './look';
import { PartList } from './parts';
import { PhotoFacts } from './photo-facts';
import { usePhotoMatch } from './photo-match';
import { OpenPhoto } from './photo-open';
import { pickAt, stopPicking, usePicking } from './picking';
import { freshSection, SectionBar, useSection } from './section';
import { fitAt, stopFitting } from './set-down';
import { isShown, SHOW_KEYS } from './shown';
import { usePose } from './travel';
import { MeasureMenu, useMeasuredView, ViewMenu } from './view-menu';

type Vec3 = readonly [number, number, number];

/** What to click next, or what was measured. */
function measuredWords({ kind, places }: { kind: MeasureKind; places: readonly Vec3[] }, { length, bare }: Lengths): string {
  const result = measure(kind, places);
  const left = PLACES_FOR[kind] - places.length;
  if (left > 0)
    return `click ${left === 1 ? 'one more place' : `${left} places`}${kind === 'angle' ? ', the corner second' : ''} · Esc ends`;
  if (!result) return 'those places lie in a line: they give no circle';
  const along = result.along ? ` (${result.along.map((x) => bare(x)).join(', ')})` : '';
  return `${kind} ${result.unit === 'mm' ? length(result.value, 3) : `${figure(result.value, 3)}${result.unit}`}${along}`;
}

const NO_PARTS: readonly GpuPart[] = [];

type What = 'low' | 'high' | 'both' | 'lines';

export function FormStage() {
  const session = useSession();
  const document = useSheet((s) => s.document);
  const form = useSheet((s) => s.form);
  const high = useSheet((s) => s.high);
  const selected = useSheet((s) => s.selected);
  const materialOf = useMaterials();
  const lengths = useLengths();
  const onFace = useCallback(
    (part: string, face: number, point: [number, number, number], copy: number) => {
      if (session.state.pinning) session.set({ pinning: { place: { part, at: point } } });
      else void (session.state.fitting ? fitAt(session, part, face, point, copy) : pickAt(session, part, face, point));
    },
    [session],
  );
  const pickPart = useCallback((part: string) => session.select({ part, step: null }), [session]);
  const [chosenView, setWhat] = useState<What>('low');
  const [edges, setEdges] = useState(true);
  const [viewKind, setViewKind] = useState<ViewKind | null>(null);
  const [drawing, setDrawing] = useState<string | null>(null);
  const [measuring, setMeasuring] = useState<{ kind: MeasureKind; places: Vec3[] } | null>(null);
  const [point, setPoint] = useState<string | null>(null);
  useEffect(() => {
    if (chosenView === 'high' || chosenView === 'both') void showHigh(session);
  }, [chosenView, document]);
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (e.key.toLowerCase() === 'e' && !e.ctrlKey && !(e.target instanceof HTMLInputElement) && !(e.target instanceof HTMLSelectElement))
        setEdges((x) => !x);
      const act = SHOW_KEYS[e.key.toLowerCase()];
      if (act && !e.ctrlKey && !e.metaKey && !e.altKey && !isTyping(e.target)) act(session);
      if (e.key === 'Escape') {
        stopPicking(session);
        stopFitting(session);
        session.set({ pinning: null });
        setMeasuring(null);
      }
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);
  const part = document?.parts.find((p) => p.id === selected.part);
  const step = part?.shape.steps?.find((s) => s.id === selected.step);
  // Lines before and now belong to a step: another one chosen, the piece is shown.
  const what: What = chosenView === 'lines' && !hasLines(step) ? 'low' : chosenView;
  const drawings = step ? drawingsOf(step) : [];
  const open = drawings.find((d) => d.key === drawing) ?? (drawing ? drawings[0] : undefined);
  useEffect(() => setPoint(null), [step?.id]);
  const pose = usePose();
  const shown = useSheet((s) => s.shown);
  const all = useMemo(() => posed(form?.gpu ?? [], document, pose), [form?.gpu, document, pose]);
  const gpu = useMemo(() => (shown === ALL_SHOWN ? all : all.filter((g) => isShown(shown, g.id))), [all, shown]);
  const behind = useMemo(() => (shown.behind ? all.filter((g) => !isShown(shown, g.id)) : []), [all, shown]);
  const plane = useSheet((s) => s.section);
  const cut = useSection(what === 'low' ? plane : null);
  const section = useMemo(() => cut && { ...cut, cut: cut.cut.filter((c) => isShown(shown, c.part)) }, [cut, shown]);
  const bounds = useMemo(() => boundsOf(all), [all]);
  const picking = usePicking();
  const fitting = useSheet((s) => s.fitting !== null);
  const regions = useRegions();
  useLook();
  const findings = useFindings();
  const looking = useSheet((s) => s.looking);
  const found = useMarks(findings, selected.finding);
  const snagged = useSnagMarks(selected.finding);
  const dots = useSnagDots();
  const pinning = useSheet((s) => s.pinning !== null);
  const marks = found ?? snagged;
  const measured = useMeasuredView(what === 'low' && !open ? viewKind : null);
  const probe = useRef<HTMLSpanElement>(null);
  const onProbe = useCallback((value: number | null) => {
    if (probe.current)
      probe.current.textContent =
        value === null || !Number.isFinite(value) ? '' : `here ${figure(value, 3)} ${session.state.view?.view.unit ?? ''}`;
  }, []);
  const onWall = useCallback(
    (wall: Wall | null) => {
      if (probe.current) probe.current.textContent = wall ? `wall here ${lengths.length(wall.mm, 3)}` : '';
    },
    [lengths],
  );
  const onWallPick = useCallback((wall: Wall) => setMeasuring({ kind: 'distance', places: [wall.from, wall.to] }), []);
  const onPlace = useCallback(
    (place: Vec3) => setMeasuring((m) => m && { ...m, places: m.places.length >= PLACES_FOR[m.kind] ? [place] : [...m.places, place] }),
    [],
  );
  const brought = useBringing();
  const [photoId, setPhotoId] = useState<string | null>(null);
  const photo = document?.photos?.find((p) => p.id === photoId) ?? null;
  const match = usePhotoMatch(photo, form?.gpu ?? NO_PARTS);
  if (!document) return null;
  const empty = document.parts.length === 0;
  return (
    <Columns
      controls={
        <PartList
          point={point}
          onPoint={setPoint}
          onDraw={setDrawing}
          onBring={brought.choose}
          photo={photo?.id ?? null}
          onPhoto={setPhotoId}
        />
      }
      plate={
        <Bringing place={brought} empty={empty}>
          {photo && <OpenPhoto key={photo.id} photo={photo} sight={match.sight} onClose={() => setPhotoId(null)} />}
          {!photo && (
            <PlateTop>
              {drawings.length > 0 && (
                <ToggleButtonGroup
                  value={open?.key ?? 'piece'}
                  onChange={(_, v: string | null) => v && setDrawing(v === 'piece' ? null : v)}
                  aria-label="what the plate shows"
                >
                  <ToggleButton value="piece">Piece</ToggleButton>
                  {drawings.map((d) => (
                    <ToggleButton key={d.key} value={d.key} aria-label={d.label} title={d.label}>
                      {d.short ?? d.label}
                    </ToggleButton>
                  ))}
                </ToggleButtonGroup>
              )}
              {open && step && part && <SketchSwitch part={part} step={step} />}
              {!open && !empty && (
                <ToggleButtonGroup value={what} onChange={(_, v: What | null) => v && setWhat(v)} aria-label="which mesh">
                  <ToggleButton value="low">Low</ToggleButton>
                  <ToggleButton value="high">High</ToggleButton>
                  <ToggleButton value="both">Side by side</ToggleButton>
                  {hasLines(step) && (
                    <ToggleButton value="lines" title="Lines of reflection without this step and with it">
                      Before · now
                    </ToggleButton>
                  )}
                </ToggleButtonGroup>
              )}
              {!open && !empty && (
                <ViewMenu
                  kind={what === 'low' ? viewKind : null}
                  onKind={what === 'low' ? setViewKind : undefined}
                  edges={edges}
                  onEdges={setEdges}
                  onSection={what === 'low' ? (axis) => session.set({ section: axis && freshSection(axis, bounds) }) : undefined}
                />
              )}
              {!open && !empty && what === 'low' && (
                <MeasureMenu
                  kind={measuring?.kind ?? null}
                  onKind={(kind) => {
                    stopPicking(session);
                    setMeasuring(kind && { kind, places: [] });
                  }}
                />
              )}
            </PlateTop>
          )}
          {photo ? null : open && step && part ? (
            <DrawingPlate part={part} step={step} drawing={open} point={point} onPoint={setPoint} edges={edges} />
          ) : empty ? (
            <Beginnings />
          ) : what === 'low' ? (
            form && form.gpu.length > 0 ? (
              <Piece
                came
                gpu={gpu}
                aids={form.aidGpu}
                materialOf={materialOf}
                edges={edges}
                selectedPart={selected.part}
                marks={marks}
                dimension
                onPick={pickPart}
                regions={regions}
                onFace={picking.what || fitting || pinning ? onFace : undefined}
                dots={dots}
                references={document.references}
                measuring={measuring}
                onPlace={measuring ? onPlace : undefined}
                view={measured}
                behind={behind}
                section={section}
                onWall={onWall}
                onWallPick={measuring ? undefined : onWallPick}
                onProbe={onProbe}
              />
            ) : (
              <PlateWords coming={!form}>{form ? 'No step makes a surface yet.' : 'Forming the piece …'}</PlateWords>
            )
          ) : what === 'lines' && step && part ? (
            <LinesBefore part={part} step={step} />
          ) : !high ? (
            <PlateWords>Forming the high mesh …</PlateWords>
          ) : high.gpu.length === 0 ? (
            <PlateWords>There is no high mesh yet. Bring one in the Bake stage, or give a recipe rounded edges.</PlateWords>
          ) : what === 'high' ? (
            <Piece gpu={high.gpu} materialOf={materialOf} edges={edges} />
          ) : (
            <Box sx={{ position: 'absolute', inset: 0, display: 'grid', gridTemplateColumns: '1fr 1fr' }}>
              <Box sx={{ position: 'relative', borderRight: 1, borderColor: 'divider' }}>
                {form && <Piece came gpu={form.gpu} materialOf={materialOf} edges={edges} />}
              </Box>
              <Box sx={{ position: 'relative' }}>
                <Piece gpu={high.gpu} materialOf={materialOf} />
              </Box>
            </Box>
          )}
          {measured && !photo && !open && what === 'low' && <Scale view={measured.view} probe={probe} />}
          {plane && !photo && !open && what === 'low' && !empty && <SectionBar section={plane} bounds={bounds} />}
          {(what === 'high' || what === 'both') && high && high.problems.length > 0 && (
            <Box role="alert" sx={{ position: 'absolute', top: 52, left: 16, right: 16, color: 'error.main', fontSize: 13 }}>
              {high.problems.map((p) => (
                <div key={p.step}>In the high mesh: {lengths.say(p.message)}</div>
              ))}
            </Box>
          )}
          {!empty && !open && !photo && (
            <PlateFoot>
              <span>
                {what === 'low' && gpu.length < all.length ? `${gpu.length} of ${all.length} parts shown · A shows all · ` : ''}
                {what === 'low' && section && !measured && <span ref={probe} />}
                {(what === 'high' || what === 'both') && high
                  ? `high: ${figure(high.triangles, 0)} triangles`
                  : form
                    ? `${figure(form.ledger.gpuVertices, 0)} vertices on the card · ${form.ledger.drawCalls} draws`
                    : ''}
              </span>
              <span>
                {measuring
                  ? measuredWords(measuring, lengths)
                  : picking.what
                    ? `click picks ${picking.wants === 'spot' ? 'the place' : picking.wants === 'edges' ? 'edges' : picking.what === 'seam' ? 'a seam' : 'faces'} · Esc ends`
                    : 'turn: drag · slide: right-drag · nearer: wheel · whole piece: W'}
              </span>
            </PlateFoot>
          )}
          <JobBar />
        </Bringing>
      }
      aside={
        <>
          {photo && <PhotoFacts document={document} photo={photo} answer={match.answer} isNow={match.isNow} box={match.sight.box} />}
          <LessonsBeside kind="stage" subject="form" />
          <BudgetPanel />
          <Findings
            findings={findings}
            busy={looking}
            actions={
              <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: 0.8, pt: 1 }}>
                <Button onClick={() => void saveReport(session, 'text')}>Export report</Button>
                <Button onClick={() => void saveReport(session, 'json')}>as JSON</Button>
                <Button onClick={() => void saveAsset(session)}>Save asset file</Button>
              </Box>
            }
          />
          <SnagsPanel />
        </>
      }
    />
  );
}

/** Parts as the plate draws them, one of them at a place of its travel. */
function posed(gpu: readonly GpuPart[], document: AssetDocument | null, pose: Pose): readonly GpuPart[] {
  const travel = pose.part !== null ? document?.parts.find((p) => p.id === pose.part)?.travel : undefined;
  if (!travel || pose.part === null) return gpu;
  const m = travelled(travel, pose.at);
  return gpu.map((g) => (g.id === pose.part ? { ...g, placements: g.placements.map((p) => multiply(m, p)) } : g));
}

/** The places of the chosen finding, or of all of a kind, steady between renders so that the view flies only once. */
export function useMarks(findings: readonly Finding[], chosen: string | null) {
  return useMemo(() => {
    const one = findings.find((x) => x.id === chosen);
    const list = one ? [one] : (grouped(findings).find((g) => g.id === chosen)?.findings ?? []);
    const marks = list.filter((f) => f.where.length > 0).map((f) => ({ part: f.kind === 'coincident' ? null : f.part, points: f.where }));
    return marks.length > 0 ? marks : undefined;
  }, [findings, chosen]);
}

/** The faces of the region that is being picked, or of all regions of the chosen part. */
function useRegions() {
  const picking = usePicking();
  const marks = useSheet((s) => s.form?.marks);
  const part = useSheet((s) => s.selected.part);
  return useMemo(
    () =>
      (marks ?? [])
        .filter((m) => m.part === part)
        .map((m) => ({
          part: m.part,
          faces: m.regions.filter((r) => picking.what === null || picking.what === r.id).flatMap((r) => r.faces),
        })),
    [marks, part, picking.what],
  );
}
