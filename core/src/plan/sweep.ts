import { InputError } from '../errors';
import { type Command, commandKind } from '../pipeline/commands/index';
import type { AssetDocument } from '../pipeline/document';

/** A setting that can be swept over a range, and what makes it so. */
export interface SweepField {
  key: string;
  name: string;
  stage: 'render' | 'bake';
  min: number;
  max: number;
  whole?: boolean;
  /** A run of its stage doesn’t tell of it by itself, so it is written with it. */
  untold?: true;
  /** What it is now; null while it is solved rather than set. */
  now(document: AssetDocument): number | null;
  set(document: AssetDocument, value: number): Command;
}

const shot = (key: 'aperture' | 'seconds' | 'lensMm' | 'azimuth' | 'elevation', name: string, min: number, max: number): SweepField => ({
  key,
  name,
  stage: 'render',
  min,
  max,
  now: (d) => d.shot[key],
  set: (_, value) => ({ type: 'shot.set', patch: { [key]: value } }),
});

const lamp = (
  which: 'key' | 'fill' | 'rim',
  field: 'ratio' | 'turn' | 'raise' | 'kelvin',
  name: string,
  min: number,
  max: number,
): SweepField => ({
  key: `${which}.${field}`,
  name,
  stage: 'render',
  min,
  max,
  now: (d) => d.rig.lamps[which][field],
  // Watts that were decided on would hide another ratio: the lamps are solved anew for it.
  set: (d, value) => ({
    type: 'rig.set',
    patch: { lamps: { ...d.rig.lamps, [which]: { ...d.rig.lamps[which], [field]: value } }, ...(field !== 'kelvin' && { power: null }) },
  }),
});

const bake = (
  key: 'frontMm' | 'rearMm' | 'reachMm' | 'occlusionRays',
  name: string,
  min: number,
  max: number,
  whole = false,
): SweepField => ({
  key: `bake.${key}`,
  name,
  stage: 'bake',
  min,
  max,
  whole,
  now: (d) => d.bake[key],
  set: (_, value) => ({
    type: 'bake.set',
    patch: { [key]: value, ...((key === 'frontMm' || key === 'rearMm') && { distances: 'uniform' as const }) },
  }),
});

const FIELDS: readonly SweepField[] = [
  shot('aperture', 'aperture, f/', 0.7, 128),
  lamp('key', 'ratio', 'key, parts', 0.01, 100),
  lamp('fill', 'ratio', 'fill, parts', 0.01, 100),
  lamp('rim', 'ratio', 'rim, parts', 0.01, 100),
  lamp('key', 'turn', 'key turned, °', -180, 180),
  lamp('key', 'raise', 'key raised, °', -10, 90),
  lamp('key', 'kelvin', 'key, K', 1000, 15000),
  shot('azimuth', 'seen from round, °', -360, 360),
  shot('elevation', 'seen from above, °', -30, 85),
  shot('lensMm', 'lens, mm', 8, 1000),
  shot('seconds', 'shutter, s', 1e-5, 3600),
  {
    key: 'samples',
    name: 'samples',
    stage: 'render',
    min: 2,
    max: 65536,
    whole: true,
    now: (d) => d.render.samples,
    set: (_, samples) => ({ type: 'render.set', patch: { samples, until: 'samples' } }),
  },
  bake('frontMm', 'search in front, mm', 0, 1e4),
  bake('rearMm', 'search behind, mm', 0, 1e4),
  bake('reachMm', 'reach of occlusion, mm', 0.1, 1e4),
  bake('occlusionRays', 'rays for occlusion', 1, 1024, true),
];

/** Fields of a material; a picture then shows it as it is set, without the composed set, which would have to be made anew for each. */
const MATERIAL = [
  ['ior', 'index of refraction', 1, 4],
  ['roughness', 'roughness', 0, 1],
  ['transmission', 'clear, share', 0, 1],
  ['coat', 'coat, share', 0, 1],
] as const;

/** What of a piece can be swept: camera, lamps, samples, distances of the bake, and the figures of its materials. */
export function sweepFields(document: AssetDocument): SweepField[] {
  const of = document.materials
    .filter((m) => document.parts.some((p) => p.material === m.id))
    .flatMap((m) =>
      MATERIAL.map(
        ([field, name, min, max]): SweepField => ({
          key: `${m.id}.${field}`,
          name: `${m.name}: ${name}`,
          stage: 'render',
          min,
          max,
          untold: true,
          now: (d) => d.materials.find((x) => x.id === m.id)?.[field] ?? null,
          set: (_, value) => ({
            type: 'several',
            what: `${m.name}: ${name}`,
            commands: [
              { type: 'material.set', material: m.id, patch: { [field]: value } },
              { type: 'render.set', patch: { maps: false } },
            ],
          }),
        }),
      ),
    );
  return [...FIELDS, ...of];
}

/** One setting and the values it takes. */
export interface SweepAxis {
  key: string;
  values: number[];
}
/** One run of a sweep: where it stands on its sheet, what was set, and the document with that. */
export interface SweepRun {
  column: number;
  row: number;
  /** What is written with the run, as its stage doesn’t tell of it. */
  set: Record<string, number>;
  label: string;
  document: AssetDocument;
}
export const SWEEP_LIMIT = 36;

/** Values from the first to the last, evenly: an f-number’s in equal stops. */
export function between(first: number, last: number, count: number, key = ''): number[] {
  const stops = key === 'aperture' || key === 'seconds';
  return Array.from({ length: count }, (_, i) => {
    const t = count === 1 ? 0 : i / (count - 1);
    return Number((stops ? first * (last / first) ** t : first + (last - first) * t).toPrecision(stops ? 3 : 4));
  });
}

const shown = (value: number): string => String(value).replace('-', '−');

/**
 * The runs of a sweep over one setting or two: the first along the rows, the second down the columns.
 *
 * @throws InputError where a setting isn’t there, is out of range or the same twice, the two are of different stages, or they are too many
 */
export function sweepRuns(document: AssetDocument, axes: readonly SweepAxis[]): { stage: SweepField['stage']; runs: SweepRun[] } {
  if (axes.length < 1 || axes.length > 2) throw new InputError('sweep/axes', 'A sweep is over one setting or two.');
  const fields = axes.map(({ key, values }) => {
    const field = sweepFields(document).find((f) => f.key === key);
    if (!field) throw new InputError('sweep/field', 'This piece has no such setting to sweep over.');
    for (const v of values)
      if (!Number.isFinite(v) || v < field.min || v > field.max || (field.whole && !Number.isInteger(v)))
        throw new InputError(
          'sweep/range',
          `“${field.name}” goes from ${shown(field.min)} to ${shown(field.max)}${field.whole ? ' in whole numbers' : ''}; ${shown(v)} is none of them.`,
        );
    if (values.length < 1 || new Set(values).size < values.length)
      throw new InputError('sweep/values', `“${field.name}” needs values that differ from each other.`);
    return field;
  });
  const [first, second] = fields;
  if (second && second.key === first.key) throw new InputError('sweep/twice', 'Both settings are the same one.');
  if (second && second.stage !== first.stage)
    throw new InputError('sweep/stages', `“${first.name}” and “${second.name}” are settings of different stages.`);
  const total = axes.reduce((n, a) => n * a.values.length, 1);
  if (total > SWEEP_LIMIT) throw new InputError('sweep/many', `${total} runs are more than the ${SWEEP_LIMIT} a sheet has room for.`);
  const runs = (axes[1]?.values ?? [null]).flatMap((down, row) =>
    axes[0].values.map((along, column): SweepRun => {
      const made = structuredClone(document);
      // What is swept is tried on a copy, whatever is locked.
      made.shot.locked = false;
      const values: [SweepField, number][] = [[first, along], ...(second && down !== null ? [[second, down] as [SweepField, number]] : [])];
      for (const [field, value] of values) {
        const command = field.set(made, value);
        commandKind(command.type).apply(made, command);
      }
      made.shot.locked = document.shot.locked;
      return {
        column,
        row,
        set: Object.fromEntries(values.flatMap(([f, v]) => (f.untold ? [[f.name, v]] : []))),
        label: values.map(([f, v]) => `${f.name.endsWith('f/') ? 'f/' : `${f.name.replace(/, .*/, '')} `}${shown(v)}`).join(' · '),
        document: made,
      };
    }),
  );
  return { stage: first.stage, runs };
}
