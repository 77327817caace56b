'use client';

import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import type { Field, ListField } from '@wellmorph/core/form/fields';
import type { Lookup } from '@wellmorph/core/units/formula';
import { Choice, NumberField } from '@/sheet/fields';
import { newId } from '@/sheet/ids';
import { NameField } from '@/sheet/name-field';
import { PickRow } from './picks';

type Plain = Record<string, unknown>;

/** What a form may do with the record it shows. `formula` is null for a plain figure. */
export interface FieldFormProps {
  fields: readonly Field[];
  value: Plain;
  /** Sets one value by its path, `path.b.bend`, with the formula it follows from now on. */
  onSet(path: string, value: unknown, formula?: string | null): void;
  formulas?: Record<string, string>;
  names?: Lookup;
  /** Choices for text fields that name something: parts, regions, steps. */
  named?: Record<string, readonly (readonly [string, string])[]>;
  /** Whose picks they are, for fields that are picked on the piece. */
  picks?: { part: string; step: string };
  prefix?: string;
}

/** A form derived from a description: what can be set, in what unit, within which bounds. What is drawn is drawn elsewhere. */
export function FieldForm(props: FieldFormProps) {
  return props.fields.filter((f) => !f.when || f.when(props.value)).map((f) => <FieldRow key={f.key} {...props} field={f} />);
}

function FieldRow({ field: f, value, onSet, formulas = {}, names, named, picks, prefix = '' }: FieldFormProps & { field: Field }) {
  const path = prefix + f.key;
  const x = value[f.key];
  const rest = { onSet, formulas, names, named };
  switch (f.type) {
    case 'choice':
      return (
        <Choice label={f.label} hint={f.hint} value={String(x ?? f.choices[0][0])} choices={f.choices} onChange={(v) => onSet(path, v)} />
      );
    case 'switch':
      return <Choice label={f.label} hint={f.hint} value={x ? 1 : 0} choices={YES_NO} onChange={(v) => onSet(path, v === 1)} />;
    case 'text':
      return named?.[f.key] ? (
        <Choice label={f.label} value={String(x ?? '')} choices={named[f.key]} onChange={(v) => onSet(path, v || undefined)} />
      ) : f.names ? null : (
        <NameField label={f.label} id={`field-${path}`} value={String(x ?? '')} most={f.most} onName={(v) => onSet(path, v)} />
      );
    case 'edges':
    case 'spot':
      return picks ? <PickRow field={f} {...picks} value={x} onClear={() => onSet(path, undefined)} /> : null;
    case 'group':
      return f.drawn ? null : <FieldForm fields={f.fields} value={(x ?? {}) as Plain} prefix={`${path}.`} {...rest} />;
    case 'list':
      return f.drawn ? null : <ListRows field={f} list={(x ?? []) as Plain[]} path={path} {...rest} />;
    default:
      return (
        <NumberField
          label={f.label}
          hint={f.hint}
          kind={f.type === 'length' || f.type === 'whole' ? f.type : 'number'}
          unit={f.type === 'length' ? undefined : f.type === 'angle' ? '°' : ''}
          min={f.min}
          max={f.max}
          value={typeof x === 'number' ? x : (f.standing ?? 0)}
          formula={formulas[path]}
          names={names}
          onCommit={(v, formula) => onSet(path, v, formula)}
        />
      );
  }
}
const YES_NO = [
  [1, 'yes'],
  [0, 'no'],
] as const;

function ListRows({
  field,
  list,
  path,
  onSet,
  formulas,
  names,
  named,
}: Omit<FieldFormProps, 'fields' | 'value' | 'prefix'> & { field: ListField; list: Plain[]; path: string }) {
  const short = field.fields.filter((f) => f.type !== 'choice' && f.label.length < 3);
  const rest = field.fields.filter((f) => !short.includes(f));
  return (
    <Box>
      {list.map((item, k) => {
        const id = field.anonymous ? String(k) : String(item.id);
        const common = { value: item, onSet, formulas, names, named, prefix: `${path}.${id}.` };
        return (
          <Box key={id} sx={{ borderTop: 1, borderColor: 'sheet.line', mt: 0.6, pt: 0.4 }}>
            <Box className="narrow" sx={{ display: 'flex', justifyContent: 'space-between', fontSize: 12, color: 'text.secondary' }}>
              {field.one} {k + 1}
              {list.length > field.least && (
                <Button
                  sx={{ minWidth: 0, px: 0.6, minHeight: 20 }}
                  aria-label={`Remove ${field.one.toLowerCase()} ${k + 1}`}
                  onClick={() =>
                    onSet(
                      path,
                      list.filter((_, j) => j !== k),
                    )
                  }
                >
                  ×
                </Button>
              )}
            </Box>
            {short.length > 0 && (
              <Box sx={{ display: 'grid', gridTemplateColumns: `repeat(${short.length}, 1fr)`, gap: 0.6 }}>
                {short.map((f) =>
                  'min' in f ? (
                    <NumberField
                      key={f.key}
                      label={f.label}
                      unit=""
                      width={62}
                      digits={2}
                      min={f.min}
                      max={f.max}
                      value={Number(item[f.key] ?? 0)}
                      formula={formulas?.[`${path}.${id}.${f.key}`]}
                      names={names}
                      onCommit={(v, formula) => onSet(`${path}.${id}.${f.key}`, v, formula)}
                    />
                  ) : null,
                )}
              </Box>
            )}
            <FieldForm fields={rest} {...common} />
          </Box>
        );
      })}
      {field.fresh && list.length < field.most && (
        <Button
          sx={{ mt: 0.5 }}
          onClick={() => onSet(path, [...list, { ...(field.anonymous ? {} : { id: newId() }), ...field.fresh?.(list) }])}
        >
          Add a {field.one.toLowerCase()}
        </Button>
      )}
    </Box>
  );
}

/** A record with the value at a path set; `undefined` takes it away. Lists are addressed by id or place. */
export function withValue<T>(record: T, path: string, value: unknown): T {
  const [head, ...rest] = path.split('.');
  if (Array.isArray(record))
    return record.map((item, i) =>
      (item as Plain).id === head || String(i) === head ? (rest.length === 0 ? value : withValue(item, rest.join('.'), value)) : item,
    ) as T;
  const next = { ...(record as Plain) };
  if (rest.length > 0) next[head] = withValue(next[head] ?? {}, rest.join('.'), value);
  else if (value === undefined) delete next[head];
  else next[head] = value;
  return next as T;
}
