'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import type { Material } from '@wellmorph/core/pipeline/document';
import { deliveredParts } from '@wellmorph/core/pipeline/document';
import { surfaceVerdict } from '@wellmorph/core/pipeline/surface';
import type { Print } from '@wellmorph/core/print/print';
import type { PrintFigures } from '@wellmorph/core/print/verdict';
import { BALL_MM } from '@wellmorph/core/surface/layers/place';
import { VERDICT_COLOURS, VERDICTS } from '@wellmorph/core/surface/validity';
import { figure } from '@wellmorph/core/units/lengths';
import { Fragment, useCallback, useMemo, useState } from 'react';
import { LayoutPlate } from '@/plates/layout';
import { PlateFoot, PlateTop, PlateWords, TwoPlates } from '@/plates/plate';
import { useLengths, useSession, useSheet } from '@/session/context';
import { isFresh } from '@/session/state';
import { AdviceCard } from '@/sheet/advice';
import { useAnswered } from '@/sheet/answered';
import { Columns } from '@/sheet/columns';
import { Heading, NumberField } from '@/sheet/fields';
import { JobBar } from '@/sheet/job-bar';
import { LessonsBeside } from '@/sheet/lessons-beside';
import { Plain } from '@/sheet/plain';
import { inBrowser } from '@/theme/in-browser';
import type { GpuPart, IslandPath } from '@/workers/protocol';
import { FigureRow } from '../unwrap/figure-row';
import { Variants } from '../variants/variants';
import { Bench } from './bench';
import { type Painted, PaintingContext, useBrush, usePainting, useStanding } from './brush';
import { materialChoices } from './give';
import { MaterialFields } from './material-fields';
import { Dot, PartRow, RegionRow } from './part-rows';
import { usePreview } from './preview';
import { usePutting } from './print-put';
import { Prints } from './prints';
import { PrintsJudged } from './prints-judged';
import { runSurface } from './run';

const Surfaced = inBrowser(typeof window === 'undefined' ? null : () => import('@/plates/surfaced').then((m) => m.default), () => (
  <PlateWords>Dressing the piece …</PlateWords>
));
const Swatch = inBrowser(typeof window === 'undefined' ? null : () => import('@/plates/surfaced').then((m) => m.Swatch));
const NO_ISLANDS: IslandPath[] = [];
const NO_PARTS: GpuPart[] = [];
const NO_FIGURES: PrintFigures[] = [];
type Shown = 'baseColour' | 'orm' | 'validity';

export function SurfaceStage() {
  const session = useSession();
  const document = useSheet((s) => s.document);
  const form = useSheet((s) => s.form);
  const layout = useSheet((s) => s.unwrap);
  const bake = useSheet((s) => s.bake);
  const surface = useSheet((s) => s.surface);
  const selected = useSheet((s) => s.selected);
  const busy = useSheet((s) => s.job !== null);
  const [chosen, setChosen] = useState<string | null>(null);
  const [draft, setDraft] = useState<{ of: Material; patch: Partial<Material> } | null>(null);
  const [shown, setShown] = useState<Shown>('baseColour');
  // A draft lives until the material it was drawn on has changed.
  const drafted = useCallback((m: Material): Material => (draft && draft.of === m ? { ...m, ...draft.patch } : m), [draft]);
  const [openPrint, setOpenPrint] = useState<string | null>(null);
  const [isPutting, setPutting] = useState(false);
  // As with materials: a print on its way lives until the one of the document has changed.
  const [printDraft, setPrintDraft] = useState<{ of: Print; print: Print } | null>(null);
  const prints = useMemo(() => document?.prints?.map((p) => (printDraft?.of === p ? printDraft.print : p)), [document?.prints, printDraft]);
  const { set, milliseconds, printed, border, wrong } = usePreview(drafted, prints, openPrint);
  const [brush, setBrush] = useBrush();
  const [taken, setPainted] = useState<Painted | null>(null);
  const painted = useStanding(document, taken);
  const freshLayout = isFresh(document, layout, 'unwrap') ? layout : null;
  const canvas = useMemo(() => freshLayout && { bytes: freshLayout.parts, gpu: freshLayout.gpu }, [freshLayout]);
  const stroking = usePainting(painted, brush, canvas, (drawn) => setDraft(drawn && { of: drawn.of, patch: { layers: drawn.layers } }));
  const isThere = document?.prints?.some((p) => p.id === openPrint) ?? false;
  const put = usePutting(isPutting && isThere ? openPrint : null, canvas, setPrintDraft);
  const painting = useMemo(() => ({ brush, onBrush: setBrush, painted, onPainted: setPainted }), [brush, setBrush, painted]);
  const materials = useMemo(() => new Map((document?.materials ?? []).map((m) => [m.id, drafted(m)])), [document?.materials, drafted]);
  const parts = document?.parts;
  const offered = document ? materialChoices(document) : [];
  // The same list as long as it says the same: a roughness that changes is no other choice.
  const choices = useMemo(() => offered, [JSON.stringify(offered)]);
  const material =
    document?.materials.find((m) => m.id === chosen) ??
    document?.materials.find((m) => deliveredParts(document).some((p) => p.material === m.id));
  const onBall = materials.get(material?.id ?? '');
  const seed = document?.surface.seed ?? 1;
  const ask = useMemo(() => (onBall?.layers.some((l) => l.on) ? { material: onBall, seed } : null), [onBall, seed]);
  const { pool } = session.bench;
  const ball = useAnswered(ask, (what) => pool.run('ball', what));
  const { length } = useLengths();
  const materialOf = useCallback((id: string) => materials.get(parts?.find((p) => p.id === id)?.material ?? ''), [materials, parts]);
  const isPrinted = useCallback((id: string) => prints?.some((p) => p.on && p.part === id) ?? false, [prints]);
  if (!document) return null;
  const hasVariants = (document.variants?.length ?? 0) > 0;
  const fresh = isFresh(document, surface, 'surface');
  const url = (hash: string | null | undefined) => (hash ? `/api/blobs/${hash}` : undefined);
  // While something is dragged the preview follows it; otherwise the set itself is on the piece.
  const isDrafted = (draft !== null && document.materials.includes(draft.of)) || (printDraft && document.prints?.includes(printDraft.of));
  const isWhole = fresh && surface !== null && !isDrafted;
  const judgedPrints = (
    <PrintsJudged document={document} printed={printed} wrong={wrong} isLaid={freshLayout !== null} onOpen={setOpenPrint} />
  );
  const gpu = isFresh(document, layout, 'unwrap') ? layout?.gpu : form?.gpu;
  const compose = (
    <Button variant="contained" disabled={busy || !form || form.gpu.length === 0} onClick={() => void runSurface(session)}>
      {surface ? 'Compose again' : 'Compose the set'}
    </Button>
  );
  return (
    <Columns
      controls={
        <Box>
          <Box sx={{ px: 1.8, pb: 1.4, display: 'flex', gap: 1 }}>{compose}</Box>
          {hasVariants && <Variants />}
          <Box sx={{ px: 1.8, mb: 1.5 }}>
            <Heading aside="one material, many parts">Parts</Heading>
            {deliveredParts(document).map((p) => (
              <Fragment key={p.id}>
                <PartRow id={p.id} name={p.name} material={p.material} dot={materialOf(p.id)} choices={choices} onLook={setChosen} />
                {p.regions?.map((r) => (
                  <RegionRow key={r.id} part={p} region={r} dot={materials.get(r.material ?? '')} choices={choices} onLook={setChosen} />
                ))}
              </Fragment>
            ))}
          </Box>
          <Box sx={{ px: 1.8, mb: 1.2, display: 'flex', flexWrap: 'wrap', gap: 0.6 }} role="group" aria-label="materials">
            {document.materials.map((m) => (
              <Plain
                key={m.id}
                aria-pressed={m.id === material?.id}
                onClick={() => setChosen(m.id)}
                sx={{
                  gap: 0.7,
                  px: 0.9,
                  py: 0.4,
                  fontSize: 12.5,
                  border: 1,
                  borderRadius: 1,
                  borderColor: m.id === material?.id ? 'primary.main' : 'divider',
                  bgcolor: m.id === material?.id ? 'sheet.tint' : 'background.paper',
                }}
              >
                <Dot material={m} />
                {m.name}
              </Plain>
            ))}
          </Box>
          <Prints
            document={document}
            gpu={gpu ?? NO_PARTS}
            open={isThere ? openPrint : null}
            onOpen={(id) => {
              setOpenPrint(id);
              setPutting(false);
            }}
            putting={isPutting}
            onPutting={setPutting}
            onDraft={(of, print) => setPrintDraft({ of, print })}
            figures={printed?.prints ?? NO_FIGURES}
          />
          {!hasVariants && <Variants />}
          <Bench document={document} material={material} onLook={setChosen} />
          <PaintingContext value={painting}>
            <LessonsBeside kind="material" subject={material?.name} />
            <LessonsBeside kind="stage" subject="surface" />
            {material && <MaterialFields key={material.id} material={material} onDraft={(patch) => setDraft({ of: material, patch })} />}
          </PaintingContext>
          <Box sx={{ px: 1.8 }}>
            <Heading>Masks</Heading>
            <NumberField
              label="Radius of an edge"
              hint="baked as curvature"
              min={0.01}
              max={1000}
              value={document.bake.curvatureRadiusMm}
              onCommit={(curvatureRadiusMm) => session.dispatch({ type: 'bake.set', patch: { curvatureRadiusMm } })}
            />
            <NumberField
              label="Blotches"
              hint="another number, another pattern"
              kind="whole"
              unit=""
              min={0}
              max={100000}
              value={document.surface.seed}
              onCommit={(seed) => session.dispatch({ type: 'surface.set', patch: { seed } })}
            />
          </Box>
        </Box>
      }
      plate={
        <>
          <TwoPlates
            left={
              gpu && gpu.length > 0 ? (
                <>
                  <Surfaced
                    gpu={gpu}
                    materialOf={materialOf}
                    set={set}
                    colours={isWhole ? (url(surface?.baseColour) ?? null) : null}
                    finish={isWhole ? (url(surface?.orm) ?? null) : null}
                    normalMap={(fresh && url(surface?.normal)) || (isFresh(document, bake, 'bake') && url(bake?.files.glbNormal)) || null}
                    onPick={(id) => setChosen(document.parts.find((p) => p.id === id)?.material ?? null)}
                    stroking={put ?? stroking}
                    border={border}
                    isPrinted={isPrinted}
                  />
                  {material && (
                    <Box
                      sx={{
                        position: 'absolute',
                        left: 14,
                        top: 14,
                        width: 92,
                        height: 92,
                        border: 1,
                        borderColor: 'divider',
                        borderRadius: 1,
                        overflow: 'hidden',
                      }}
                    >
                      <Swatch material={drafted(material)} set={ball && ball.ask.material.id === material.id ? ball.answer : null} />
                    </Box>
                  )}
                  <PlateFoot>
                    <span>{material ? `${material.name} on a ball of ${length(2 * BALL_MM)}` : ''}</span>
                    <span data-preview-ms={milliseconds === null ? '' : Math.round(milliseconds)}>
                      {isWhole
                        ? `the set itself, ${surface.figures.size} px`
                        : set
                          ? `previewed at ${set.size}², ${figure(milliseconds ?? 0, 0)} ms`
                          : 'plain materials: layers need a layout'}
                    </span>
                  </PlateFoot>
                </>
              ) : (
                <PlateWords>There is no surface yet. Form the piece or import one first.</PlateWords>
              )
            }
            right={
              <>
                <PlateTop>
                  <ToggleButtonGroup value={shown} onChange={(_, v: Shown | null) => v && setShown(v)} aria-label="which texture">
                    <ToggleButton value="baseColour">Base colour</ToggleButton>
                    <ToggleButton value="orm" title="occlusion in red, roughness in green, metallic in blue">
                      O · R · M
                    </ToggleButton>
                    <ToggleButton value="validity">Validity</ToggleButton>
                  </ToggleButtonGroup>
                </PlateTop>
                <LayoutPlate
                  islands={layout?.islands ?? NO_ISLANDS}
                  selected={selected.island}
                  onPick={(part, island) => {
                    session.pickIsland(part, island);
                    setChosen(document.parts.find((p) => p.id === part)?.material ?? null);
                  }}
                  picture={surface ? url(surface[shown]) : undefined}
                />
                {surface ? (
                  <PlateFoot>
                    <span>
                      {surface.figures.size} px, composed in {figure(surface.figures.seconds, 1)} s
                    </span>
                    {shown === 'validity' && <Legend />}
                  </PlateFoot>
                ) : (
                  <PlateWords action={compose}>
                    <Box sx={{ bgcolor: 'background.paper', border: 1, borderColor: 'divider', p: 1.6 }}>
                      {layout
                        ? 'No set composed yet. Materials and their layers are written into the layout.'
                        : 'No set composed yet. The piece is unwrapped and baked first; then its materials are written into the layout.'}
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
          {isThere && judgedPrints}
          <Judged fresh={fresh} busy={busy} />
          {!isThere && judgedPrints}
        </>
      }
    />
  );
}

function Legend() {
  return (
    <Box component="span" sx={{ display: 'flex', gap: 1.2, flexWrap: 'wrap', justifyContent: 'flex-end' }}>
      {VERDICTS.filter((v) => v !== 'outside').map((v) => (
        <Box key={v} component="span" sx={{ display: 'inline-flex', alignItems: 'center', gap: 0.4 }}>
          <Box
            component="i"
            sx={{ width: 9, height: 9, border: 1, borderColor: 'divider', bgcolor: `rgb(${VERDICT_COLOURS[v].join(' ')})` }}
          />
          {v}
        </Box>
      ))}
    </Box>
  );
}

function Judged({ fresh, busy }: { fresh: boolean; busy: boolean }) {
  const session = useSession();
  const document = useSheet((s) => s.document);
  const surface = useSheet((s) => s.surface);
  const { length } = useLengths();
  if (!document) return null;
  const bare = deliveredParts(document).filter((p) => !document.materials.some((m) => m.id === p.material));
  const untouched = document.materials.filter(
    (m) => !m.touched && !m.texturing && deliveredParts(document).some((p) => p.material === m.id),
  );
  const verdict = surface && surfaceVerdict(surface.figures);
  return (
    <>
      {bare.length > 0 && (
        <AdviceCard level="over" title={`${bare.length === 1 ? 'One part has' : `${bare.length} parts have`} no material.`}>
          {bare.map((p) => p.name).join(', ')} would be delivered in the viewer’s grey. Choose one on the left.
        </AdviceCard>
      )}
      {untouched.length > 0 && (
        <AdviceCard level="near" title="Some are as the file brought them.">
          {untouched.map((m) => m.name).join(', ')}: look at each, take one of the library or keep it as it is.
        </AdviceCard>
      )}
      {surface && !fresh && (
        <AdviceCard
          level="near"
          title="This set is from an older state."
          accept={{ words: 'Compose again', run: () => void runSurface(session), disabled: busy }}
        >
          Materials, the layout or the bake have changed since it was made.
        </AdviceCard>
      )}
      {surface && fresh && verdict && (
        <AdviceCard level={verdict.level} title={verdict.sentence}>
          {verdict.level === 'ok'
            ? 'Dielectrics lie between 30 and 240, metals above 180; nothing is half a metal.'
            : 'The validity map beside the piece shows where.'}
        </AdviceCard>
      )}
      {surface ? (
        <>
          {surface.figures.composed.materials.some((m) => m.layers.length > 0) && (
            <Heading aside="of its material’s surface">What layers touch</Heading>
          )}
          {surface.figures.composed.materials.map(
            (m) =>
              m.layers.length > 0 && (
                <Box key={m.id} sx={{ mb: 0.6 }}>
                  <Box className="narrow" sx={{ fontSize: 12.5, fontWeight: 600 }}>
                    {m.name}
                  </Box>
                  {[...m.layers]
                    .reverse()
                    .map((l) =>
                      l.leftOut ? (
                        <FigureRow key={l.id} label={l.name} value="left out" unit="" bad />
                      ) : (
                        <FigureRow key={l.id} label={l.name} value={figure(100 * l.share, 1)} unit="%" bad={l.share < 0.0005} />
                      ),
                    )}
                </Box>
              ),
          )}
          <Box sx={{ mt: 1.5 }}>
            <Heading aside="of judged texels">Validity</Heading>
            {VERDICTS.filter((v) => !['outside', 'not judged'].includes(v)).map((v) => (
              <FigureRow
                key={v}
                label={v}
                value={figure(100 * surface.figures.validity[v], 1)}
                unit="%"
                bad={v !== 'sound' && surface.figures.validity[v] > 0.002}
              />
            ))}
          </Box>
          {surface.figures.seams && (
            <Box sx={{ mt: 1.5 }}>
              <Heading aside="colour, of 255">Across seams</Heading>
              <FigureRow label="Differs on the mean" value={figure(surface.figures.seams.mean, 1)} unit="" />
              <FigureRow
                label="19 of 20 places under"
                value={figure(surface.figures.seams.p95, 0)}
                unit=""
                bad={surface.figures.seams.p95 > 24}
                why={`over ${length(surface.figures.seams.lengthMm)} of seams where the surface goes on`}
              />
            </Box>
          )}
          <Box className="narrow" sx={{ fontSize: 12, color: 'text.secondary', mt: 1.5 }}>
            {surface.figures.curvature
              ? `Rubbed places follow edges measured at ${length(document.bake.curvatureRadiusMm)} on the high mesh, enclosed ones the baked occlusion.`
              : 'No curvature was baked, so rubbed places follow blotches only.'}{' '}
            Transparent and glowing parts are not judged.
          </Box>
        </>
      ) : (
        <Box sx={{ color: 'text.secondary' }}>
          The set is judged here: what share each layer touches, and whether every texel is within what real surfaces reflect.
        </Box>
      )}
    </>
  );
}
