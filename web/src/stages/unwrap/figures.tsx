'use client';

import { adviseBrief } from '@wellmorph/core/brief/advice';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import { figure } from '@wellmorph/core/units/lengths';
import type { LayoutFigures } from '@wellmorph/core/uv/measure';
import { FLATTENED, type FlatteningMethod, SEAM_REASONS, type SeamReason } from '@wellmorph/core/uv/words';
import { useLengths, useSession } from '@/session/context';
import { AdviceCard } from '@/sheet/advice';
import { Heading } from '@/sheet/fields';
import { FigureRow } from './figure-row';

/** Empty texels that are usual between islands: common practice, no source. */
const usualPadding = (size: number): number => (size <= 1024 ? 8 : size <= 2048 ? 16 : 32);
/** Hard edges shorter than this together are none, mm. */
const NONE = 0.01;
/** As sharp as edges of meshes without marks are handed over hard, degrees. */
const HARD_ANGLE = 60;

/** How much denser the rest gets when a share of the surface has half its density, as full a tile as before. */
const halved = (share: number): number => 1 / Math.sqrt(1 - share + share / 4);

/** What should be done about a layout that is of the piece as it stands: one thing at a time, the worst first. */
export function LayoutAdvice({ document, f }: { document: AssetDocument; f: LayoutFigures }) {
  const session = useSession();
  const { length } = useLengths();
  const size = document.brief.limits.textureSize;
  const wanted = adviseBrief(document.brief).wanted.densityPxPerCm;
  const usual = usualPadding(size);
  const { padding, seamAngle } = document.unwrap;
  const inside = f.seams?.hardInsideMm ?? 0;
  if (inside > NONE && document.bake.normal)
    return (
      <AdviceCard
        level="near"
        title={`${length(inside, 0)} of hard edge lie inside islands.`}
        accept={
          seamAngle > HARD_ANGLE
            ? {
                words: `Cut from ${HARD_ANGLE}°`,
                run: () => session.dispatch({ type: 'unwrap.set', patch: { seamAngle: HARD_ANGLE } }),
              }
            : undefined
        }
      >
        A normal map can’t be right on both sides of such an edge: cut there, or make it soft.
        {seamAngle <= HARD_ANGLE && ' They were closed by hand, belong to a layout that was kept, or the file has every face by itself.'}
      </AdviceCard>
    );
  const won = f.unseenShare ? halved(f.unseenShare) : 1;
  const { unseen } = document.unwrap;
  if (f.density < wanted * 0.98 && unseen === 1 && won > 1.02)
    return (
      <AdviceCard
        level="near"
        title={`${figure(f.density, 1)} px/cm, wanted ${figure(wanted, 1)}.`}
        accept={{ words: 'Half there', run: () => session.dispatch({ type: 'unwrap.set', patch: { unseen: 0.5 } }) }}
      >
        {figure(100 * (f.unseenShare ?? 0), 0)} % of the surface is inside or covered, where nobody looks. Half the density there gives
        about {figure(f.density * won, 1)} px/cm to all that is seen, for no memory.
      </AdviceCard>
    );
  if (f.density < wanted * 0.98)
    return (
      <AdviceCard
        level="near"
        title={`${figure(f.density, 1)} px/cm, wanted ${figure(wanted, 1)}.`}
        accept={
          size < 8192
            ? {
                words: `Use ${size * 2} px`,
                run: () => session.dispatch({ type: 'brief.set', patch: { limits: { ...document.brief.limits, textureSize: size * 2 } } }),
              }
            : undefined
        }
      >
        At the closest view a texel covers {figure(wanted / f.density, 1)} screen pixels. A texture of {size * 2} px gives{' '}
        {figure(f.density * 2, 1)} px/cm for four times the memory.
      </AdviceCard>
    );
  if (padding < usual)
    return (
      <AdviceCard
        title={`${usual} px of padding is usual at ${size} px.`}
        accept={{ words: `Use ${usual}`, run: () => session.dispatch({ type: 'unwrap.set', patch: { padding: usual } }) }}
      >
        {padding} px leave {Math.max(0, Math.floor(Math.log2(Math.max(1, padding)) - 1))} smaller levels before colours of neighbouring
        islands mix.
      </AdviceCard>
    );
  return null;
}

/** Everything that is measured on a layout. */
export function LayoutFacts({ f, padding }: { f: LayoutFigures; padding: number }) {
  const { length } = useLengths();
  const grain = f.parts.flatMap((p) => p.grain ?? []);
  return (
    <>
      <Heading aside="measured">The layout</Heading>
      <FigureRow label="Islands" value={figure(f.islands, 0)} />
      {(Object.entries(f.methods ?? {}) as [FlatteningMethod, number][])
        .sort((a, b) => b[1] - a[1])
        .map(([method, count]) => (
          <FigureRow key={method} label={FLATTENED[method]} value={figure(count, 0)} under />
        ))}
      {f.twins && (
        <FigureRow
          label="Twins"
          value={figure(f.twins.shells, 0)}
          unit="shells"
          why={f.twins.mirrored > 0 ? `${figure(f.twins.mirrored, 0)} mirrored: print would be too` : 'a print on them would repeat'}
        />
      )}
      <FigureRow label="Stretch, whole piece" value={figure(f.stretchL2, 3)} unit="L²" why="1 is none" />
      <FigureRow label="Stretch, worst" value={figure(f.stretchLinf, 3)} unit="L∞" why="largest pull in any direction" />
      {grain.length > 0 && (
        <FigureRow
          label="Grain off by"
          value={figure(Math.max(...grain.map((g) => g.worst)), 1)}
          unit="°"
          why="in the worst island"
          bad={Math.max(...grain.map((g) => g.worst)) > 2}
        />
      )}
      <FigureRow label="Density" value={figure(f.density, 1)} unit="px/cm" />
      {f.unseenShare !== undefined && f.unseenDensity !== undefined && f.unseenShare > 0.001 && f.unseenShare < 1 && (
        <FigureRow
          label="where nobody looks"
          value={figure(f.unseenDensity, 1)}
          unit="px/cm"
          why={`${figure(100 * f.unseenShare, 0)} % of the surface`}
        />
      )}
      <FigureRow label="Covered" value={figure(f.coverage * 100, 1)} unit="%" />
      {f.freelyWon !== undefined && (
        <FigureRow
          label="Won by turning freely"
          value={f.freelyWon > 0 ? `+${figure(100 * f.freelyWon, 1)}` : '0'}
          unit="%"
          why={f.freelyWon > 0 ? 'texels along a side, over quarter turns' : 'so they lie in quarters'}
        />
      )}
      <FigureRow label="Claimed twice" value={figure(f.overlapTexels, 0)} unit="texels" bad={f.overlapTexels > 0} />
      <FigureRow label="Folded" value={figure(f.folds, 0)} unit="triangles" bad={f.folds > 0} />
      {f.mirrored !== undefined && (
        <FigureRow label="Mirrored" value={figure(f.mirrored, 0)} unit="islands" why="a print on them would be too" />
      )}
      <FigureRow label="Islands apart by" value={figure(f.gutter, 0)} unit="px" bad={f.gutter < padding} />
      <FigureRow label="Edge of the tile" value={figure(f.border, 0)} unit="px" />
      {f.outside !== undefined && <FigureRow label="Out of the tile" value={figure(f.outside, 0)} unit="islands" bad />}
      {f.placed !== undefined && <FigureRow label="Placed by hand" value={figure(f.placed, 0)} unit="islands" />}
      {f.lostPlaces !== undefined && f.lostPlaces > 0 && (
        <FigureRow label="Places not found" value={figure(f.lostPlaces, 0)} why="their islands were cut otherwise; packed again" bad />
      )}
      {f.seams && (
        <>
          <FigureRow label="Seams" value={length(f.seams.lengthMm, 0)} />
          {(Object.entries(f.seams.reasons ?? {}) as [SeamReason, number][])
            .filter(([, mm]) => mm > NONE)
            .sort((a, b) => b[1] - a[1])
            .map(([reason, mm]) => (
              <FigureRow key={reason} label={SEAM_REASONS[reason]} value={length(mm, 0)} under />
            ))}
          <FigureRow
            label="of them in view"
            value={figure(f.seams.lengthMm > 0 ? (100 * f.seams.shownMm) / f.seams.lengthMm : 0, 0)}
            unit="%"
            why="not inside, nor underneath"
          />
          <FigureRow label="Hard edges inside" value={length(f.seams.hardInsideMm, 0)} bad={f.seams.hardInsideMm > NONE} />
          {f.seams.reopenedMm > NONE && (
            <FigureRow label="Closed, cut again" value={length(f.seams.reopenedMm, 0)} why="it could not be laid flat" bad />
          )}
          <FigureRow
            label="Vertices"
            value={figure(f.seams.gpuVertices, 0)}
            why={`${figure(f.seams.gpuVertices / Math.max(1, f.seams.forcedVertices), 2)} × what hard edges make`}
          />
        </>
      )}
    </>
  );
}
