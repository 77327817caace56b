'use client';

import Box from '@mui/material/Box';
import type { AssetDocument, Material } from '@wellmorph/core/pipeline/document';
import { GATHERED, type GatheredMap, gatheredDraws, gatheredMaterials, gatherVerdict } from '@wellmorph/core/pipeline/gather-figures';
import { figure } from '@wellmorph/core/units/lengths';
import { useEffect, useMemo, useState } from 'react';
import { useBench, useSheet } from '@/session/context';
import type { GatherView, ProjectView } from '@/session/kept';
import { isFresh } from '@/session/state';
import { tookTime } from '@/shared/times';
import { Heading } from '@/sheet/fields';
import { FigureTable } from '@/sheet/figure-table';
import type { Work } from '@/workers/protocol';
import { PictureChoice } from './shown';

const NAMES: Record<GatheredMap, string> = {
  baseColour: 'Base colour',
  orm: 'Occlusion, roughness, metallic',
  normal: 'Normal',
  emission: 'Emission',
  height: 'Height',
  transmission: 'Light let through',
};

/** Chooses which picture of the set is looked at. */
export const GatheredChoice = ({ view, ...rest }: { view: GatherView; value: GatheredMap; onChoose(map: GatheredMap): void }) => (
  <PictureChoice label="which picture" names={GATHERED.filter((m) => view.files[m]).map((m) => [m, NAMES[m]] as const)} {...rest} />
);

/** A piece with a set on it as the plate draws it: its parts on the layout drawn to, and what they are made of. Null until it is there. */
export function useSetOn(
  kind: 'gather' | 'project',
  on: boolean,
): (Work['gathered']['answer'] & { materialOf(part: string): Material | undefined }) | null {
  const document = useSheet((s) => s.document);
  const view = useSheet((s): GatherView | ProjectView | null => s[kind]);
  const layout = useSheet((s) => s.unwrap);
  const { pool } = useBench();
  const [shown, setShown] = useState<{ of: string; made: Work['gathered']['answer'] } | null>(null);
  // Only what was made on the layout in view can be drawn on it.
  const fresh = isFresh(document, view, kind) && isFresh(document, layout, 'unwrap');
  const wanted = on && fresh && view && layout ? view.name : null;
  useEffect(() => {
    if (!wanted || !document || !view || !layout) return;
    let gone = false;
    pool
      .run('gathered', { document, laid: layout.parts, figures: view.figures })
      .then((made) => !gone && setShown({ of: wanted, made }))
      .catch(() => undefined);
    return () => {
      gone = true;
    };
  }, [wanted, pool, document, view, layout]);
  const materials = useMemo(() => {
    if (!view) return null;
    const made = gatheredMaterials(view.figures, (m) => (m in view.files ? (view.files as GatherView['files'])[m] : undefined));
    const group = new Map(view.figures.parts.map((p): [string, string] => [p.id, p.group === 'clear' ? 'gathered-clear' : 'gathered']));
    return (part: string) => made.find((m) => m.id === group.get(part)) ?? undefined;
  }, [view]);
  return useMemo(
    () => (wanted && shown?.of === wanted && materials ? { ...shown.made, materialOf: materials } : null),
    [wanted, shown, materials],
  );
}

/** What gathering came to: how far it is off its source, and what each part would need. */
export function GatherFiguresPanel({ document, view }: { document: AssetDocument; view: GatherView }) {
  const f = view.figures;
  const fresh = isFresh(document, view, 'gather');
  const v = gatherVerdict(f);
  const draws = gatheredDraws(document, f);
  const { channels } = f.comparison;
  const rows = Object.entries(channels).map(([name, c]) => {
    const unit = name === 'normal' ? '°' : '';
    return { key: name, head: name, cells: [c.mean, c.p95, c.worst].map((x) => `${figure(x, 2)}${unit}`) };
  });
  return (
    <Box component="section" aria-label="gathered set" sx={{ mb: 2 }}>
      <Heading aside={fresh ? undefined : 'of an older state'}>Gathered</Heading>
      <Box
        role="status"
        sx={{ fontSize: 13.5, mb: 0.8, color: v.level === 'over' ? 'error.main' : v.level === 'near' ? 'warning.main' : undefined }}
      >
        {v.sentence}
      </Box>
      <Box className="narrow" sx={{ fontSize: 12.5, color: 'text.secondary', mb: 0.6 }}>
        {f.parts.length} {f.parts.length === 1 ? 'part' : 'parts'} on one set of {f.size} px,{' '}
        {draws === 1 ? 'a single draw' : `${draws} draws`}; made in {tookTime(f.seconds)}.
        {f.left.length > 0 ? ` Left as they are: ${f.left.join(', ')}.` : ''}
      </Box>
      <FigureTable label="off its source" columns={['off its source', 'mean', '95 of 100', 'worst']} rows={rows} />
      <Box className="narrow" sx={{ fontSize: 12, color: 'text.secondary', mt: 0.4, mb: 1 }}>
        In 255ths; normals in degrees, at {figure(f.comparison.places, 0)} places of the surface. Its mean colour is{' '}
        {figure(f.comparison.meanColourOff, 2)} off.
      </Box>
      <FigureTable
        label="what each part would need"
        columns={['part', 'averages', 'needs, px', 'keeps']}
        rows={f.parts.map((p) => ({
          key: p.id,
          head: p.name,
          cells: [`${figure(p.averaged, 1)}²`, p.neededPx > 0 ? figure(p.neededPx, 0) : '–', `${figure(100 * p.keepsShare, 0)} %`],
          over: [false, false, p.keepsShare < 0.5],
        }))}
      />
    </Box>
  );
}
