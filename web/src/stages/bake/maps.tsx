'use client';

import Box from '@mui/material/Box';
import Checkbox from '@mui/material/Checkbox';
import FormControlLabel from '@mui/material/FormControlLabel';
import { FURTHER, FURTHER_MAPS, type FurtherMap, ID_BY } from '@wellmorph/core/bake/maps/further';
import { type AssetDocument, deliveredParts, isMoved, originalOf } from '@wellmorph/core/pipeline/document';
import { figure } from '@wellmorph/core/units/lengths';
import type { ReactNode } from 'react';
import { useSession, useSheet } from '@/session/context';
import { Choice, Either, Heading, NumberField } from '@/sheet/fields';

/** Which maps are baked, and how. */
export function MapSettings({
  document,
  children,
}: {
  document: AssetDocument;
  /** How far rays search, and by hand. */
  children: ReactNode;
}) {
  const session = useSession();
  const layout = useSheet((s) => s.unwrap);
  const b = document.bake;
  const set = (patch: Partial<typeof b>) => session.dispatch({ type: 'bake.set', patch });
  const toggle = (map: FurtherMap) =>
    set({ further: FURTHER_MAPS.filter((m) => (m === map ? !b.further.includes(m) : b.further.includes(m))) });
  const looksRound = b.occlusion || b.further.includes('bentNormal');
  const alone = deliveredParts(document).filter((p) => {
    const own = originalOf(document, p);
    return own.shape.kind !== 'recipe' && !own.high;
  });
  const moved = deliveredParts(document).filter(isMoved);
  const pxPerMm = (layout?.figures.density ?? 0) / 10;
  return (
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
      <Either label="Occlusion" value={b.occlusion} words={['baked', 'not baked']} onChange={(occlusion) => set({ occlusion })} />
      <Box role="group" aria-label="further maps" sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', columnGap: 1, my: 0.5 }}>
        {FURTHER_MAPS.map((m) => (
          <FormControlLabel
            key={m}
            title={FURTHER[m].about}
            control={<Checkbox size="small" checked={b.further.includes(m)} onChange={() => toggle(m)} sx={{ p: 0.4 }} />}
            label={FURTHER[m].name}
            slotProps={{ typography: { className: 'narrow', sx: { fontSize: 13 } } }}
            sx={{ m: 0, minHeight: 28 }}
          />
        ))}
      </Box>
      {looksRound && (
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
          <NumberField
            label="Spread"
            kind="number"
            unit="°"
            min={1}
            max={90}
            value={b.spreadDegrees}
            onCommit={(spreadDegrees) => set({ spreadDegrees })}
          />
          {b.occlusion && (
            <Either
              label="Other parts"
              value={b.neighbours}
              words={['darken each other', 'darken nothing']}
              onChange={(neighbours) => set({ neighbours })}
            />
          )}
          {b.further.includes('bentNormal') && (
            <Either
              label="In the bent normal"
              value={b.bentNeighbours}
              words={['other parts count', 'each part alone']}
              onChange={(bentNeighbours) => set({ bentNeighbours })}
            />
          )}
          {((b.occlusion && b.neighbours) || (b.further.includes('bentNormal') && b.bentNeighbours)) && moved.length > 0 && (
            <Choice
              label="Parts that move"
              hint={moved.length > 3 ? `${moved.length} that slide, turn or are taken off` : moved.map((p) => p.name).join(', ')}
              value={b.movingOcclude ? 'cover' : b.movingOpen ? 'open' : 'alone'}
              choices={[
                ['alone', 'darken only themselves'],
                ['cover', 'darken what they cover'],
                ...(moved.some((p) => p.travel) ? [['open', 'stand open'] as const] : []),
              ]}
              onChange={(v) => set({ movingOcclude: v === 'cover', movingOpen: v === 'open' })}
            />
          )}
          <Either
            label="The ground"
            value={b.ground}
            words={['darkens what is above', 'darkens nothing']}
            onChange={(ground) => set({ ground })}
          />
        </>
      )}
      {b.further.includes('thickness') && (
        <NumberField label="Thickness up to" min={0.1} value={b.thicknessMm} onCommit={(thicknessMm) => set({ thicknessMm })} />
      )}
      {b.further.includes('id') && (
        <Choice
          label="Id"
          value={b.idBy}
          choices={Object.entries(ID_BY).map(([k, name]) => [k as typeof b.idBy, name] as const)}
          onChange={(idBy) => set({ idBy })}
        />
      )}
      <Choice
        label="Samples a texel"
        value={b.samples}
        choices={[
          [1, '1'],
          [2, '2 × 2'],
          [4, '4 × 4'],
          [8, '8 × 8'],
        ]}
        onChange={(samples) => set({ samples })}
      />
      <Choice
        label="Beyond the islands"
        value={b.carriedPx}
        choices={[
          [0, 'filled to the rim'],
          ...[...new Set([2, 4, 8, 16, 32, document.unwrap.padding, b.carriedPx])]
            .filter((px) => px > 0)
            .sort((x, y) => x - y)
            .map((px) => [px, `carried ${px} px`] as const),
        ]}
        onChange={(carriedPx) => set({ carriedPx })}
      />
      {children}
      {alone.length > 0 && (
        <NumberField
          label="Edges rounded by"
          hint={
            b.roundMm > 0 && pxPerMm > 0
              ? `without a high mesh · ${figure(b.roundMm * pxPerMm, 1)} texels wide`
              : 'where there is no high mesh; 0: sharp'
          }
          min={0}
          max={1000}
          value={b.roundMm}
          onCommit={(roundMm) => set({ roundMm })}
        />
      )}
    </Box>
  );
}
