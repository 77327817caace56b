import { execFile } from 'node:child_process';
import { mkdtemp, readdir, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { Ajv2020 } from 'ajv/dist/2020.js';
import validator from 'gltf-validator';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { TIN_MTL, tinHigh, tinLow } from '../../demo/src/tin';

const BIN = resolve(import.meta.dirname, '../bin/wellmorph.mjs');
let dir: string;
const at = (name: string) => join(dir, name);

/** Runs the command as a person would: a process of its own. */
const run = (...args: string[]) =>
  new Promise<{ code: number; out: string; err: string }>((ok) => {
    execFile(process.execPath, [BIN, ...args], { cwd: dir, maxBuffer: 1e8 }, (error, out, err) =>
      ok({ code: error ? Number(error.code ?? 1) : 0, out, err }),
    );
  });

async function follows(schema: string, json: string): Promise<Record<string, never>> {
  const check = new Ajv2020({ allErrors: true }).compile(
    JSON.parse(await readFile(resolve(import.meta.dirname, `../schemas/${schema}.schema.json`), 'utf8')),
  );
  const value = JSON.parse(json);
  check(value);
  expect(check.errors ?? []).toEqual([]);
  return value;
}

beforeAll(async () => {
  dir = await mkdtemp(join(tmpdir(), 'wellmorph-cli-'));
  await writeFile(at('tin.obj'), tinLow());
  await writeFile(at('tin-high.obj'), tinHigh());
  await writeFile(at('biscuit-tin.mtl'), TIN_MTL);
  await writeFile(at('open.obj'), 'v 0 0 0\nv 10 0 0\nv 0 10 0\nv 0 0 10\nf 1 2 3\nf 1 2 4\n');
  await writeFile(at('broken.obj'), 'v 0 0 0\nf 1 2 3\n');
});
afterAll(() => rm(dir, { recursive: true, force: true }));

describe('wellmorph check', () => {
  it('measures in millimetres, follows its schema, keeps progress off standard output', async () => {
    const { code, out, err } = await run('check', 'tin.obj', '--json');
    expect(code).toBe(0);
    const json = (await follows('check', out)) as unknown as {
      parts: { name: string; watertight: boolean; volumeMm3: number; boundsMm: { max: number[] } }[];
    };
    expect(json.parts.map((p) => p.name)).toEqual(['Body', 'Lid']);
    expect(json.parts[0].watertight).toBe(true);
    expect(json.parts[0].boundsMm.max[1]).toBeCloseTo(80, 6);
    // A rounded rectangle with corners of three chords lies between the square-cornered and the inscribed one.
    expect(json.parts[0].volumeMm3).toBeLessThan(210 * 140 * 80);
    expect(json.parts[0].volumeMm3).toBeGreaterThan(0.97 * 210 * 140 * 80);
    expect(err).toMatch(/%/);
  });
  it('takes the unit it is told', async () => {
    const { out } = await run('check', 'tin.obj', '--unit', 'cm', '--json');
    expect(JSON.parse(out).parts[0].boundsMm.max[1]).toBeCloseTo(800, 5);
  });
  it('ends with 1 on an error or a limit that is passed, with 0 on a warning', async () => {
    expect((await run('check', 'tin.obj', '--limit-triangles', '10')).code).toBe(1);
    const bad = await run('check', 'open.obj', '--json');
    expect(bad.code).toBe(1);
    expect(JSON.parse(bad.out).findings.map((f: { id: string }) => f.id.split(':')[0])).toContain('winding');
  });
});

describe('wellmorph unwrap and bake', () => {
  it('lay out, bake and judge an imported pair', async () => {
    const un = await run('unwrap', 'tin.obj', '-o', 'tin.glb', '--size', '256', '--padding', '4', '--json');
    expect(un.code).toBe(0);
    const layout = (await follows('unwrap', un.out)) as unknown as { folds: number; overlapTexels: number; gutter: number };
    expect(layout.folds + layout.overlapTexels).toBe(0);
    expect(layout.gutter).toBeGreaterThanOrEqual(4);
    const report = await validator.validateBytes(new Uint8Array(await readFile(at('tin.glb'))));
    expect(report.issues.numErrors + report.issues.numWarnings).toBe(0);
    const ba = await run(
      'bake',
      '--low',
      'tin.glb',
      '--high',
      'tin-high.obj',
      '-o',
      'maps',
      '--size',
      '128',
      '--samples',
      '1',
      '--y',
      'down',
      '--json',
    );
    expect(ba.code).toBe(0);
    const made = (await follows('bake', ba.out)) as unknown as { missedPercent: number; judge: { meanDegrees: number } };
    expect(made.missedPercent).toBeLessThan(2);
    expect(made.judge.meanDegrees).toBeLessThan(15);
    expect((await readdir(at('maps'))).sort()).toEqual(['tin_normal.png', 'tin_occlusion.png']);
  });
});

describe('input that can’t be used ends with 2, one sentence, no stack', () => {
  it.each([
    [['check', 'nothing.obj'], /can’t be opened/],
    [['check', 'broken.obj'], /Line 2/],
    [['check', 'tin.obj', '--unit', 'furlong'], /it can be mm, cm, m or in/],
    [['check'], /takes one file/],
    [['check', 'tin.obj', '--limit-triangles', 'many'], /whole number/],
    [['unwrap', 'tin.obj'], /ends in \.glb/],
    [['unwrap', 'tin.obj', '-o', 'x.glb', '--size', '3'], /from 64 to 8192/],
    [['bake', '--low', 'tin.obj', '--high', 'tin-high.obj', '-o', 'm'], /has no layout/],
    [['bake', '--low', 'tin.obj'], /needs --low and --high/],
    [['bake', '--low', 'tin.obj', '--high', 'tin-high.obj', '-o', 'm', '--front', '1'], /go together/],
    [['polish', 'tin.obj'], /is not a command/],
    [['check', 'tin.obj', '--loudly'], /see wellmorph --help/],
  ])('%j', async (args, words) => {
    const { code, out, err } = await run(...args);
    expect(code).toBe(2);
    expect(out).toBe('');
    expect(err).toMatch(words);
    expect(err.trim().split('\n')).toHaveLength(1);
    expect(err).not.toMatch(/\s+at /);
  });
});
