'use client';

import { classValidatorResolver } from '@hookform/resolvers/class-validator';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import FormLabel from '@mui/material/FormLabel';
import Stack from '@mui/material/Stack';
import { PURPOSES, type Purpose } from '@wellmorph/core/brief/brief';
import { EXACT, FORMATS, READ_WORDS, UNITLESS } from '@wellmorph/core/io/formats';
import { figure, LENGTH_UNITS } from '@wellmorph/core/units/lengths';
import { useState } from 'react';
import { Controller, type FieldValues, Form, type UseControllerProps, useController, useForm } from 'react-hook-form';
import { ApiError, send, upload } from '@/session/api';
import { Choice } from '@/sheet/fields';
import { isOfKind } from '@/sheet/model-files';
import { Written } from '@/sheet/plain';
import { ImportForm, NewAssetForm } from './forms';

/** Files of our own. */
const OWN = ['zip', 'json'];
/** Largest model that is taken, MB. */
export const LIMIT_MB = 200;

/** One sentence about what is wrong, where something is. */
const Wrong = ({ children }: { children: string | null | undefined }) =>
  children ? (
    <Box role="alert" sx={{ color: 'error.main', mt: 1 }}>
      {children}
    </Box>
  ) : null;

/** A row of a label and a text, checked with the rest of its form. */
function TextRow<T extends FieldValues>({
  label,
  id,
  wrong,
  most,
  ...field
}: UseControllerProps<T> & { label: string; id: string; wrong: boolean; most: number; autoFocus?: boolean; placeholder?: string }) {
  const { autoFocus, placeholder, ...controlled } = field;
  const {
    field: { ref, ...shown },
  } = useController(controlled as UseControllerProps<T>);
  return (
    <Stack direction="row" sx={{ alignItems: 'center', justifyContent: 'space-between', minHeight: 34 }}>
      <FormLabel htmlFor={id} sx={{ color: 'text.primary', fontSize: 13.5 }}>
        {label}
      </FormLabel>
      <Written
        {...shown}
        inputRef={ref}
        id={id}
        wrong={wrong}
        autoFocus={autoFocus}
        placeholder={placeholder}
        inputProps={{ maxLength: most }}
        sx={{ width: 230 }}
      />
    </Stack>
  );
}

export function NewAsset({ open, onClose, onMade }: { open: boolean; onClose(): void; onMade(id: string): void }) {
  const { control, setError, formState } = useForm<NewAssetForm>({
    resolver: classValidatorResolver(NewAssetForm),
    defaultValues: { name: '', purpose: 'game' },
  });
  const { errors, isSubmitting } = formState;
  const make = async ({ data: { name, purpose } }: { data: NewAssetForm }) => {
    try {
      onMade((await send<{ id: string }>('POST', '/api/assets', { name, purpose })).id);
    } catch (error) {
      setError('root', { message: (error as Error).message });
    }
  };
  return (
    <Dialog open={open} onClose={onClose} aria-labelledby="new-title">
      <Form control={control} onSubmit={make}>
        <Box sx={{ p: 3, width: 400 }}>
          <Box id="new-title" component="h2" sx={{ typography: 'h2', mt: 0 }}>
            New asset
          </Box>
          <TextRow name="name" control={control} label="Name" id="new-name" most={120} autoFocus wrong={errors.name !== undefined} />
          <Controller
            name="purpose"
            control={control}
            render={({ field }) => (
              <Choice
                label="Purpose"
                value={field.value}
                choices={Object.entries(PURPOSES) as [Purpose, string][]}
                onChange={field.onChange}
                hint="sets the first limits; all can be changed"
              />
            )}
          />
          <Wrong>{errors.name?.message ?? errors.purpose?.message ?? errors.root?.message}</Wrong>
          <Box sx={{ mt: 2, display: 'flex', gap: 1, justifyContent: 'flex-end' }}>
            <Button variant="outlined" onClick={onClose}>
              Cancel
            </Button>
            <Button variant="contained" type="submit" disabled={isSubmitting}>
              Start with the brief
            </Button>
          </Box>
        </Box>
      </Form>
    </Dialog>
  );
}

/**
 * Reads a model: as a piece of its own, or into one that is there.
 *
 * @param into the piece it is brought into, and the older file whose parts it is put in place of
 * @param onDone is told the piece it is in, and which parts it became there
 */
export function ImportDialog({
  files,
  into,
  onClose,
  onDone,
}: {
  files: File[];
  into?: { id: string; before(): Promise<unknown>; replaces?: string };
  onClose(): void;
  onDone(id: string, parts: string[]): void;
}) {
  const model = files.find((f) => isOfKind(f.name, into ? FORMATS : [...FORMATS, ...OWN]));
  const isAsset = Boolean(model && isOfKind(model.name, OWN));
  const isExact = Boolean(model && isOfKind(model.name, EXACT));
  const unitless = Boolean(model && isOfKind(model.name, UNITLESS));
  const { control, formState } = useForm<ImportForm>({
    resolver: classValidatorResolver(ImportForm),
    defaultValues: { unitless, unit: '', up: isExact ? 'z' : 'y', licence: '' },
  });
  const { errors } = formState;
  /** Under way, with what ends it. */
  const [going, setGoing] = useState<AbortController | null>(null);
  const busy = going !== null;
  const [made, setMade] = useState<{ id: string; parts: string[]; notes: string[] } | null>(null);
  const large = files.reduce((n, f) => n + f.size, 0) > LIMIT_MB * 1e6;
  const [wrong, setWrong] = useState<string | null>(
    !model
      ? `“${files[0].name}” is not a kind of file that can be ${into ? `brought into a piece; ${READ_WORDS}` : `read here; ${READ_WORDS} and asset files`} can.`
      : large
        ? `That is more than ${LIMIT_MB} MB.`
        : null,
  );
  /** It was told that its size is not likely. */
  const [unlikely, setUnlikely] = useState(false);
  const run = async ({ data: { unit, up, licence } }: { data: ImportForm }) => {
    const stopping = new AbortController();
    setGoing(stopping);
    setWrong(null);
    const form = new FormData();
    for (const f of files) form.append('file', f);
    form.append('unit', unit);
    form.append('licence', licence);
    if (unlikely) form.append('sure', 'yes');
    if (unitless || isExact) form.append('up', up);
    if (into?.replaces) form.append('replaces', into.replaces);
    try {
      // What was changed here is stored first, so that the parts come after it; without a connection that can take as long as it likes.
      const given = new Promise<never>((_, no) =>
        stopping.signal.addEventListener('abort', () => no(new Error('Stopped; nothing was brought in.'))),
      );
      if (into) await Promise.race([into.before(), given]);
      given.catch(() => {});
      const path = into ? `/api/assets/${into.id}/parts` : '/api/import';
      const answer = await upload<{ id?: string; parts?: string[]; notes: string[] }>(path, form, stopping.signal);
      const done = { id: into?.id ?? (answer.id as string), parts: answer.parts ?? [], notes: answer.notes };
      // What the file has and is not carried on is read before anything is built on it.
      if (done.notes.length > 0) setMade(done);
      else onDone(done.id, done.parts);
    } catch (error) {
      // Asked again with another unit it is looked at anew; with the same one it is taken all the same.
      setUnlikely(error instanceof ApiError && error.code === 'import/size');
      setWrong((error as Error).message);
      setGoing(null);
    }
  };
  if (made)
    return (
      <Dialog open onClose={() => onDone(made.id, made.parts)} aria-labelledby="imported-title">
        <Box sx={{ p: 3, width: 440 }}>
          <Box id="imported-title" component="h2" sx={{ typography: 'h2', mt: 0 }}>
            {into?.replaces
              ? 'Replaced, and not all of it is as it was'
              : into
                ? 'Brought in, and not quite as it was'
                : 'Imported, and not quite as it was'}
          </Box>
          <Box component="ul" sx={{ pl: 2.2, my: 1, '& li': { mb: 0.6, lineHeight: 1.45 } }}>
            {made.notes.map((n) => (
              <li key={n}>{n}</li>
            ))}
          </Box>
          {!into?.replaces && (
            <Box className="narrow" sx={{ fontSize: 12.5, color: 'text.secondary' }}>
              This stays with the file under Sources in Hand-off.
            </Box>
          )}
          <Box sx={{ mt: 2, display: 'flex', justifyContent: 'flex-end' }}>
            <Button variant="contained" autoFocus onClick={() => onDone(made.id, made.parts)}>
              {into ? 'Look at it' : 'Open it'}
            </Button>
          </Box>
        </Box>
      </Dialog>
    );
  return (
    <Dialog open onClose={busy ? undefined : onClose} aria-labelledby="import-title">
      <Form control={control} onSubmit={run}>
        <Box sx={{ p: 3, width: 440 }}>
          <Box id="import-title" component="h2" sx={{ typography: 'h2', mt: 0 }}>
            {into?.replaces ? `Put a newer file in place of ${into.replaces}` : into ? 'Bring a model into this piece' : 'Import a model'}
          </Box>
          {files.map((f) => (
            <Box
              key={f.name}
              sx={{ display: 'flex', justifyContent: 'space-between', py: 0.4, borderBottom: 1, borderColor: 'sheet.faint' }}
            >
              <span>{f.name}</span>
              <span className="mono">{f.size < 1e5 ? `${figure(f.size / 1e3, 1)} kB` : `${figure(f.size / 1e6, 1)} MB`}</span>
            </Box>
          ))}
          {unitless && (
            <Controller
              name="unit"
              control={control}
              render={({ field }) => (
                <Choice
                  label="One unit is"
                  hint={`${model?.name.split('.').pop()?.toUpperCase()} files don’t say · up to ${LIMIT_MB} MB`}
                  value={field.value}
                  choices={[['', 'choose …'], ...LENGTH_UNITS.map((u) => [u, u] as const)]}
                  onChange={(unit) => {
                    setUnlikely(false);
                    field.onChange(unit);
                  }}
                />
              )}
            />
          )}
          {(unitless || isExact) && (
            <Controller
              name="up"
              control={control}
              render={({ field }) => (
                <Choice
                  label="Up in it is"
                  hint="drawn parts mostly stand along z, models along y"
                  value={field.value}
                  choices={[
                    ['y', 'y'],
                    ['z', 'z'],
                  ]}
                  onChange={field.onChange}
                />
              )}
            />
          )}
          {!unitless && model && (
            <Box className="narrow" sx={{ color: 'text.secondary', fontSize: 12.5, mt: 1 }}>
              {isAsset
                ? 'An asset file brings everything that was decided, and its meshes.'
                : isExact
                  ? 'STEP says its unit. Its exact surfaces are cut into triangles as the high mesh, and the low one is simplified from it: both together stay within the tolerance of the brief, and can be changed later.'
                  : 'glTF is in metres; it is read as that.'}{' '}
              Files up to {LIMIT_MB} MB.
            </Box>
          )}
          <TextRow
            name="licence"
            control={control}
            label="Source and licence"
            id="licence"
            most={300}
            placeholder="own work, CC0 …"
            wrong={errors.licence !== undefined}
          />
          <Wrong>{wrong ?? errors.unit?.message ?? errors.licence?.message}</Wrong>
          <Box sx={{ mt: 2, display: 'flex', gap: 1, justifyContent: 'flex-end' }}>
            <Button variant="outlined" onClick={() => (going ? going.abort() : onClose())}>
              {going ? 'Stop' : 'Cancel'}
            </Button>
            <Button variant="contained" type="submit" disabled={busy || !model || large}>
              {busy ? 'Reading …' : unlikely ? 'Take it all the same' : into?.replaces ? 'Replace' : into ? 'Bring it in' : 'Import'}
            </Button>
          </Box>
        </Box>
      </Form>
    </Dialog>
  );
}
