'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import ToggleButton from '@mui/material/ToggleButton';
import ToggleButtonGroup from '@mui/material/ToggleButtonGroup';
import { adviseBrief } from '@wellmorph/core/brief/advice';
import { deliveredParts } from '@wellmorph/core/pipeline/document';
import { figure } from '@wellmorph/core/units/lengths';
import { useMemo, useState } from 'react';
import { LayoutPlate } from '@/plates/layout';
import { Piece, PlateFoot, PlateTop, PlateWords, TwoPlates } from '@/plates/plate';
import { useSession, useSheet } from '@/session/context';
import { isFresh } from '@/session/state';
import { AdviceCard } from '@/sheet/advice';
import { Columns } from '@/sheet/columns';
import { download } from '@/sheet/download';
import { Choice, Heading, NumberField } from '@/sheet/fields';
import { JobBar } from '@/sheet/job-bar';
import { useMaterials } from '@/sheet/materials';
import { runUnwrap } from '@/stages/unwrap/run';
import { FigureRow } from './figure-row';

export function UnwrapStage() {
  const session = useSession();
  const document = useSheet((s) => s.document);
  const form = useSheet((s) => s.form);
  const layout = useSheet((s) => s.unwrap);
  const selected = useSheet((s) => s.selected);
  const busy = useSheet((s) => s.job !== null);
  const materialOf = useMaterials();
  const [checker, setChecker] = useState(true);
  const size = document?.brief.limits.textureSize ?? 1024;
  const checks = useMemo(() => (checker ? { size, texels: 16 } : undefined), [checker, size]);
  if (!document) return null;
  const fresh = isFresh(document, layout, 'unwrap');
  const wanted = adviseBrief(document.brief).wanted.densityPxPerCm;
  const f = layout?.figures;
  const unwrapButton = (
    <Button variant="contained" disabled={busy || !form || form.gpu.length === 0} onClick={() => void runUnwrap(session)}>
      {layout ? 'Unwrap again' : 'Unwrap'}
    </Button>
  );
  // Padding by size is common practice, no source.
  const usual = size <= 1024 ? 8 : size <= 2048 ? 16 : 32;
  return (
    <Columns
      controls={
        <Box sx={{ px: 1.8 }}>
          <Heading aside={`${size} × ${size}`}>Layout</Heading>
          <NumberField
            label="Padding"
            hint="empty texels between islands"
            kind="whole"
            unit="px"
            min={0}
            max={128}
            value={document.unwrap.padding}
            onCommit={(padding) => session.dispatch({ type: 'unwrap.set', patch: { padding } })}
          />
          <NumberField
            label="Cut where faces turn by"
            hint="imported parts"
            kind="number"
            unit="°"
            min={1}
            max={180}
            value={document.unwrap.seamAngle}
            onCommit={(seamAngle) => session.dispatch({ type: 'unwrap.set', patch: { seamAngle } })}
          />
          <Choice
            label="Turn islands"
            value={document.unwrap.rotate ? 1 : 0}
            choices={[
              [1, 'to pack well'],
              [0, 'never'],
            ]}
            onChange={(v) => session.dispatch({ type: 'unwrap.set', patch: { rotate: v === 1 } })}
          />
          <Box sx={{ my: 1.2 }}>{unwrapButton}</Box>
          <Heading aside="1 = equal density">Share of texels</Heading>
          {deliveredParts(document).map((p) => {
            const own = f?.parts.find((x) => x.id === p.id);
            return (
              <Box
                key={p.id}
                sx={{ bgcolor: selected.part === p.id ? 'sheet.tint' : undefined, mx: -0.6, px: 0.6 }}
                onFocus={() => session.select({ part: p.id })}
              >
                <NumberField
                  label={p.name}
                  hint={own && fresh ? `${figure(own.density, 1)} px/cm` : undefined}
                  kind="number"
                  unit="×"
                  min={0.05}
                  max={20}
                  value={p.weight}
                  width={74}
                  onCommit={(weight) => session.dispatch({ type: 'part.set', part: p.id, patch: { weight } })}
                />
              </Box>
            );
          })}
          {layout && fresh && (
            <Box sx={{ mt: 2 }}>
              <Heading>Layout to paint on</Heading>
              <Box sx={{ display: 'flex', gap: 1, mt: 1 }}>
                <Button
                  variant="outlined"
                  onClick={async () =>
                    download(`${document.name.toLowerCase().replace(/\W+/g, '-')}_layout.png`, await session.bench.blobs.get(layout.png))
                  }
                >
                  PNG
                </Button>
                <Button
                  variant="outlined"
                  onClick={async () =>
                    download(`${document.name.toLowerCase().replace(/\W+/g, '-')}_layout.svg`, await session.bench.blobs.get(layout.svg))
                  }
                >
                  SVG
                </Button>
              </Box>
            </Box>
          )}
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
              left={
                <>
                  <PlateTop>
                    <ToggleButtonGroup
                      value={checker ? 'checker' : 'material'}
                      onChange={(_, v: string | null) => v && setChecker(v === 'checker')}
                      aria-label="how the piece is drawn"
                    >
                      <ToggleButton value="checker">Checker</ToggleButton>
                      <ToggleButton value="material">Materials</ToggleButton>
                    </ToggleButtonGroup>
                  </PlateTop>
                  <Piece
                    gpu={layout.gpu}
                    materialOf={materialOf}
                    checker={checks}
                    selectedIsland={selected.island}
                    onPick={session.pickIsland}
                  />
                  <PlateFoot>
                    <span>{checker ? '16 texels a square' : ''}</span>
                  </PlateFoot>
                </>
              }
              right={
                <>
                  <LayoutPlate islands={layout.islands} selected={selected.island} onPick={session.pickIsland} />
                  <PlateFoot>
                    <span>
                      {selected.island
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
            {fresh && f.density < wanted * 0.98 && (
              <AdviceCard
                level="near"
                title={`${figure(f.density, 1)} px/cm, wanted ${figure(wanted, 1)}.`}
                accept={
                  size < 8192
                    ? {
                        words: `Use ${size * 2} px`,
                        run: () =>
                          session.dispatch({ type: 'brief.set', patch: { limits: { ...document.brief.limits, textureSize: size * 2 } } }),
                      }
                    : undefined
                }
              >
                At the closest view a texel covers {figure(wanted / f.density, 1)} screen pixels. A texture of {size * 2} px gives{' '}
                {figure(f.density * 2, 1)} px/cm for four times the memory.
              </AdviceCard>
            )}
            {fresh && f.density >= wanted * 0.98 && document.unwrap.padding < usual && (
              <AdviceCard
                title={`${usual} px of padding is usual at ${size} px.`}
                accept={{ words: `Use ${usual}`, run: () => session.dispatch({ type: 'unwrap.set', patch: { padding: usual } }) }}
              >
                {document.unwrap.padding} px leave {Math.max(0, Math.floor(Math.log2(Math.max(1, document.unwrap.padding)) - 1))} smaller
                levels before colours of neighbouring islands mix.
              </AdviceCard>
            )}
            <Heading aside="measured">The layout</Heading>
            <FigureRow label="Islands" value={figure(f.islands, 0)} />
            <FigureRow label="Stretch, whole piece" value={figure(f.stretchL2, 3)} unit="L²" why="1 is none" />
            <FigureRow label="Stretch, worst" value={figure(f.stretchLinf, 3)} unit="L∞" why="largest pull in any direction" />
            <FigureRow label="Density" value={figure(f.density, 1)} unit="px/cm" />
            <FigureRow label="Covered" value={figure(f.coverage * 100, 1)} unit="%" />
            <FigureRow label="Claimed twice" value={figure(f.overlapTexels, 0)} unit="texels" bad={f.overlapTexels > 0} />
            <FigureRow label="Folded" value={figure(f.folds, 0)} unit="triangles" bad={f.folds > 0} />
            <FigureRow label="Islands apart by" value={figure(f.gutter, 0)} unit="px" bad={f.gutter < document.unwrap.padding} />
            <FigureRow label="Edge of the tile" value={figure(f.border, 0)} unit="px" />
          </>
        ) : (
          <Box sx={{ color: 'text.secondary' }}>Stretch, density, coverage and gaps are measured as soon as there is a layout.</Box>
        )
      }
    />
  );
}
