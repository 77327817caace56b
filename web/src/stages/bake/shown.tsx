'use client';

import Box from '@mui/material/Box';
import Select from '@mui/material/Select';
import { FURTHER, FURTHER_MAPS } from '@wellmorph/core/bake/maps/further';
import { OFF_GRADIENT, OFF_MOST } from '@wellmorph/core/bake/off';
import type { BakeFigures, BakeFile } from '@wellmorph/core/pipeline/bake';
import type { ReactNode } from 'react';
import { useLengths } from '@/session/context';
import type { BakeView } from '@/session/kept';

/** Pictures of a bake that can be looked at, in the order they are offered. */
export const MAP_NAMES: readonly (readonly [BakeFile, string])[] = [
  ['normal', 'Normal'],
  ['occlusion', 'Occlusion'],
  ['curvature', 'Curvature'],
  ...FURTHER_MAPS.map((m) => [m, `${FURTHER[m].name[0].toUpperCase()}${FURTHER[m].name.slice(1)}`] as const),
  ['judged', 'How far off'],
];

/** The one wanted, or the first there is. */
export const shownFile = (files: BakeView['files'], wanted: BakeFile): BakeFile | null =>
  files[wanted] ? wanted : (MAP_NAMES.find(([f]) => files[f])?.[0] ?? null);

/** Chooses which of the baked maps is looked at. */
export const MapChoice = ({ files, ...rest }: { files: BakeView['files']; value: BakeFile; onChoose(file: BakeFile): void }) => (
  <PictureChoice label="which map" names={MAP_NAMES.filter(([f]) => files[f])} {...rest} />
);

/** Chooses which of several pictures is looked at, above the plate. */
export function PictureChoice<T extends string>({
  label,
  names,
  value,
  onChoose,
}: {
  label: string;
  names: readonly (readonly [T, string])[];
  value: T;
  onChoose(picture: T): void;
}) {
  return (
    <Select
      native
      inputProps={{ 'aria-label': label }}
      value={value}
      onChange={(e) => onChoose(e.target.value as T)}
      sx={{ bgcolor: 'background.paper', minWidth: 0 }}
    >
      {names.map(([f, name]) => (
        <option key={f} value={f}>
          {name}
        </option>
      ))}
    </Select>
  );
}

/** A note on a plate, that says what its picture means. */
export const PlateKey = ({ label, children }: { label: string; children: ReactNode }) => (
  <Box
    role="note"
    aria-label={label}
    className="narrow"
    sx={{
      position: 'absolute',
      left: 16,
      bottom: 44,
      maxWidth: 'min(340px, calc(100% - 32px))',
      maxHeight: 190,
      overflow: 'auto',
      p: 1,
      bgcolor: 'background.paper',
      border: 1,
      borderColor: 'divider',
      borderRadius: 1,
      fontSize: 12,
      lineHeight: 1.5,
    }}
  >
    {children}
  </Box>
);

/** What the picture that is looked at holds: its range, its legend, its scale. */
export function MapKey({ file, figures }: { file: BakeFile; figures: BakeFigures }) {
  const { length } = useLengths();
  const range = file in figures.ranges ? figures.ranges[file as keyof typeof figures.ranges] : undefined;
  const ids = file === 'id' ? figures.ids : undefined;
  if (!range && !ids && file !== 'judged') return null;
  return (
    <PlateKey label="what the map holds">
      {file === 'judged' && (
        <>
          <Box sx={{ display: 'grid', gridTemplateColumns: 'auto 1fr auto', gap: 0.8, alignItems: 'center' }} className="mono">
            <span>0°</span>
            <Box sx={{ height: 9, minWidth: 150, borderRadius: 0.5, background: OFF_GRADIENT }} />
            <span>{OFF_MOST}°</span>
          </Box>
          Every texel of the exported map on the exported mesh, against the high mesh.
        </>
      )}
      {range && range.from.length === 1 && (
        <span>
          black {length(range.from[0], 2)} · white {length(range.to[0], 2)}
          {file === 'height' ? ' · mid-grey: the low surface' : ''}
        </span>
      )}
      {range && range.from.length === 3 && (
        <span>
          {['x', 'y', 'z'].map((axis, k) => (
            <Box component="span" key={axis} sx={{ display: 'block' }}>
              {['red', 'green', 'blue'][k]}, {axis}: {length(range.from[k], 1)} … {length(range.to[k], 1)}
            </Box>
          ))}
        </span>
      )}
      <Box sx={{ columnCount: (ids?.legend.length ?? 0) > 4 ? 2 : 1, columnGap: 1.6 }}>
        {ids?.legend.map((entry) => (
          <Box key={entry.name} sx={{ display: 'flex', gap: 0.8, alignItems: 'center' }}>
            <Box sx={{ width: 12, height: 12, bgcolor: entry.colour, border: 1, borderColor: 'divider', flex: 'none' }} />
            {entry.name}
          </Box>
        ))}
      </Box>
    </PlateKey>
  );
}
