'use client';

import Box from '@mui/material/Box';
import { pixelMm } from '@wellmorph/core/brief/advice';
import type { AssetDocument } from '@wellmorph/core/pipeline/document';
import { carriesPrint } from '@wellmorph/core/pipeline/unwrap';
import { figure } from '@wellmorph/core/units/lengths';
import { legibility } from '@wellmorph/core/uv/legibility';
import type { LayoutFigures } from '@wellmorph/core/uv/measure';
import { useLengths } from '@/session/context';
import { Heading, NumberField } from '@/sheet/fields';
import { useKept } from '@/sheet/kept';

/** Small print is 2 mm high: common practice, no source. */
const capitalFrom = (kept: Record<string, unknown>) => ({
  capital: typeof kept.capital === 'number' && kept.capital >= 0.1 && kept.capital <= 1000 ? kept.capital : 2,
});

/** Whether print on the parts that carry it can be read where the piece is seen closest. Nothing where none does. */
export function Print({ document, f }: { document: AssetDocument; f: LayoutFigures }) {
  const { length } = useLengths();
  const [{ capital }, keep] = useKept('wellmorph-print', capitalFrom);
  const printed = document.parts.flatMap((p) => {
    const own = f.parts.find((x) => x.id === p.id);
    return own && carriesPrint(p) ? [{ name: p.name, density: own.density }] : [];
  });
  if (printed.length === 0) return null;
  return (
    <Box sx={{ mt: 2 }}>
      <Heading>Print</Heading>
      <NumberField label="A capital’s height" min={0.1} max={1000} value={capital} onCommit={(mm) => keep({ capital: mm })} />
      {printed.map(({ name, density }) => {
        const { screen, texels, lacks, enough } = legibility(capital, density, pixelMm(document.brief));
        return (
          <Box key={name} sx={{ fontSize: 12.5, my: 0.6, color: lacks ? 'error.main' : 'text.secondary' }}>
            <b>{name}</b>: a {length(capital, 1)} capital is {figure(screen, 0)} px high on screen and gets {figure(texels, 0)} texels
            {lacks === 'size' && ': too small to be read at the closest view'}
            {lacks === 'texels' && `: too few to be read; ${figure(enough, 1)} px/cm show all that can be seen`}.
          </Box>
        );
      })}
    </Box>
  );
}
