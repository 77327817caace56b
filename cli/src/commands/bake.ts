import { basename } from 'node:path';
import { FURTHER_MAPS } from '@wellmorph/core/bake/maps/further';
import { InputError } from '@wellmorph/core/errors';
import type { Model, ModelPart } from '@wellmorph/core/io/model';
import { inverse } from '@wellmorph/core/maths/mat4';
import { attribute } from '@wellmorph/core/mesh/polymesh';
import type { BakeSettings } from '@wellmorph/core/pipeline/bake';
import { bake } from '@wellmorph/core/pipeline/bake-finish';
import { BAKE_DEFAULTS } from '@wellmorph/core/pipeline/document';
import { fileName } from '@wellmorph/core/pipeline/export';
import type { PartMesh } from '@wellmorph/core/pipeline/form';
import { furtherFiles } from '@wellmorph/core/pipeline/further-files';
import { intoPartSpace, type Pairing, pairHigh, togetherAsOne } from '@wellmorph/core/pipeline/import';
import { figure } from '@wellmorph/core/units/lengths';
import { loadModel, number, one, readWhole, wholeNumber } from '../input';
import type { Values } from '../options';
import { type Outcome, stderrTask } from '../output';
import { STANDARD, tryFolder, writeInto } from '../write';

const MAPS = ['normal', 'occlusion', 'curvature', ...FURTHER_MAPS] as const;

/** Bakes a high model onto a laid-out low one, or the low one from itself, and judges the result. */
export async function bakeCommand(files: string[], values: Values): Promise<Outcome> {
  if (files.length > 0) throw new InputError('cli/files', 'bake takes its files with --low and --high.');
  if (!values.low) throw new InputError('cli/files', 'bake needs --low.');
  const folder = values.out;
  if (!folder || folder === STANDARD) throw new InputError('cli/out', 'bake needs -o with a folder for the maps.');
  const samples = wholeNumber(values, 'samples', 2, 1, 8);
  if (![1, 2, 4, 8].includes(samples)) throw new InputError('cli/number', `--samples is ${samples}; it can be 1, 2, 4 or 8.`);
  const maps = (values.maps ?? 'normal,occlusion').split(',').map((m) => m.trim());
  for (const m of maps)
    if (!(MAPS as readonly string[]).includes(m))
      throw new InputError('cli/maps', `--maps names “${m}”; ${MAPS.slice(0, -1).join(', ')} and ${MAPS.at(-1)} can be baked.`);
  const y = one(values, 'y', ['up', 'down'] as const, 'up');
  const [front, rear] = [number(values, 'outward', 0, 1e5, 'mm'), number(values, 'inward', 0, 1e5, 'mm')];
  if ((front === undefined) !== (rear === undefined))
    throw new InputError('cli/distances', '--outward and --inward go together; without them the distances are measured.');
  const reachMm = number(values, 'reach', 0.001, 1e5, 'mm');
  const bits = wholeNumber(values, 'bits', 8, 8, 16);
  if (bits !== 8 && bits !== 16) throw new InputError('cli/number', `--bits is ${bits}; it can be 8 or 16.`);
  const chosen = values.pairs === undefined ? {} : await pairsOf(values.pairs);
  await tryFolder(folder);
  const low = await loadModel(values.low, values);
  const high = values.high ? await loadModel(values.high, values) : null;
  const lowParts: PartMesh[] = low.parts.map((p, i) => ({ id: `part${i + 1}`, name: p.name, mesh: p.mesh, placements: p.placements }));
  const bare = lowParts.find((p) => !attribute(p.mesh, 'uv', 'corner'));
  if (bare) throw new InputError('bake/layout', `“${bare.name}” has no layout; unwrap the low model first.`);
  const pairs = high ? paired(lowParts, high.parts, chosen) : [];
  if (high && pairs.length === 0)
    throw new InputError('bake/pairs', 'No part of the low model matches one of the high model, by name or by place.');
  const highParts = pairs.map(({ part, high: i, more = [] }): PartMesh => {
    const l = lowParts.find((p) => p.id === part) as PartMesh;
    const dense = [i, ...more].map((k) => (high as Model).parts[k]);
    const back = inverse(l.placements[0]);
    const mesh = togetherAsOne(dense.map((d) => intoPartSpace(d, back)));
    return { id: part, name: dense.map((d) => d.name).join(' + '), mesh, placements: l.placements };
  });
  const settings: BakeSettings = {
    ...BAKE_DEFAULTS,
    samples: samples as 1 | 2 | 4 | 8,
    bits,
    ...(reachMm !== undefined && { reachMm }),
    size: wholeNumber(values, 'size', 1024, 16, 8192),
    normal: maps.includes('normal'),
    occlusion: maps.includes('occlusion'),
    curvature: maps.includes('curvature'),
    further: FURTHER_MAPS.filter((m) => maps.includes(m)),
    idBy: 'part',
    itself: true,
    roundMm: number(values, 'round', 0, 1000, 'mm') ?? 0,
    y,
    distances: front === undefined ? 'measured' : 'uniform',
    frontMm: front ?? 1,
    rearMm: rear ?? 1,
  };
  const result = await bake(lowParts, highParts, new Map(), settings, () => performance.now() / 1000, stderrTask(values));
  const base = values.low === STANDARD ? 'low' : fileName(basename(values.low).replace(/\.[^.]+$/, ''));
  const written = await writeInto(folder, [
    ...(['normal', 'occlusion', 'curvature'] as const).flatMap((map) => {
      const png = result.files[map];
      return png ? [[`${base}_${map}.png`, png] as const] : [];
    }),
    ...furtherFiles(result.files, result.figures).map(({ name, bytes }) => [`${base}_${name}`, bytes] as const),
  ]);
  const f = result.figures;
  const json = {
    files: written,
    distances: f.pairs.map((p) => ({ part: p.name, frontMm: p.frontMm, rearMm: p.rearMm })),
    missedPercent: f.missedShare * 100,
    backFacePercent: f.backShare * 100,
    ranges: f.ranges,
    judge: f.judgement
      ? { meanDegrees: f.judgement.mean, p95Degrees: f.judgement.p95, worstDegrees: f.judgement.worst, seamDegrees: f.judgement.seamMean }
      : null,
    verdict: f.verdict?.sentence ?? null,
    change: f.verdict?.change ?? null,
    rays: f.rays,
    seconds: f.seconds,
  };
  const text = `${f.pairs.map((p) => `${p.name}: ${figure(p.frontMm, 3)} mm outward, ${figure(p.rearMm, 3)} mm inward`).join('\n')}\n${f.verdict?.sentence ?? ''}${f.verdict?.change ? ` ${f.verdict.change}` : ''}\n${figure(f.missedShare * 100, 2)} % missed, ${figure(f.rays, 0)} rays in ${figure(f.seconds, 1)} s\n${written.map((w) => `Written: ${w}\n`).join('')}`;
  return { json, text, failed: f.verdict?.level === 'over' };
}

/** Which high parts belong to which low one, by their names. @throws InputError when the file says something else */
async function pairsOf(path: string): Promise<Record<string, string[]>> {
  let plain: unknown;
  try {
    plain = JSON.parse(new TextDecoder().decode(await readWhole(path)));
  } catch (error) {
    if (error instanceof InputError) throw error;
    throw new InputError('pairs/file', `“${path}” is no JSON.`);
  }
  const isName = (x: unknown): x is string => typeof x === 'string';
  const isNames = (x: unknown): x is string | string[] => isName(x) || (Array.isArray(x) && x.length > 0 && x.every(isName));
  if (typeof plain !== 'object' || plain === null || Array.isArray(plain) || !Object.values(plain).every(isNames))
    throw new InputError('pairs/shape', `“${path}” has to be one JSON object of names: {"low name": "high name"}, or a list of several.`);
  return Object.fromEntries(Object.entries(plain).map(([low, high]) => [low, isName(high) ? [high] : (high as string[])]));
}

/** Pairs as they were chosen, and for the parts nothing was said of, by name and place. */
function paired(low: readonly PartMesh[], high: readonly ModelPart[], chosen: Record<string, string[]>): Pairing[] {
  const out = Object.entries(chosen).map(([a, b]): Pairing => {
    const part = low.find((p) => p.name === a);
    if (!part) throw new InputError('pairs/low', `The low model has no part “${a}”.`);
    const [first, ...more] = b.map((name) => {
      const i = high.findIndex((h) => h.name === name);
      if (i < 0) throw new InputError('pairs/high', `The high model has no part “${name}”.`);
      return i;
    });
    return { part: part.id, high: first, by: 'name', ...(more.length > 0 && { more }) };
  });
  const [takenLow, takenHigh] = [new Set(out.map((p) => p.part)), new Set(out.flatMap((p) => [p.high, ...(p.more ?? [])]))];
  const left = [...high.keys()].filter((i) => !takenHigh.has(i));
  const rest = pairHigh(
    low.filter((p) => !takenLow.has(p.id)),
    left.map((i) => high[i]),
  );
  return [...out, ...rest.map((p) => ({ ...p, high: left[p.high], ...(p.more && { more: p.more.map((i) => left[i]) }) }))];
}
