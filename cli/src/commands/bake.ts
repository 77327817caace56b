import { mkdir, rename, writeFile } from 'node:fs/promises';
import { basename, join } from 'node:path';
import { InputError } from '@wellmorph/core/errors';
import { inverse } from '@wellmorph/core/maths/mat4';
import { attribute } from '@wellmorph/core/mesh/polymesh';
import { type BakeSettings, bake } from '@wellmorph/core/pipeline/bake';
import { BAKE_DEFAULTS } from '@wellmorph/core/pipeline/document';
import { fileName } from '@wellmorph/core/pipeline/export';
import type { PartMesh } from '@wellmorph/core/pipeline/form';
import { intoPartSpace, pairHigh } from '@wellmorph/core/pipeline/import';
import { figure } from '@wellmorph/core/units/lengths';
import { loadModel, one, wholeNumber } from '../input';
import type { Values } from '../options';
import { type Outcome, stderrTask } from '../output';

/** Bakes a high model onto a laid-out low one and judges the result. */
export async function bakeCommand(files: string[], values: Values): Promise<Outcome> {
  if (files.length > 0) throw new InputError('cli/files', 'bake takes its files with --low and --high.');
  if (!values.low || !values.high) throw new InputError('cli/files', 'bake needs --low and --high.');
  if (!values.out) throw new InputError('cli/out', 'bake needs -o with a folder for the maps.');
  const samples = wholeNumber(values, 'samples', 2, 1, 4);
  if (samples === 3) throw new InputError('cli/number', '--samples is 3; it can be 1, 2 or 4.');
  const maps = (values.maps ?? 'normal,occlusion').split(',').map((m) => m.trim());
  for (const m of maps)
    if (!['normal', 'occlusion', 'curvature'].includes(m))
      throw new InputError('cli/maps', `--maps names “${m}”; normal, occlusion and curvature can be baked.`);
  const y = one(values, 'y', ['up', 'down'] as const, 'up');
  const [front, rear] = [millimetres(values, 'front'), millimetres(values, 'rear')];
  if ((front === undefined) !== (rear === undefined))
    throw new InputError('cli/distances', '--front and --rear go together; without them the distances are measured.');
  const low = await loadModel(values.low, values);
  const high = await loadModel(values.high, values);
  const lowParts: PartMesh[] = low.parts.map((p, i) => ({ id: `part${i + 1}`, name: p.name, mesh: p.mesh, placements: p.placements }));
  const bare = lowParts.find((p) => !attribute(p.mesh, 'uv', 'corner'));
  if (bare) throw new InputError('bake/layout', `“${bare.name}” has no layout; unwrap the low model first.`);
  const pairs = pairHigh(lowParts, high.parts);
  if (pairs.length === 0)
    throw new InputError('bake/pairs', 'No part of the low model matches one of the high model, by name or by place.');
  const highParts = pairs.map(({ part, high: i }): PartMesh => {
    const l = lowParts.find((p) => p.id === part) as PartMesh;
    return { id: part, name: high.parts[i].name, mesh: intoPartSpace(high.parts[i], inverse(l.placements[0])), placements: l.placements };
  });
  const settings: BakeSettings = {
    ...BAKE_DEFAULTS,
    samples: samples as 1 | 2 | 4,
    size: wholeNumber(values, 'size', 1024, 16, 8192),
    normal: maps.includes('normal'),
    occlusion: maps.includes('occlusion'),
    curvature: maps.includes('curvature'),
    y,
    distances: front === undefined ? 'measured' : 'uniform',
    frontMm: front ?? 1,
    rearMm: rear ?? 1,
  };
  const result = await bake(lowParts, highParts, new Map(), settings, () => performance.now() / 1000, stderrTask());
  await mkdir(values.out, { recursive: true });
  const base = fileName(basename(values.low).replace(/\.[^.]+$/, ''));
  const written: string[] = [];
  for (const [map, png] of Object.entries(result.files)) {
    if (!png) continue;
    const path = join(values.out, `${base}_${map}.png`);
    await writeFile(`${path}.part`, png);
    await rename(`${path}.part`, path);
    written.push(path);
  }
  const f = result.figures;
  const json = {
    files: written,
    distances: f.pairs.map((p) => ({ part: p.name, frontMm: p.frontMm, rearMm: p.rearMm })),
    missedPercent: f.missedShare * 100,
    backFacePercent: f.backShare * 100,
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

function millimetres(values: Values, name: 'front' | 'rear'): number | undefined {
  const text = values[name];
  if (text === undefined) return undefined;
  const mm = Number(text);
  if (!(mm >= 0 && mm <= 1e5)) throw new InputError('cli/number', `--${name} is ${text}; it can be 0 to 100000 mm.`);
  return mm;
}
