'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { type Advice, adviseBrief } from '@wellmorph/core/brief/advice';
import { type Brief, briefFor, ORIGINS, type Origin, PURPOSES, type Purpose } from '@wellmorph/core/brief/brief';
import { deliveredMaps, textureMemoryMB } from '@wellmorph/core/pipeline/delivered';
import { withWaivers } from '@wellmorph/core/pipeline/inspect';
import { decimalsIn, figure, inUnit, LENGTH_UNITS, MM_PER } from '@wellmorph/core/units/lengths';
import { Piece, PlateWords } from '@/plates/plate';
import { useDispatch, useLengthUnit, useSheet } from '@/session/context';
import { isFresh } from '@/session/state';
import { Columns } from '@/sheet/columns';
import { DateField } from '@/sheet/date-field';
import { Choice, Heading, NumberField } from '@/sheet/fields';
import { Findings } from '@/sheet/findings';
import { useMaterials } from '@/sheet/materials';
import { FamilyPanel } from './family';
import { OnScreen } from './on-screen';

/** Changes figures of the brief. */
function useSet(): (patch: Partial<Brief>) => boolean {
  const dispatch = useDispatch();
  return (patch) => dispatch({ type: 'brief.set', patch });
}
const SIZES = [256, 512, 1024, 2048, 4096, 8192] as const;

export function BriefStage() {
  const document = useSheet((s) => s.document);
  const form = useSheet((s) => s.form);
  const layout = useSheet((s) => s.unwrap);
  const found = useSheet((s) => s.findings);
  const id = useSheet((s) => s.id);
  const set = useSet();
  const materialOf = useMaterials();
  if (!document) return null;
  const { brief } = document;
  const formed = form && form.ledger.triangles > 0 ? form : null;
  const coverage = isFresh(document, layout, 'unwrap') ? layout?.figures.coverage : undefined;
  const advice = adviseBrief(brief, {
    areaMm2: formed?.ledger.areaMm2,
    coverage,
    textures: { maps: deliveredMaps(document).length, memoryMB: textureMemoryMB(document) },
    ...(formed && { trianglesFor: () => formed.neededTriangles }),
  });
  const limits = (patch: Partial<Brief['limits']>) => set({ limits: { ...brief.limits, ...patch } });
  const purpose = (p: Purpose) => {
    if (p === 'own') set({ purpose: p });
    else {
      const { closestMm, pictureHeightPx, lensMm, errorPx, limits: l } = briefFor(p);
      set({ purpose: p, closestMm, pictureHeightPx, lensMm, errorPx, limits: l });
    }
  };
  const measured = formed?.ledger.sizeMm;
  const differs = measured?.some((x, i) => Math.abs(x - brief.sizeMm[i]) > Math.max(0.5, brief.sizeMm[i] * 0.02));
  return (
    <Columns
      controls={
        <Box sx={{ px: 1.8 }}>
          <Heading aside={`lengths in ${brief.unit ?? 'mm'}`}>Brief</Heading>
          <Choice
            label="Lengths in"
            hint="any can be typed: 2.5cm, 1in"
            value={brief.unit ?? 'mm'}
            choices={LENGTH_UNITS.map((u) => [u, u] as const)}
            onChange={(unit) => set({ unit })}
          />
          <Choice label="Purpose" value={brief.purpose} choices={Object.entries(PURPOSES) as [Purpose, string][]} onChange={purpose} />
          <NumberField
            label="Width"
            value={brief.sizeMm[0]}
            min={0.01}
            onCommit={(x) => set({ sizeMm: [x, brief.sizeMm[1], brief.sizeMm[2]] })}
          />
          <NumberField
            label="Height"
            value={brief.sizeMm[1]}
            min={0.01}
            onCommit={(y) => set({ sizeMm: [brief.sizeMm[0], y, brief.sizeMm[2]] })}
          />
          <NumberField
            label="Depth"
            value={brief.sizeMm[2]}
            min={0.01}
            onCommit={(z) => set({ sizeMm: [brief.sizeMm[0], brief.sizeMm[1], z] })}
          />
          <Box sx={{ mt: 2 }} />
          <Heading>Closest view</Heading>
          <NumberField label="Distance" value={brief.closestMm} min={1} max={1e6} onCommit={(closestMm) => set({ closestMm })} />
          <NumberField label="Lens" unit="mm" value={brief.lensMm} min={1} max={2000} onCommit={(lensMm) => set({ lensMm })} />
          <NumberField
            label="Picture height"
            kind="whole"
            unit="px"
            min={16}
            max={32768}
            value={brief.pictureHeightPx}
            onCommit={(pictureHeightPx) => set({ pictureHeightPx })}
          />
          <NumberField
            label="Outline error that may show"
            kind="number"
            unit="px"
            min={0.01}
            max={50}
            value={brief.errorPx}
            onCommit={(errorPx) => set({ errorPx })}
          />
          <Box sx={{ mt: 2 }} />
          <Heading>Limits</Heading>
          <NumberField
            label="Triangles"
            kind="whole"
            unit=""
            min={1}
            max={1e8}
            value={brief.limits.triangles}
            onCommit={(triangles) => limits({ triangles })}
          />
          <Choice
            label="Texture size"
            value={brief.limits.textureSize}
            choices={SIZES.map((s) => [s, `${s} px`] as const)}
            onChange={(textureSize) => limits({ textureSize })}
          />
          <NumberField
            label="Map sets"
            kind="whole"
            unit=""
            min={1}
            max={16}
            value={brief.limits.textureSets}
            onCommit={(textureSets) => limits({ textureSets })}
          />
          <NumberField
            label="Texture memory"
            kind="number"
            unit="MB"
            min={0.1}
            max={1e5}
            value={brief.limits.memoryMB}
            onCommit={(memoryMB) => limits({ memoryMB })}
          />
          <NumberField
            label="Walls at least"
            hint="0: not asked for"
            min={0}
            max={1000}
            value={brief.wallMm ?? 0}
            onCommit={(wallMm) => set({ wallMm })}
          />
          <Choice
            label="Origin"
            value={brief.origin ?? 'any'}
            choices={Object.entries(ORIGINS) as [Origin, string][]}
            onChange={(origin) => set({ origin })}
          />
          <DateField label="Deadline" value={brief.deadline} onDay={(deadline) => set({ deadline })} />
          <FamilyPanel brief={brief} set={set} />
        </Box>
      }
      plate={
        formed ? (
          <Box sx={{ position: 'absolute', inset: 0, display: 'grid', gridTemplateRows: '3fr 2fr' }}>
            <Box sx={{ position: 'relative' }}>
              <Piece came gpu={formed.gpu} materialOf={materialOf} dimension />
            </Box>
            <OnScreen brief={brief} pixelMm={advice.pixelMm} sizeMm={formed.ledger.sizeMm} />
          </Box>
        ) : document.parts.length === 0 ? (
          <PlateWords
            action={
              <Button variant="contained" href={`/assets/${id}/form`}>
                Go to Form
              </Button>
            }
          >
            The brief is set. Next, form the piece from dimensioned steps: a turned profile, a bar along a path, an array round an axis.
          </PlateWords>
        ) : (
          <PlateWords>Forming the piece …</PlateWords>
        )
      }
      aside={
        <>
          <Heading aside="computed">What follows from it</Heading>
          <AdviceRow advice={advice.pixels} digits={0} />
          <AdviceRow
            advice={advice.density}
            digits={1}
            onOverride={(v) => set({ overrides: { ...brief.overrides, densityPxPerCm: v ?? undefined } })}
          />
          <AdviceRow
            advice={advice.texture}
            digits={0}
            take={
              advice.texture.override !== undefined && SIZES.includes(advice.texture.value as (typeof SIZES)[number])
                ? { words: `Use ${figure(advice.texture.value, 0)} px`, run: () => limits({ textureSize: advice.texture.value }) }
                : undefined
            }
          />
          <AdviceRow
            advice={advice.tolerance}
            digits={3}
            onOverride={(v) => set({ overrides: { ...brief.overrides, toleranceMm: v ?? undefined } })}
          />
          {advice.triangles && (
            <AdviceRow
              advice={advice.triangles}
              digits={0}
              take={{
                words: `Set the limit to ${figure(Math.ceil(advice.triangles.value / 100) * 100, 0)}`,
                run: () => limits({ triangles: Math.ceil((advice.triangles?.value ?? 0) / 100) * 100 }),
              }}
            />
          )}
          <AdviceRow advice={advice.memory} digits={1} />
          {differs && measured && (
            <Box sx={{ mt: 1.5, color: 'warning.main' }}>
              The piece measures {inUnit(measured, brief.unit, 1)}; the brief asks for {inUnit(brief.sizeMm, brief.unit, 1)}.
              <Box sx={{ mt: 0.8 }}>
                <Button
                  variant="outlined"
                  onClick={() => set({ sizeMm: measured.map((x) => Math.round(x * 10) / 10) as [number, number, number] })}
                >
                  Take the measured size
                </Button>
              </Box>
            </Box>
          )}
          {document.sources.length > 0 && (
            <Box sx={{ mt: 2 }}>
              <Heading>Source</Heading>
              {document.sources.map((source) => (
                <Box key={source.fileName} sx={{ py: 0.6 }}>
                  {source.fileName}
                  <Box className="narrow" sx={{ fontSize: 12, color: source.licence ? 'text.secondary' : 'warning.main' }}>
                    {source.licence || 'no licence noted: whether it may be passed on is not known'}
                    {source.note && ` · ${source.note}`}
                  </Box>
                </Box>
              ))}
            </Box>
          )}
          {found && (
            <Findings findings={withWaivers(document, found.findings).filter((f) => f.kind === 'over-limit')} title="Over a limit" />
          )}
        </>
      }
    />
  );
}

/** One computed figure with its reason; the person's own figure stays beside it. */
function AdviceRow({
  advice: a,
  digits,
  onOverride,
  take,
}: {
  advice: Advice;
  digits: number;
  onOverride?(value: number | null): void;
  take?: { words: string; run(): void };
}) {
  const own = onOverride && a.override !== undefined;
  const lengths = useLengthUnit();
  const isLength = a.unit === 'mm';
  const unit = isLength ? lengths : a.unit;
  return (
    <Box sx={{ py: 0.9, borderBottom: 1, borderColor: 'sheet.faint' }}>
      <Box sx={{ display: 'flex', justifyContent: 'space-between', alignItems: 'baseline', gap: 1 }}>
        <Box sx={{ fontSize: 13, fontWeight: 600 }}>{a.label}</Box>
        <Box
          className="mono"
          sx={{ fontSize: 14, textDecoration: own ? 'line-through' : 'none', color: own ? 'text.secondary' : 'text.primary' }}
        >
          {isLength ? figure(a.value / MM_PER[lengths], decimalsIn(lengths, digits)) : figure(a.value, digits)}{' '}
          <Box component="span" className="narrow" sx={{ color: 'text.secondary', fontSize: 12 }}>
            {unit}
          </Box>
        </Box>
      </Box>
      <Box className="narrow" sx={{ fontSize: 12, color: 'text.secondary', lineHeight: 1.4 }}>
        {a.why}
      </Box>
      {onOverride && (
        <NumberField
          label={own ? 'your own, against the advice' : 'your own instead'}
          {...(isLength ? { kind: 'length' } : { kind: 'number', unit: a.unit })}
          value={a.override ?? a.value}
          digits={digits}
          min={1e-5}
          max={1e5}
          width={118}
          onCommit={(v) => onOverride(Math.abs(v - a.value) < 1e-9 ? null : v)}
        />
      )}
      {own && (
        <Button sx={{ mt: 0.4 }} variant="outlined" onClick={() => onOverride(null)}>
          Back to the advice
        </Button>
      )}
      {!onOverride && a.override !== undefined && (
        <Box className="narrow" sx={{ fontSize: 12 }}>
          in force: <span className="mono">{figure(a.override, digits)}</span> {a.unit}
        </Box>
      )}
      {take && (
        <Button sx={{ mt: 0.4 }} variant="outlined" onClick={take.run}>
          {take.words}
        </Button>
      )}
    </Box>
  );
}
