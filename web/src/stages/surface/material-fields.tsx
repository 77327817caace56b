'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { EFFICACY } from '@wellmorph/core/light/exposure';
import type { Material } from '@wellmorph/core/pipeline/document';
import { fieldName } from '@wellmorph/core/pipeline/field-names';
import { fromLibraryFor, LIBRARY } from '@wellmorph/core/surface/library';
import type { Followed } from '@wellmorph/core/surface/material';
import { figure } from '@wellmorph/core/units/lengths';
import { useSession, useSheet } from '@/session/context';
import { type FieldRow, FieldRows } from '@/sheet/field-rows';
import { Choice, Heading, NumberField } from '@/sheet/fields';
import { NameField } from '@/sheet/name-field';
import { Act } from '@/sheet/plain';
import { ColourField } from '@/sheet/slider';
import { Came } from './came';
import { Layers } from './layers';

type Plain = Omit<Material, 'texturing'>;
type Patch = Partial<Omit<Plain, 'id'>>;

const unit = { unit: '', min: 0, max: 1, step: 0.01 };
const ROUGHNESS: FieldRow<Plain>[] = [{ key: 'roughness', label: 'Roughness', ...unit }];
const COAT: FieldRow<Plain>[] = [{ key: 'coat', label: 'Clear coat', ...unit }];

/** What a derived material has from another, and how many follow this one. */
function Derived({ material: m }: { material: Material }) {
  const session = useSession();
  const materials = useSheet((s) => s.document?.materials) ?? [];
  const from = materials.find((x) => x.id === m.derived?.from);
  const followers = materials.filter((x) => x.derived?.from === m.id);
  const follow = (fields: Followed[] | null) => session.dispatch({ type: 'material.follow', material: m.id, fields });
  if (!from && followers.length === 0) return null;
  return (
    <Box
      role="group"
      aria-label="derived"
      className="narrow"
      sx={{ fontSize: 12.5, mb: 0.8, display: 'flex', flexWrap: 'wrap', columnGap: 1.2 }}
    >
      {from && m.derived && (
        <>
          <Box sx={{ flexBasis: '100%' }}>
            Derived from {from.name}:{' '}
            {m.derived.own.length === 0 ? 'all as there.' : `its own are ${m.derived.own.map(fieldName).join(', ')}.`}
          </Box>
          {m.derived.own.length > 0 && <Act onClick={() => follow(m.derived?.own ?? [])}>All as there</Act>}
          <Act quiet onClick={() => follow(null)}>
            Cut loose
          </Act>
        </>
      )}
      {followers.length > 0 && (
        <Box sx={{ flexBasis: '100%', color: 'text.secondary' }}>
          {followers.map((f) => f.name).join(', ')} {followers.length === 1 ? 'follows' : 'follow'} it.
        </Box>
      )}
    </Box>
  );
}

/** Everything one material is. `onDraft` hears of sliders on their way. */
export function MaterialFields({ material: m, onDraft }: { material: Material; onDraft(patch: Patch): void }) {
  const session = useSession();
  const set = (patch: Patch) => session.dispatch({ type: 'material.set', material: m.id, patch });
  // What is taken from the library is drawn as it is there.
  const bare = m.texturing ? { texturing: null } : {};
  const opaque = m.transmission === 0 && m.emission === 0;
  const take = (key: string) => {
    const {
      id: _,
      name: __,
      touched: ___,
      texturing: ____,
      ...values
    } = fromLibraryFor(session.document?.brief.purpose ?? 'game', key, m.id);
    const patch = { ...values, name: LIBRARY.find((l) => l.key === key)?.name ?? m.name, ...bare };
    session.dispatch({ type: 'material.set', material: m.id, patch });
  };
  return (
    <Box sx={{ px: 1.8, pb: 1.5 }}>
      <Heading aside={m.touched ? undefined : 'as the file brought it'}>{m.name}</Heading>
      <NameField label="Name" id={`name-${m.id}`} value={m.name} onName={(name) => set({ name })} />
      <Choice
        label="Start from"
        value={m.base ?? ''}
        choices={[['', 'its own'] as const, ...LIBRARY.map((l) => [l.key, l.name] as const)]}
        onChange={(key) => key && take(key)}
      />
      <Box className="narrow" sx={{ fontSize: 12, color: 'text.secondary', mb: 0.8 }}>
        {m.source}
      </Box>
      <Derived material={m} />
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
      {!m.texturing ? (
        <Layers material={m} onDraft={(layers) => onDraft({ layers })} onLayers={(layers) => set({ layers })} />
      ) : (
        <Box className="narrow" sx={{ fontSize: 12, color: 'text.secondary', mt: 1 }}>
          It is shown as it came; layers are laid on a material without pictures of its own.
        </Box>
      )}
    </Box>
  );
}
