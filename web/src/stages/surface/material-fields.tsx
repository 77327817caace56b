'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { EFFICACY } from '@wellmorph/core/light/exposure';
import type { Material } from '@wellmorph/core/pipeline/document';
import { fromLibrary, LIBRARY } from '@wellmorph/core/surface/library';
import type { Dirt, Wear } from '@wellmorph/core/surface/material';
import { figure } from '@wellmorph/core/units/lengths';
import { useSession } from '@/session/context';
import { type FieldRow, FieldRows } from '@/sheet/field-rows';
import { Choice, Heading, NumberField } from '@/sheet/fields';
import { ColourField } from '@/sheet/slider';
import { Came } from './came';

type Plain = Omit<Material, 'texturing'>;
type Patch = Partial<Omit<Plain, 'id'>>;

const share = { unit: '%', min: 0, max: 60, step: 0.5, digits: 1, scale: 100 };
const unit = { unit: '', min: 0, max: 1, step: 0.01 };
const ROUGHNESS: FieldRow<Plain>[] = [{ key: 'roughness', label: 'Roughness', ...unit }];
const COAT: FieldRow<Plain>[] = [{ key: 'coat', label: 'Clear coat', ...unit }];
const SHARE: FieldRow<{ share: number }>[] = [{ key: 'share', label: 'Share', ...share }];
const WORN_ROUGHNESS: FieldRow<Wear>[] = [{ key: 'roughness', label: 'Roughness there', ...unit }];
const HIDES: FieldRow<Dirt>[] = [{ key: 'cover', label: 'Hides', unit: '%', min: 0, max: 100, step: 1, digits: 0, scale: 100 }];

/** Everything one material is. `onDraft` hears of sliders on their way. */
export function MaterialFields({ material: m, onDraft }: { material: Material; onDraft(patch: Patch): void }) {
  const session = useSession();
  const set = (patch: Patch) => session.dispatch({ type: 'material.set', material: m.id, patch });
  const { wear, dirt } = m;
  const setWear = (patch: Partial<Wear>) => wear && set({ wear: { ...wear, ...patch } });
  const dragWear = (patch: Partial<Wear>) => wear && onDraft({ wear: { ...wear, ...patch } });
  const setDirt = (patch: Partial<Dirt>) => dirt && set({ dirt: { ...dirt, ...patch } });
  const dragDirt = (patch: Partial<Dirt>) => dirt && onDraft({ dirt: { ...dirt, ...patch } });
  // What is taken from the library is drawn as it is there.
  const bare = m.texturing ? { texturing: null } : {};
  const opaque = m.transmission === 0 && m.emission === 0;
  const take = (key: string) => {
    const { id: _, name: __, touched: ___, texturing: ____, ...values } = fromLibrary(key, m.id);
    const patch = { ...values, name: LIBRARY.find((l) => l.key === key)?.name ?? m.name, ...bare };
    session.dispatch({ type: 'material.set', material: m.id, patch });
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
      {m.texturing && (
        <Came
          texturing={m.texturing}
          onPlain={() => session.dispatch({ type: 'material.set', material: m.id, patch: { texturing: null } })}
        />
      )}
      {!m.touched && !m.texturing && (
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
      <FieldRows rows={ROUGHNESS} of={m} set={set} onDrag={onDraft} />
      {m.metallic < 0.5 && (
        <NumberField label="Index" kind="number" unit="" min={1} max={4} value={m.ior} onCommit={(ior) => set({ ior })} />
      )}
      {opaque && <FieldRows rows={COAT} of={m} set={set} onDrag={onDraft} />}
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
          <Heading aside={m.wear ? 'of its surface' : undefined}>Worn where it is convex</Heading>
          {m.wear ? (
            <>
              <FieldRows rows={SHARE} of={m.wear} set={setWear} onDrag={dragWear} />
              <ColourField label="Shows" value={m.wear.colour} onCommit={(colour) => setWear({ colour })} />
              <FieldRows rows={WORN_ROUGHNESS} of={m.wear} set={setWear} onDrag={dragWear} />
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
            <Heading aside={m.dirt ? 'of its surface' : undefined}>Dirt where it is enclosed</Heading>
            {m.dirt ? (
              <>
                <FieldRows rows={SHARE} of={m.dirt} set={setDirt} onDrag={dragDirt} />
                <ColourField label="Colour of it" value={m.dirt.colour} onCommit={(colour) => setDirt({ colour })} />
                <FieldRows rows={HIDES} of={m.dirt} set={setDirt} onDrag={dragDirt} />
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
