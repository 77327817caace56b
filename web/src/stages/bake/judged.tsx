'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import type { IdStray } from '@wellmorph/core/bake/ids';
import type { WorstPlace } from '@wellmorph/core/bake/judge';
import type { BakeFigures } from '@wellmorph/core/pipeline/bake';
import { several } from '@wellmorph/core/pipeline/commands/together';
import { type AssetDocument, stepsOf } from '@wellmorph/core/pipeline/document';
import { figure } from '@wellmorph/core/units/lengths';
import { memo } from 'react';
import { Chart } from '@/plates/chart';
import { useLengths, useSession, useSheet } from '@/session/context';
import type { AssetSession } from '@/session/session';
import { AdviceCard } from '@/sheet/advice';
import { Heading } from '@/sheet/fields';
import { newId } from '@/sheet/ids';
import { runBake } from '@/stages/bake/run';
import { FigureRow } from '../unwrap/figure-row';
import { useSeamsLit } from './seams-lit';
import { Weights } from './weights';

const deg = (x: number) => figure(x, 1);
const percent = (x: number) => figure(100 * x, 2);
/** From this share on it is worth hardening edges, and those over so many degrees: common practice, no source. */
const MENDS = 0.15;
const HARDER = 40;
/** What is worth a look: no place less far off is named, degrees. */
const SHOWS = 5;

/** What came of the bake in view: the verdict, the figures, the worst places, faces of a wrong colour. */
export function Judged({
  fresh,
  previewed,
  busy,
  onShow,
}: {
  fresh: boolean;
  /** What it would be now is said already. */
  previewed: boolean;
  busy: boolean;
  onShow(place: WorstPlace): void;
}) {
  const session = useSession();
  const bake = useSheet((s) => s.bake);
  const document = useSheet((s) => s.document);
  const { say } = useLengths();
  if (!bake || !document) return null;
  const f = bake.figures;
  const again = () => void runBake(session);
  const cure = f.verdict?.cure;
  return (
    <>
      {!fresh && !previewed && (
        <AdviceCard level="near" title="This bake is from an older state." accept={{ words: 'Bake again', run: again, disabled: busy }}>
          The piece, its layout or the settings have changed since it was made.
        </AdviceCard>
      )}
      {fresh && f.verdict && (
        <AdviceCard
          level={f.verdict.level}
          title={say(f.verdict.sentence)}
          accept={
            cure && {
              words: cure.words,
              run: () => session.dispatch({ type: 'bake.set', patch: cure.settings }) && again(),
              disabled: busy,
            }
          }
        >
          {f.verdict.change ? say(f.verdict.change) : 'Nothing needs changing.'}
        </AdviceCard>
      )}
      {fresh && <Mending figures={f} document={document} />}
      {fresh && f.ids && f.ids.strays.length > 0 && <Strays ids={f.ids} busy={busy} />}
      <Figures figures={f} onShow={onShow} />
      {fresh && f.bandedShare !== undefined && f.bandedShare > 0.02 && document.bake.bits === 8 && (
        <FigureRow label="texels that 8 bits draw in bands" value={percent(f.bandedShare)} unit="%" why="16 bits cure it" />
      )}
      {fresh && <Weights figures={f} size={document.brief.limits.textureSize} bits={document.bake.bits} />}
    </>
  );
}

/** Figures of the bake in view: the same until another one is, whatever is set meanwhile. */
const Figures = memo(function Figures({ figures: f, onShow }: { figures: BakeFigures; onShow(place: WorstPlace): void }) {
  const lit = useSeamsLit();
  const j = f.judgement;
  const places = j?.places?.filter((p) => p.degrees >= SHOWS) ?? [];
  return (
    <>
      <Apart figures={f} />
      {j && (
        <>
          <Heading aside="degrees off">{f.pairs.every((p) => p.itself) ? 'Against its own surface' : 'Against the high mesh'}</Heading>
          <FigureRow label="mean" value={deg(j.mean)} unit="°" />
          <FigureRow label="19 of 20 texels under" value={deg(j.p95)} unit="°" />
          <FigureRow label={`worst, on ${j.worstAt.part}`} value={deg(j.worst)} unit="°" />
          <FigureRow label="seams meet within" value={deg(j.seamMean)} unit="°" why="mean" />
          {lit && (
            <FigureRow
              label="worst seam, as lit"
              value={figure(lit.worst, 0)}
              unit="of 255"
              why={lit.seen > 0 ? `${lit.seen === lit.of ? `${lit.seen} or more` : lit.seen} show` : 'none shows'}
            />
          )}
          <FigureRow label="texels judged" value={figure(j.texels, 0)} />
        </>
      )}
      <FigureRow label="rays that find nothing" value={percent(f.missedShare)} unit="%" bad={f.missedShare > 0.002} />
      <FigureRow label="rays on a back face" value={percent(f.backShare)} unit="%" bad={f.backShare > 0.005} />
      {(f.doubledTexels ?? 0) > 0 && <FigureRow label="texels the layout uses twice" value={figure(f.doubledTexels ?? 0, 0)} bad />}
      {f.narrowShare > 0.0005 && (
        <FigureRow label="texels on details a texel wide" value={percent(f.narrowShare)} unit="%" why="they flicker" />
      )}
      {f.occlusionNoise > 0 && <FigureRow label="occlusion is off by chance" value={`≤ ${percent(f.occlusionNoise)}`} unit="%" />}
      {f.mendingShare > 0.01 && <FigureRow label="texels that only mend shading" value={percent(f.mendingShare)} unit="%" />}
      {f.roundedMm > 0 && <Rounded figures={f} />}
      {places.length > 0 && (
        <Box sx={{ mt: 2 }}>
          <Heading aside="off by">Worst places</Heading>
          {places.map((p) => (
            <Button
              key={`${p.id}/${p.x}/${p.y}/${p.z}`}
              fullWidth
              onClick={() => onShow(p)}
              sx={{ display: 'flex', justifyContent: 'space-between', fontSize: 13, fontWeight: 400, py: 0.3, color: 'text.primary' }}
            >
              <span>{p.part}</span>
              <span className="mono">{deg(p.degrees)}°</span>
            </Button>
          ))}
        </Box>
      )}
      {f.pairs.length > 1 && <ByPart figures={f} />}
    </>
  );
});

/** Parts whose map is spent on how they are shaded, said once, with the step that cures it. */
function Mending({ figures: f, document }: { figures: BakeFigures; document: AssetDocument }) {
  const session = useSession();
  const parts = f.pairs.filter(
    (p) => p.mendingShare > MENDS && document.parts.some((d) => d.id === p.id && !stepsOf(d).some((s) => s.kind === 'shade')),
  );
  if (parts.length === 0) return null;
  const most = Math.max(...parts.map((p) => p.mendingShare));
  const harden = () => {
    const commands = parts.map((p) => ({
      type: 'step.add' as const,
      part: p.id,
      step: { kind: 'shade' as const, id: newId(), name: 'Shading', enabled: true, hard: 'add' as const, degrees: HARDER, weighted: true },
    }));
    session.dispatch(commands.length === 1 ? commands[0] : several(`hardened edges of ${commands.length} parts`, commands));
  };
  return (
    <AdviceCard
      level="near"
      title={
        parts.length === 1
          ? `${figure(100 * most, 0)} % of the normals of “${parts[0].name}” only mend its shading.`
          : `On ${parts.length} parts up to ${figure(100 * most, 0)} % of the normals only mend their shading.`
      }
      accept={{ words: `Harden edges over ${HARDER}°`, run: harden }}
    >
      Light runs softly over corners that are flat on both meshes, and the map has to take it back. Hard edges there, and normals weighed by
      area, leave the map to what the low mesh lacks. The layout is then cut along them.
    </AdviceCard>
  );
}

/** How far the meshes lie apart; nothing where every part is baked from itself. */
function Apart({ figures: f }: { figures: BakeFigures }) {
  const { unit, length, bare } = useLengths();
  const { from, to, counts } = f.histogram;
  const paired = f.pairs.filter((p) => !p.itself);
  if (paired.length === 0) return null;
  const triangles = paired.reduce((n, p) => n + p.lowTriangles, 0);
  const lean = paired.reduce((n, p) => n + (p.lean?.mean ?? 0) * p.lowTriangles, 0) / Math.max(1, triangles);
  const most = Math.max(...paired.map((p) => p.lean?.most ?? 0));
  return (
    <>
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
        One distance for the whole piece would have to be {length(f.uniform.front)} outward and {length(f.uniform.rear)} inward.{' '}
        {trialWords(f)}
      </Box>
      {most > 0 && (
        <Box sx={{ mb: 2 }}>
          <FigureRow label="rays lean from the faces" value={deg(lean)} unit="°" why={`mean · up to ${deg(most)}°`} />
        </Box>
      )}
    </>
  );
}

/** What less and more than the measured distances would come to. */
function trialWords({ trials = [] }: BakeFigures): string {
  const at = (times: number) => trials.find((t) => t.times === times);
  const half = at(0.5);
  if (!half) return '';
  const less = `Half the measured distances would miss ${figure(100 * half.missedShare, 1)} % of the rays`;
  const farther = [2, 4, 8].flatMap((times) => at(times) ?? []).find((t) => t.wrongShare > 0.002);
  if (!farther) return `${less}; eight times as much would still meet the right place.`;
  return `${less}; ${['twice', 'four times', 'eight times'][Math.log2(farther.times) - 1]} as much would hit ${figure(100 * farther.wrongShare, 1)} % wrongly.`;
}

/** Texels beside rounded edges have nothing to be held against: how many they are. */
function Rounded({ figures: f }: { figures: BakeFigures }) {
  const { length } = useLengths();
  const parts = f.judgement?.parts ?? [];
  const all = parts.reduce((n, p) => n + p.texels / Math.max(1e-9, 1 - (p.roundedShare ?? 0)), 0);
  const rounded = parts.reduce((n, p) => n + (p.texels * (p.roundedShare ?? 0)) / Math.max(1e-9, 1 - (p.roundedShare ?? 0)), 0);
  return (
    <FigureRow
      label="texels on rounded edges"
      value={figure((100 * rounded) / Math.max(1, all), 1)}
      unit="%"
      why={`of ${length(f.roundedMm)}`}
    />
  );
}

/** Each part: how far off, and what its rays found. */
function ByPart({ figures: f }: { figures: BakeFigures }) {
  // Where two parts have one name it can’t be told whose figures they are.
  const once = (name: string) => f.pairs.filter((p) => p.name === name).length === 1;
  const judged = new Map(f.judgement?.parts.filter((p) => once(p.name)).map((p) => [p.name, p]));
  const rows = [...f.pairs].sort((x, y) => (judged.get(y.name)?.mean ?? 0) - (judged.get(x.name)?.mean ?? 0));
  return (
    <Box sx={{ mt: 2 }}>
      <Heading aside="mean · 19 of 20">By part</Heading>
      {rows.map((p) => {
        const j = judged.get(p.name);
        const lost = [
          p.missedShare > 0.002 && `${percent(p.missedShare)} % missed`,
          p.backShare > 0.005 && `${percent(p.backShare)} % back`,
        ];
        return (
          <FigureRow
            key={p.id}
            label={p.name}
            value={j ? `${deg(j.mean)} · ${deg(j.p95)}` : '–'}
            unit={j ? '°' : ''}
            why={[p.itself && 'from itself', ...lost].filter(Boolean).join(' · ') || undefined}
            bad={lost.some(Boolean)}
          />
        );
      })}
    </Box>
  );
}

/** Faces whose colour differs from all round them, said once for each pair of colours. */
function Strays({ ids, busy }: { ids: NonNullable<BakeFigures['ids']>; busy: boolean }) {
  const session = useSession();
  const faces = ids.strays.reduce((n, s) => n + s.faces.length, 0);
  const kinds = new Map<string, number>();
  for (const s of ids.strays) {
    const words = `“${ids.legend[s.is - 1]?.name}” inside “${ids.legend[s.in - 1]?.name}”`;
    kinds.set(words, (kinds.get(words) ?? 0) + s.faces.length);
  }
  const listed = [...kinds].map(([words, n]) => `${figure(n, 0)} × ${words}`).join('; ');
  if (ids.cleaned)
    return (
      <AdviceCard
        level="ok"
        title={faces === 1 ? 'One stray face took the colour round it.' : `${figure(faces, 0)} stray faces took the colour round them.`}
        accept={{
          words: 'Leave them as they are',
          run: () => session.dispatch({ type: 'bake.set', patch: { idClean: false } }) && void runBake(session),
          disabled: busy,
          quiet: true,
        }}
      >
        {listed}.
      </AdviceCard>
    );
  const fix =
    ids.by === 'region' || ids.by === 'material'
      ? { words: 'Give them to what is round them', run: () => void giveBack(session, ids.strays), disabled: busy }
      : {
          words: 'Let them take the colour round them',
          run: () => session.dispatch({ type: 'bake.set', patch: { idClean: true } }) && void runBake(session),
          disabled: busy,
        };
  return (
    <AdviceCard
      level="near"
      title={
        faces === 1
          ? 'One face has another colour than all round it.'
          : `${figure(faces, 0)} faces have another colour than all round them.`
      }
      accept={fix}
    >
      {listed}. As a mask each would be a stain.
    </AdviceCard>
  );
}

async function giveBack(session: AssetSession, strays: readonly IdStray[]): Promise<void> {
  await session.job('fix', async ({ document, report, cancel }) => {
    const parts = session.state.unwrap?.parts;
    if (!parts) return;
    const commands = await session.bench.pool.run('givenBack', { document, parts, strays }, report, cancel);
    if (commands.length > 0) session.dispatch(commands.length === 1 ? commands[0] : several('gave faces to what is round them', commands));
  });
}
