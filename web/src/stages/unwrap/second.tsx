'use client';

import Box from '@mui/material/Box';
import { figure } from '@wellmorph/core/units/lengths';
import { SECOND, type SecondChoices } from '@wellmorph/core/uv/second';
import { useSession, useSheet } from '@/session/context';
import { isFresh } from '@/session/state';
import { Choice, Heading, NumberField } from '@/sheet/fields';

/** Sides of textures, px. */
const SIZES = [256, 512, 1024, 2048, 4096] as const;
const FRESH: SecondChoices = { on: false, size: 1024, padding: 8 };

/** A layout beside the first: whether there is one, for what textures, and what came of it. */
export function SecondLayout() {
  const session = useSession();
  const document = useSheet((s) => s.document);
  const layout = useSheet((s) => s.unwrap);
  if (!document) return null;
  const second = document.unwrap.second ?? FRESH;
  const f = isFresh(document, layout, 'unwrap') ? layout?.figures.second : undefined;
  const set = (patch: Partial<SecondChoices>) => session.dispatch({ type: 'unwrap.set', patch: { second: { ...second, ...patch } } });
  const sizes = [...new Set([...SIZES, second.size])].sort((a, b) => a - b).map((s) => [s, `${s} px`] as const);
  return (
    <Box sx={{ mt: 2 }}>
      <Heading aside={second.on ? SECOND.inGlb : undefined}>Second layout</Heading>
      <Choice
        label="Beside the first"
        hint="for baked light, masks"
        value={second.on ? 1 : 0}
        choices={[
          [0, 'none'],
          [1, 'packed anew'],
        ]}
        onChange={(v) => set({ on: v === 1 })}
      />
      {second.on && (
        <>
          <Choice label="Its textures" value={second.size} choices={sizes} onChange={(size) => set({ size })} />
          <NumberField
            label="Its padding"
            kind="whole"
            unit="px"
            min={0}
            max={128}
            value={second.padding}
            onCommit={(padding) => set({ padding })}
          />
          <Box role="status" sx={{ fontSize: 12.5, color: 'text.secondary', my: 0.6 }}>
            {f
              ? `${figure(f.islands, 0)} islands, each with texels of its own: ${figure(100 * f.coverage, 0)} % covered, ${figure(f.density, 1)} px/cm, ${figure(f.gutter, 0)} px apart. Copies share it. Maps are baked to the first.`
              : 'It is made with the next layout.'}
          </Box>
        </>
      )}
    </Box>
  );
}
