'use client';

import Box from '@mui/material/Box';
import Select from '@mui/material/Select';
import type { Material, Part } from '@wellmorph/core/pipeline/document';
import { memo } from 'react';
import { useSession } from '@/session/context';
import { giveMaterial, giveRegion, type materialChoices } from './give';

/** A part and the choice of what it is made of; drawn anew only when one of these changes. */
export const PartRow = memo(function PartRow({
  id,
  name,
  material,
  dot,
  choices,
  onLook,
}: {
  id: string;
  name: string;
  material: string | null;
  dot: Material | undefined;
  choices: ReturnType<typeof materialChoices>;
  /** Its material is to be looked at. */
  onLook(material: string): void;
}) {
  const session = useSession();
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, minHeight: 30 }}>
      <Dot material={dot} />
      <Box
        component="label"
        htmlFor={`of-${id}`}
        className="narrow"
        sx={{ flex: 1, fontSize: 13, minWidth: 0, overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}
      >
        {name}
      </Box>
      <Select
        native
        error={!material}
        inputProps={{ id: `of-${id}` }}
        value={material ?? ''}
        onChange={(e) => giveMaterial(session, [id], e.target.value)}
        onFocus={() => material && onLook(material)}
        sx={{ width: 138 }}
      >
        {choices.map(([v, called]) => (
          <option key={v} value={v}>
            {called}
          </option>
        ))}
      </Select>
    </Box>
  );
});

/** A region of a part, and what it is made of where that is not what its part is made of. */
export function RegionRow({
  part,
  region,
  dot,
  choices,
  onLook,
}: {
  part: Part;
  region: NonNullable<Part['regions']>[number];
  dot: Material | undefined;
  choices: ReturnType<typeof materialChoices>;
  onLook(material: string): void;
}) {
  const session = useSession();
  const id = `of-${part.id}-${region.id}`;
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, minHeight: 30, pl: 2.2 }}>
      {dot ? <Dot material={dot} /> : <Box sx={{ width: 13, flex: 'none' }} />}
      <Box
        component="label"
        htmlFor={id}
        className="narrow"
        sx={{
          flex: 1,
          fontSize: 12.5,
          minWidth: 0,
          overflow: 'hidden',
          textOverflow: 'ellipsis',
          whiteSpace: 'nowrap',
          color: 'text.secondary',
        }}
      >
        {region.name}
      </Box>
      <Select
        native
        inputProps={{ id, 'aria-label': `${region.name} of ${part.name}` }}
        value={region.material ?? ''}
        onChange={(e) => giveRegion(session, part, region, e.target.value)}
        onFocus={() => dot && onLook(dot.id)}
        sx={{ width: 138 }}
      >
        {choices.map(([v, called]) => (
          <option key={v} value={v}>
            {v === '' ? 'as the part' : called}
          </option>
        ))}
      </Select>
    </Box>
  );
}

/** A dot in a material’s colour. */
export function Dot({ material }: { material: Material | undefined }) {
  const c = material ? `rgb(${material.colour.map((x) => Math.round(255 * x)).join(' ')})` : 'transparent';
  return (
    <Box
      aria-hidden
      sx={{
        width: 13,
        height: 13,
        flex: 'none',
        borderRadius: '50%',
        border: 1,
        borderColor: material ? 'text.secondary' : 'error.main',
        borderStyle: material && material.transmission > 0 ? 'dashed' : 'solid',
        bgcolor: c,
      }}
    />
  );
}
