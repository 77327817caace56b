'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { EFFICACY } from '@wellmorph/core/light/exposure';
import type { Material } from '@wellmorph/core/pipeline/document';
import { fromLibrary, LIBRARY } from '@wellmorph/core/surface/library';
import { figure } from '@wellmorph/core/units/lengths';
import { dispatch } from '@/sheet/document';
import { Choice, Heading, NumberField } from '@/sheet/fields';
import { ColourField, SliderField } from '@/sheet/slider';

type Patch = Partial<Omit<Material, 'id'>>;

/** Everything one material is. `onDraft` hears of sliders on their way. */
export function MaterialFields({ material: m, onDraft }: { material: Material; onDraft(patch: Patch): void }) {
  const set = (patch: Patch) => dispatch({ type: 'material.set', material: m.id, patch });
  const opaque = m.transmission === 0 && m.emission === 0;
  const take = (key: string) => {
    const { id: _, name: __, touched: ___, ...values } = fromLibrary(key, m.id);
    set({ ...values, name: LIBRARY.find((l) => l.key === key)?.name ?? m.name });
  };
  return (
    <Box sx={{ px: 1.8, pb: 1.5 }}>
      <Heading aside={m.touched ? undefined : 'as the file brought it'}>{m.name}</Heading>
      <Choice
        label="Start from"
        value={m.base ?? ''}
        choices={[['', 'its own'] as const, ...LIBRARY.map((l) => [l.key, l.name] as const)]}
        onChange={(key) => key && take(key)}
      />
      <Box className="narrow" sx={{ fontSize: 12, color: 'text.secondary', mb: 0.8 }}>
        {m.source}
      </Box>
      {!m.touched && (
        <Button variant="outlined" sx={{ mb: 0.8 }} onClick={() => set({ source: m.source })}>
          Keep it as it is
        </Button>
      )}
      <ColourField label="Colour" value={m.colour} onCommit={(colour) => set({ colour })} />
      <Choice
        label="Kind"
        value={m.transmission > 0 ? 'clear' : m.metallic > 0.5 ? 'metal' : 'dielectric'}
        choices={[
          ['dielectric', 'not a metal'],
          ['metal', 'metal'],
          ['clear', 'thin glass'],
        ]}
        onChange={(kind) => set({ metallic: kind === 'metal' ? 1 : 0, transmission: kind === 'clear' ? 1 : 0 })}
      />
      <SliderField
        label="Roughness"
        value={m.roughness}
        min={0}
        max={1}
        step={0.01}
        onDrag={(roughness) => onDraft({ roughness })}
        onCommit={(roughness) => set({ roughness })}
      />
      {m.metallic < 0.5 && (
        <NumberField label="Index" kind="number" unit="" min={1} max={4} value={m.ior} onCommit={(ior) => set({ ior })} />
      )}
      {opaque && (
        <SliderField
          label="Clear coat"
          value={m.coat}
          min={0}
          max={1}
          step={0.01}
          onDrag={(coat) => onDraft({ coat })}
          onCommit={(coat) => set({ coat })}
        />
      )}
      {m.transmission === 0 && (
        <NumberField
          label="Glow"
          kind="number"
          unit="cd/m²"
          min={0}
          max={1e8}
          digits={0}
          hint={m.emission > 0 ? `${figure(m.emission, 2)} W/(m²·sr)` : undefined}
          value={m.emission * EFFICACY}
          onCommit={(cd) => set({ emission: cd / EFFICACY })}
        />
      )}
      {opaque && (
        <Box sx={{ mt: 1.2 }}>
          <Heading aside={m.wear ? 'of its surface' : undefined}>Wear on edges</Heading>
          {m.wear ? (
            <>
              <SliderField
                label="Share"
                unit="%"
                digits={1}
                value={100 * m.wear.share}
                min={0}
                max={60}
                step={0.5}
                onDrag={(v) => m.wear && onDraft({ wear: { ...m.wear, share: v / 100 } })}
                onCommit={(v) => m.wear && set({ wear: { ...m.wear, share: v / 100 } })}
              />
              <ColourField label="Shows" value={m.wear.colour} onCommit={(colour) => m.wear && set({ wear: { ...m.wear, colour } })} />
              <SliderField
                label="Roughness there"
                value={m.wear.roughness}
                min={0}
                max={1}
                step={0.01}
                onDrag={(roughness) => m.wear && onDraft({ wear: { ...m.wear, roughness } })}
                onCommit={(roughness) => m.wear && set({ wear: { ...m.wear, roughness } })}
              />
              <Button onClick={() => set({ wear: null })}>No wear</Button>
            </>
          ) : (
            <Button
              variant="outlined"
              onClick={() =>
                set({
                  wear: {
                    share: 0.05,
                    colour: m.colour.map((c) => Math.min(1, c * 1.25)) as [number, number, number],
                    metallic: m.metallic,
                    roughness: m.roughness * 0.7,
                  },
                })
              }
            >
              Wear its edges
            </Button>
          )}
          <Box sx={{ mt: 1.2 }}>
            <Heading aside={m.dirt ? 'of its surface' : undefined}>Dirt in hollows</Heading>
            {m.dirt ? (
              <>
                <SliderField
                  label="Share"
                  unit="%"
                  digits={1}
                  value={100 * m.dirt.share}
                  min={0}
                  max={60}
                  step={0.5}
                  onDrag={(v) => m.dirt && onDraft({ dirt: { ...m.dirt, share: v / 100 } })}
                  onCommit={(v) => m.dirt && set({ dirt: { ...m.dirt, share: v / 100 } })}
                />
                <ColourField
                  label="Colour of it"
                  value={m.dirt.colour}
                  onCommit={(colour) => m.dirt && set({ dirt: { ...m.dirt, colour } })}
                />
                <SliderField
                  label="Hides"
                  unit="%"
                  digits={0}
                  value={100 * m.dirt.cover}
                  min={0}
                  max={100}
                  step={1}
                  onDrag={(v) => m.dirt && onDraft({ dirt: { ...m.dirt, cover: v / 100 } })}
                  onCommit={(v) => m.dirt && set({ dirt: { ...m.dirt, cover: v / 100 } })}
                />
                <Button onClick={() => set({ dirt: null })}>No dirt</Button>
              </>
            ) : (
              <Button
                variant="outlined"
                onClick={() => set({ dirt: { share: 0.08, colour: [0.36, 0.32, 0.27], roughness: 0.9, cover: 0.75 } })}
              >
                Let dirt gather
              </Button>
            )}
          </Box>
        </Box>
      )}
    </Box>
  );
}
