'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import { keepsLayouts } from '@wellmorph/core/pipeline/came';
import { figure } from '@wellmorph/core/units/lengths';
import type { WorstPlace } from '@wellmorph/core/uv/views';
import { useEffect, useMemo, useRef, useState } from 'react';
import { ownIslands, useHand } from '@/plates/hand';
import { LayoutPlate } from '@/plates/layout';
import type { Lookout } from '@/plates/lookout';
import type { PlaceMarks } from '@/plates/place-marks';
import { Piece, PlateFoot, PlateTop, PlateWords, TwoPlates } from '@/plates/plate';
import { Scale } from '@/plates/scale';
import { useSession, useSheet } from '@/session/context';
import { isFresh } from '@/session/state';
import { AdviceCard } from '@/sheet/advice';
import { Columns } from '@/sheet/columns';
import { JobBar } from '@/sheet/job-bar';
import { useKept } from '@/sheet/kept';
import { useMaterials } from '@/sheet/materials';
import { SuggestedHere } from '@/sheet/suggested';
import { runUnwrap } from '@/stages/unwrap/run';
import { useLaidAgain } from './again';
import { CameList } from './came-list';
import { LayoutAdvice, LayoutFacts } from './figures';
import { HandPanel } from './hand-panel';
import { HandSeams, useSeamPen } from './hand-seams';
import { MeasuredChoice, useLayoutView, WorstFaces } from './measured';
import { LayoutPictures } from './pictures';
import { Print } from './print';
import { SecondLayout } from './second';
import { LayoutSettings } from './settings';
import { Shares } from './shares';
import { IslandTemplate } from './template';
import { Ways } from './ways';

const atOnceFrom = (kept: Record<string, unknown>): { atOnce: boolean } => ({ atOnce: kept.atOnce === true });

export function UnwrapStage() {
  const session = useSession();
  const document = useSheet((s) => s.document);
  const form = useSheet((s) => s.form);
  const layout = useSheet((s) => s.unwrap);
  const selected = useSheet((s) => s.selected);
  const busy = useSheet((s) => s.job !== null);
  const materialOf = useMaterials();
  const [drawn, setDrawn] = useState<'checker' | 'material' | 'seams'>('checker');
  const checker = drawn === 'checker';
  const { kind, measure, measured, probe, tell } = useLayoutView();
  const drawing = drawn === 'seams' && layout !== null && measured === null;
  const pen = useSeamPen(drawing);
  const [handOn, setHandOn] = useState(false);
  const [shown, setShown] = useState<'first' | 'second'>('first');
  const hand = useHand(handOn && layout !== null && shown === 'first');
  const [{ atOnce }, keepAtOnce] = useKept('wellmorph-unwrap', atOnceFrom);
  useLaidAgain(drawing || handOn || atOnce);
  const draw = (what: typeof drawn) => {
    measure(null);
    setDrawn(what);
  };
  const [worstShown, setWorstShown] = useState<PlaceMarks>([]);
  useEffect(() => setWorstShown([]), [measured]);
  const showWorst = ({ part, island, place }: WorstPlace) => {
    session.pickIsland(part, island);
    setWorstShown([{ part, points: [place] }]);
  };
  const lookout: Lookout = useRef(null);
  const begun = useMemo(() => (pen.start ? [{ part: pen.start.part, points: [pen.start.place] }] : []), [pen.start]);
  const second = shown === 'second' && (layout?.second.length ?? 0) > 0;
  const size = document?.brief.limits.textureSize ?? 1024;
  const checks = useMemo(() => (checker ? { size, texels: 16 } : undefined), [checker, size]);
  if (!document) return null;
  const fresh = isFresh(document, layout, 'unwrap');
  const f = layout?.figures;
  const unwrapButton = (
    <Button variant="contained" disabled={busy || !form || form.gpu.length === 0} onClick={() => void runUnwrap(session)}>
      {layout ? 'Unwrap again' : 'Unwrap'}
    </Button>
  );
  return (
    <Columns
      controls={
        <Box sx={{ px: 1.8 }}>
          <LayoutSettings atOnce={atOnce} onAtOnce={(on) => keepAtOnce({ atOnce: on })} />
          <Box sx={{ my: 1.2 }}>{unwrapButton}</Box>
          <CameList document={document} />
          {layout && <HandSeams pen={pen} on={drawing} onDraw={(on) => draw(on ? 'seams' : 'checker')} />}
          {layout && <HandPanel hand={hand} on={handOn} onHand={setHandOn} islands={layout.islands} />}
          {layout && <Ways lookout={lookout} onShow={setWorstShown} />}
          <Shares />
          <SecondLayout />
          {layout && fresh && <LayoutPictures />}
          {layout && fresh && <IslandTemplate />}
        </Box>
      }
      plate={
        !layout ? (
          <>
            <PlateWords action={unwrapButton}>
              {form && form.gpu.length > 0
                ? 'No layout yet. Turned and bar parts are unrolled facet by facet, exactly; the rest is cut along its edges and laid flat without a fold.'
                : 'Form the piece first; then its surface can be laid flat.'}
            </PlateWords>
            <JobBar />
          </>
        ) : (
          <>
            <TwoPlates
              work={handOn && !second}
              left={
                <>
                  <PlateTop>
                    <ToggleButtonGroup
                      value={measured ? null : drawn}
                      onChange={(_, v: typeof drawn | null) => v && draw(v)}
                      aria-label="how the piece is drawn"
                    >
                      <ToggleButton value="checker">Checker</ToggleButton>
                      <ToggleButton value="material">Materials</ToggleButton>
                      <ToggleButton value="seams">Seams</ToggleButton>
                    </ToggleButtonGroup>
                    <MeasuredChoice kind={kind} onKind={measure} />
                  </PlateTop>
                  <Piece
                    gpu={layout.gpu}
                    came={fresh && keepsLayouts(document)}
                    materialOf={materialOf}
                    checker={checks}
                    plain={drawing}
                    borders={drawing}
                    hand={form?.gpu}
                    view={measured}
                    marks={worstShown}
                    onProbe={tell}
                    dots={begun}
                    lookout={lookout}
                    selectedIsland={drawing ? null : selected.island}
                    onPick={session.pickIsland}
                    onFace={drawing ? pen.click : undefined}
                  />
                  {measured && <Scale view={measured.view} probe={probe} />}
                  <PlateFoot>
                    <span>{measured ? '' : checker ? '16 texels a square' : drawing ? 'drawn seams red, closed ones blue' : ''}</span>
                  </PlateFoot>
                </>
              }
              right={
                <>
                  {layout.second.length > 0 && (
                    <PlateTop>
                      <ToggleButtonGroup
                        value={second ? 'second' : 'first'}
                        onChange={(_, v: typeof shown | null) => v && setShown(v)}
                        aria-label="which layout is shown"
                      >
                        <ToggleButton value="first">First, baked to</ToggleButton>
                        <ToggleButton value="second">Second</ToggleButton>
                      </ToggleButtonGroup>
                    </PlateTop>
                  )}
                  <LayoutPlate
                    islands={second ? layout.second : handOn ? ownIslands(document, layout.islands) : layout.islands}
                    selected={selected.island}
                    onPick={session.pickIsland}
                    picture={second ? undefined : measured?.map}
                    onTile={drawing && !second ? pen.clickTile : undefined}
                    by={handOn && !second ? { hand, size, padding: document.unwrap.padding } : undefined}
                  />
                  <PlateFoot>
                    <span>
                      {second && f?.second
                        ? `second layout · ${document.unwrap.second?.size} × ${document.unwrap.second?.size} · ${figure(f.second.coverage * 100, 0)} % used · ${f.second.gutter} px apart`
                        : selected.island
                          ? `${document.parts.find((p) => p.id === selected.island?.part)?.name ?? ''}, island ${selected.island.island + 1}`
                          : `${size} × ${size} · ${figure((f?.coverage ?? 0) * 100, 0)} % used · ${f?.gutter} px apart`}
                    </span>
                  </PlateFoot>
                </>
              }
            />
            <JobBar />
          </>
        )
      }
      aside={
        f ? (
          <>
            {!fresh && (
              <AdviceCard
                level="near"
                title="This layout is from an older state."
                accept={{ words: 'Unwrap again', run: () => void runUnwrap(session), disabled: busy }}
              >
                The piece or the settings have changed since it was made.
              </AdviceCard>
            )}
            <SuggestedHere stage="unwrap" />
            {fresh && <LayoutAdvice document={document} f={f} />}
            {measured && measured.worst.length > 0 && <WorstFaces worst={measured.worst} parts={document.parts} onShow={showWorst} />}
            <LayoutFacts f={f} padding={document.unwrap.padding} />
            {fresh && <Print document={document} f={f} />}
          </>
        ) : (
          <Box sx={{ color: 'text.secondary' }}>Stretch, density, coverage and gaps are measured as soon as there is a layout.</Box>
        )
      }
    />
  );
}
