'use client';

import Box from '@mui/material/Box';
import Select from '@mui/material/Select';
import { BLENDS, type BlendMode } from '@wellmorph/core/surface/blend';
import { type Amount, type Choices, FIELDS, type Field, type FieldKind, usualField } from '@wellmorph/core/surface/layers/fields';
import {
  CURVE,
  JOINS,
  type Join,
  type Layer,
  type Look,
  type Masked,
  MOST_FIELDS,
  MOST_RELIEF,
  PATCHES,
} from '@wellmorph/core/surface/layers/layer';
import type { Material } from '@wellmorph/core/surface/material';
import { type ReactNode, useId, useState } from 'react';
import { useSession, useSheet } from '@/session/context';
import { Choice, NumberField } from '@/sheet/fields';
import { newId } from '@/sheet/ids';
import { NameField } from '@/sheet/name-field';
import { Act } from '@/sheet/plain';
import { ColourField, SliderField } from '@/sheet/slider';
import { PaintFields } from './brush';

const BLENDINGS = Object.keys(BLENDS).map((b) => [b as BlendMode, b === 'normal' ? 'as it is' : b.replace('-', ' ')] as const);
/** Which fields a mask can be given; another layer’s only where there is one below. */
const KINDS = (Object.keys(FIELDS) as FieldKind[]).filter((k) => k !== 'layer') as Exclude<FieldKind, 'layer'>[];

/** How a field is joined, and whether it is meant where it is or where it is not. */
const FIRST: readonly (readonly [string, string])[] = [
  ['times', 'where it is'],
  ['times not', 'where it is not'],
];
const FURTHER: readonly (readonly [string, string])[] = (Object.keys(JOINS) as Join[]).flatMap((j) => [
  [j, JOINS[j]] as const,
  ...(j === 'less' ? [] : [[`${j} not`, `${JOINS[j]} where it is not`] as const]),
]);

interface Fields {
  layer: Layer;
  material: Material;
  /** Hears of sliders on their way. */
  onDraft(patch: Partial<Layer>): void;
  onLayer(patch: Partial<Layer>): void;
  onCopy(): void;
  canCopy: boolean;
  onRemove(): void;
}

/** Everything one layer is: what it changes, and where it lies. */
export function LayerFields({ layer, material, onDraft, onLayer, onCopy, canCopy, onRemove }: Fields) {
  const id = useId();
  const { look, mask } = layer;
  const setLook = (patch: Partial<Look>, drop?: keyof Look) => {
    const next = { ...look, ...patch };
    if (drop) delete next[drop];
    return { look: next };
  };
  const below = material.layers.slice(
    0,
    material.layers.findIndex((l) => l.id === layer.id),
  );
  const setField = (n: number, patch: Partial<Masked>): Partial<Layer> => ({
    mask: mask.map((m, k) => (k === n ? { ...m, ...patch } : m)),
  });
  const rough = look.roughness !== undefined ? 'to' : look.rougher !== undefined ? 'by' : 'as';
  return (
    <>
      <NameField label="Name" id={`${id}-name`} value={layer.name} onName={(name) => onLayer({ name })} />
      <SliderField
        label="Covers"
        unit="%"
        min={0}
        max={100}
        step={1}
        digits={0}
        value={100 * layer.opacity}
        onDrag={(v) => onDraft({ opacity: v / 100 })}
        onCommit={(v) => onLayer({ opacity: v / 100 })}
      />
      <Choice
        label="Colour"
        value={look.colour ? 'own' : 'below'}
        choices={[
          ['below', 'as below'],
          ['own', 'its own'],
        ]}
        onChange={(v) => onLayer(v === 'own' ? setLook({ colour: [...material.colour] }) : setLook({}, 'colour'))}
      />
      {look.colour && (
        <>
          <ColourField label="Its colour" value={look.colour} onCommit={(colour) => onLayer(setLook({ colour }))} />
          <Choice
            label="Laid on"
            value={look.blend ?? 'normal'}
            choices={BLENDINGS}
            onChange={(blend) => onLayer(blend === 'normal' ? setLook({}, 'blend') : setLook({ blend }))}
          />
        </>
      )}
      <Choice
        label="Roughness"
        value={rough}
        choices={[
          ['as', 'as below'],
          ['to', 'its own'],
          ['by', 'more or less'],
        ]}
        onChange={(v) => {
          const { roughness: _, rougher: __, ...rest } = look;
          onLayer({ look: { ...rest, ...(v === 'to' && { roughness: material.roughness }), ...(v === 'by' && { rougher: 0.1 }) } });
        }}
      />
      {rough === 'to' && (
        <SliderField
          label="Roughness there"
          min={0}
          max={1}
          step={0.01}
          value={look.roughness ?? 0}
          onDrag={(roughness) => onDraft(setLook({ roughness }))}
          onCommit={(roughness) => onLayer(setLook({ roughness }))}
        />
      )}
      {rough === 'by' && (
        <SliderField
          label="Rougher by"
          min={-1}
          max={1}
          step={0.01}
          value={look.rougher ?? 0}
          onDrag={(rougher) => onDraft(setLook({ rougher }))}
          onCommit={(rougher) => onLayer(setLook({ rougher }))}
        />
      )}
      <Choice
        label="Metal"
        value={look.metallic === undefined ? 'below' : look.metallic > 0.5 ? 'metal' : 'not'}
        choices={[
          ['below', 'as below'],
          ['metal', 'metal'],
          ['not', 'not a metal'],
        ]}
        onChange={(v) => onLayer(v === 'below' ? setLook({}, 'metallic') : setLook({ metallic: v === 'metal' ? 1 : 0 }))}
      />
      <Coat look={look} material={material} onDraft={onDraft} onLook={(next) => onLayer({ look: next })} />
      <NumberField
        label="Stands out"
        hint={look.relief ? 'into the normal map' : 'less than nothing: recessed'}
        kind="number"
        unit="µm"
        min={-MOST_RELIEF}
        max={MOST_RELIEF}
        digits={1}
        value={look.relief ?? 0}
        onCommit={(relief) => onLayer(relief === 0 ? setLook({}, 'relief') : setLook({ relief }))}
      />
      <Box className="narrow" sx={{ fontSize: 12.5, fontWeight: 600, mt: 0.8 }}>
        Where it lies{mask.length === 0 ? ': everywhere' : ''}
      </Box>
      {mask.map((m, n) => (
        <FieldBlock
          // Fields have no names of their own; their places are what tells them apart.
          key={`${n} ${m.field.kind}`}
          masked={m}
          first={n === 0}
          below={below}
          paint={
            m.field.kind === 'strokes' && (
              <PaintFields
                material={material}
                layer={layer}
                field={n}
                strokes={m.field.strokes}
                onClear={() => onLayer(setField(n, { field: { ...m.field, strokes: [] } as Field }))}
              />
            )
          }
          onDraft={(patch) => onDraft(setField(n, patch))}
          onMasked={(patch) => onLayer(setField(n, patch))}
          onRemove={() => onLayer({ mask: mask.filter((_, k) => k !== n) })}
        />
      ))}
      {mask.length < MOST_FIELDS && (
        <AddField below={below} onAdd={(field) => onLayer({ mask: [...mask, { join: 'times', inverted: false, field }] })} />
      )}
      <Box sx={{ display: 'flex', gap: 1.4, mt: 0.8, flexWrap: 'wrap' }}>
        <Act onClick={onCopy} disabled={!canCopy}>
          Copy it
        </Act>
        <GiveTo layer={layer} from={material} />
        <Act quiet onClick={onRemove}>
          Remove the layer
        </Act>
      </Box>
    </>
  );
}

/** What of the coat a layer changes, and how much light it lets through where it lies on what is clear. */
function Coat({
  look,
  material,
  onDraft,
  onLook,
}: {
  look: Look;
  material: Material;
  onDraft(patch: Partial<Layer>): void;
  onLook(look: Look): void;
}) {
  const slider = (label: string, key: 'coat' | 'coatRoughness' | 'transmission', value: number) => (
    <SliderField
      label={label}
      min={0}
      max={1}
      step={0.01}
      value={value}
      onDrag={(v) => onDraft({ look: { ...look, [key]: v } })}
      onCommit={(v) => onLook({ ...look, [key]: v })}
    />
  );
  const { coat: _, coatRoughness: __, ...uncoated } = look;
  const { transmission: ___, ...unclear } = look;
  return (
    <>
      <Choice
        label="Clear coat"
        value={look.coat === undefined ? 'below' : 'own'}
        choices={[
          ['below', 'as below'],
          ['own', 'its own'],
        ]}
        onChange={(v) => onLook(v === 'own' ? { ...look, coat: 1, coatRoughness: material.coatRoughness } : uncoated)}
      />
      {look.coat !== undefined && (
        <>
          {slider('Coat there', 'coat', look.coat)}
          {slider('Its roughness', 'coatRoughness', look.coatRoughness ?? material.coatRoughness)}
        </>
      )}
      {material.transmission > 0 && (
        <>
          <Choice
            label="Lets light through"
            value={look.transmission === undefined ? 'below' : 'own'}
            choices={[
              ['below', 'as below'],
              ['own', 'its own'],
            ]}
            onChange={(v) => onLook(v === 'own' ? { ...look, transmission: 0 } : unclear)}
          />
          {look.transmission !== undefined && slider('Let through', 'transmission', look.transmission)}
        </>
      )}
    </>
  );
}

/** One field of a mask: how it is joined, and its figures. */
function FieldBlock({
  masked,
  first,
  below,
  paint,
  onDraft,
  onMasked,
  onRemove,
}: {
  masked: Masked;
  first: boolean;
  below: readonly Layer[];
  /** The brush, where it is painted by hand. */
  paint: ReactNode;
  onDraft(patch: Partial<Masked>): void;
  onMasked(patch: Partial<Masked>): void;
  onRemove(): void;
}) {
  const { field, join, inverted } = masked;
  const { name, says, parameters } = FIELDS[field.kind];
  const values = field as unknown as Record<string, number | string>;
  const patch = (key: string, value: number | string): Partial<Masked> => ({ field: { ...field, [key]: value } as Field });
  return (
    <Box role="group" aria-label={name} sx={{ borderLeft: 2, borderColor: 'divider', pl: 1, mt: 0.5 }}>
      <Box sx={{ display: 'flex', alignItems: 'baseline', justifyContent: 'space-between', gap: 1 }}>
        <Box component="span" className="narrow" sx={{ fontSize: 12.5 }} title={says}>
          {name}
        </Box>
        <Act quiet aria-label={`Remove ${name}`} onClick={onRemove}>
          remove
        </Act>
      </Box>
      <Choice
        label={first ? 'Lies' : 'Joined'}
        value={`${first ? 'times' : join}${inverted ? ' not' : ''}` as string}
        choices={first ? FIRST : FURTHER}
        onChange={(v) => onMasked({ join: v.split(' ')[0] as Join, inverted: v.endsWith(' not') })}
      />
      {field.kind === 'layer' && (
        <Choice
          label="Follows"
          value={field.of}
          choices={[
            ...(below.some((l) => l.id === field.of) ? [] : ([[field.of, 'a layer that is not below']] as const)),
            ...below.map((l) => [l.id, l.name] as const),
          ]}
          onChange={(of) => onMasked({ field: { kind: 'layer', of } })}
        />
      )}
      {paint}
      {Object.entries(parameters as Readonly<Record<string, Amount | Choices>>).map(([key, p]) =>
        'choices' in p ? (
          <Choice
            key={key}
            label={p.label}
            value={String(values[key])}
            choices={Object.entries(p.choices)}
            onChange={(v) => onMasked(patch(key, v))}
          />
        ) : p.unit === '%' ? (
          <SliderField
            key={key}
            label={p.label}
            unit="%"
            min={100 * p.min}
            max={100 * p.max}
            step={0.5}
            digits={1}
            value={100 * Number(values[key])}
            onDrag={(v) => onDraft(patch(key, v / 100))}
            onCommit={(v) => onMasked(patch(key, v / 100))}
          />
        ) : (
          <NumberField
            key={key}
            label={p.label}
            {...(p.unit === 'mm' ? {} : { kind: 'number' as const, unit: p.unit })}
            min={p.min}
            max={p.max}
            digits={p.unit === 'mm' ? 3 : 2}
            value={Number(values[key])}
            onCommit={(v) => onMasked(patch(key, v))}
          />
        ),
      )}
      <Shape masked={masked} onDraft={onDraft} onMasked={onMasked} />
    </Box>
  );
}

/** The contrast of a field, and the patches it is missing in. */
function Shape({
  masked,
  onDraft,
  onMasked,
}: {
  masked: Masked;
  onDraft(patch: Partial<Masked>): void;
  onMasked(patch: Partial<Masked>): void;
}) {
  const { curve = { from: 0, to: 1 }, broken = { size: PATCHES.usual, by: 0 } } = masked;
  const [open, setOpen] = useState(masked.curve !== undefined || masked.broken !== undefined);
  if (!open)
    return (
      <Act quiet onClick={() => setOpen(true)}>
        contrast and patches
      </Act>
    );
  const percent = (label: string, value: number, min: number, max: number, patch: (v: number) => Partial<Masked>) => (
    <SliderField
      label={label}
      unit="%"
      min={100 * min}
      max={100 * max}
      step={1}
      digits={0}
      value={100 * value}
      onDrag={(v) => onDraft(patch(v / 100))}
      onCommit={(v) => onMasked(patch(v / 100))}
    />
  );
  const { least } = CURVE;
  return (
    <>
      {percent('Nothing up to', curve.from, 0, 1 - least, (from) => ({
        curve: { from, to: Math.max(curve.to, Math.min(1, from + least)) },
      }))}
      {percent('Whole from', curve.to, least, 1, (to) => ({ curve: { from: Math.min(curve.from, Math.max(0, to - least)), to } }))}
      {percent('Missing in patches', broken.by, 0, 1, (by) => ({ broken: { ...broken, by } }))}
      {broken.by > 0 && (
        <NumberField
          label="Patches"
          min={PATCHES.min}
          max={PATCHES.max}
          value={broken.size}
          onCommit={(size) => onMasked({ broken: { ...broken, size } })}
        />
      )}
    </>
  );
}

/** A further field of a mask. */
function AddField({ below, onAdd }: { below: readonly Layer[]; onAdd(field: Field): void }) {
  return (
    <Select
      native
      value=""
      inputProps={{ 'aria-label': 'Add a field to its mask' }}
      onChange={(e) => {
        const kind = e.target.value as FieldKind;
        if (kind === 'layer') onAdd({ kind, of: below.at(-1)?.id ?? '' });
        else if (kind) onAdd(usualField(kind));
      }}
      sx={{ mt: 0.6, width: '100%' }}
    >
      <option value="">add where it lies …</option>
      {KINDS.map((k) => (
        <option key={k} value={k}>
          {FIELDS[k].name}
        </option>
      ))}
      {below.length > 0 && <option value="layer">{FIELDS.layer.name}</option>}
    </Select>
  );
}

/** The same layer on another material: the same wear on all that is painted. */
function GiveTo({ layer, from }: { layer: Layer; from: Material }) {
  const session = useSession();
  const materials = useSheet((s) => s.document?.materials) ?? [];
  const others = materials.filter((m) => m.id !== from.id && !m.texturing);
  if (others.length === 0) return null;
  return (
    <Select
      native
      value=""
      inputProps={{ 'aria-label': 'Lay it on another material too' }}
      onChange={(e) => {
        const to = others.find((m) => m.id === e.target.value);
        if (!to) return;
        // One of the same id would be the same layer: followers find it there by its name here.
        const id = to.layers.some((l) => l.id === layer.id) ? newId() : layer.id;
        session.dispatch({ type: 'material.set', material: to.id, patch: { layers: [...to.layers, { ...structuredClone(layer), id }] } });
        session.notify(`${layer.name} lies on ${to.name} too.`);
      }}
      sx={{ maxWidth: 150, fontSize: 12.5 }}
    >
      <option value="">on another too …</option>
      {others.map((m) => (
        <option key={m.id} value={m.id}>
          {m.name}
        </option>
      ))}
    </Select>
  );
}
