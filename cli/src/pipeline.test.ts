import { mkdir, mkdtemp, readdir, readFile, rm, stat, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Document, WebIO } from '@gltf-transform/core';
import { unzipSync } from 'fflate';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { decodePng } from '../../core/src/image/png';
import { tinHigh, tinLow } from '../../demo/src/tin';
import { ranIn } from '../test/run';
import { COMMANDS, helpOf } from './commands';
import { OPTIONS, type OptionName } from './options';

let dir: string;
const at = (name: string) => join(dir, name);
const ran = ranIn(() => dir);
const run = (...args: string[]) => ran(args);

/** A drum of twelve sides with two layouts and a colour at every corner, its vertices not shared at all. */
async function drum(): Promise<Uint8Array> {
  const document = new Document();
  const buffer = document.createBuffer();
  const [points, uv, uv2, colour]: number[][] = [[], [], [], []];
  const put = (x: number, y: number, z: number, u: number, v: number) => {
    points.push(0.03 * x, 0.05 * y, 0.03 * z);
    uv.push(u, v);
    uv2.push(0.5 * u, 0.25 * v);
    colour.push(u, v, 0.25, 1);
  };
  const n = 12;
  const corner = (i: number): [number, number] => [Math.cos((2 * Math.PI * i) / n), -Math.sin((2 * Math.PI * i) / n)];
  for (let i = 0; i < n; i++) {
    const [[x, z], [s, t]] = [corner(i), corner(i + 1)];
    const [u, w] = [i / n, (i + 1) / n];
    put(x, 0, z, 0.9 * u, 0);
    put(s, 0, t, 0.9 * w, 0);
    put(s, 1, t, 0.9 * w, 0.3);
    put(x, 0, z, 0.9 * u, 0);
    put(s, 1, t, 0.9 * w, 0.3);
    put(x, 1, z, 0.9 * u, 0.3);
    for (const [y, a, b, v] of [
      [1, [x, z], [s, t], 0.5],
      [0, [s, t], [x, z], 0.8],
    ] as const) {
      put(0, y, 0, 0.2, v);
      put(a[0], y, a[1], 0.2 + 0.1 * a[0], v + 0.1 * (y === 1 ? -a[1] : a[1]));
      put(b[0], y, b[1], 0.2 + 0.1 * b[0], v + 0.1 * (y === 1 ? -b[1] : b[1]));
    }
  }
  const accessor = (type: 'VEC2' | 'VEC3' | 'VEC4', list: number[]) =>
    document.createAccessor().setType(type).setArray(Float32Array.from(list)).setBuffer(buffer);
  const primitive = document
    .createPrimitive()
    .setAttribute('POSITION', accessor('VEC3', points))
    .setAttribute('TEXCOORD_0', accessor('VEC2', uv))
    .setAttribute('TEXCOORD_1', accessor('VEC2', uv2))
    .setAttribute('COLOR_0', accessor('VEC4', colour));
  const node = document.createNode('Drum').setMesh(document.createMesh('Drum').addPrimitive(primitive));
  document.createScene('All').addChild(node);
  return new WebIO().writeBinary(document);
}

beforeAll(async () => {
  dir = await mkdtemp(join(tmpdir(), 'wellmorph-pipeline-'));
  await writeFile(at('tin.obj'), tinLow());
  await writeFile(at('tin-high.obj'), tinHigh());
  await writeFile(at('drum.glb'), await drum());
  await writeFile(at('broken.obj'), 'v 0 0 0\nf 1 2 3\n');
  await mkdir(at('models/inner'), { recursive: true });
  await writeFile(at('models/inner/tin.obj'), tinLow());
  await writeFile(at('models/broken.obj'), 'v 0 0 0\nf 1 2 3\n');
  await writeFile(at('models/broken.glb'), new Uint8Array(40).fill(7));
});
afterAll(() => rm(dir, { recursive: true, force: true }));

describe('what can be asked', () => {
  it('says which version it is, and what each command takes', async () => {
    expect((await run('--version')).out).toMatch(/^wellmorph \d+\.\d+\.\d+\n$/);
    const all = await run('help');
    expect(all.code).toBe(0);
    for (const name of Object.keys(COMMANDS)) expect(all.out).toContain(`  ${name} `);
    expect((await run('help', 'bake')).out).toBe((await run('bake', '--help')).out);
    expect(await run('help', 'polish')).toMatchObject({ code: 2, err: expect.stringMatching(/“polish” is not a command; check, unwrap,/) });
    expect(await run()).toMatchObject({ code: 2, out: all.out });
  });
  it('tells every option of every command, in lines that fit', () => {
    for (const [name, command] of Object.entries(COMMANDS)) {
      const text = helpOf(name);
      for (const o of [...command.options, 'json', 'quiet', 'help'] as OptionName[]) expect(text).toContain(OPTIONS[o].about);
      for (const line of text.split('\n')) expect(line.length).toBeLessThanOrEqual(120);
      for (const o of command.needs) expect(command.options).toContain(o);
    }
    // None is left that no command takes.
    const used = new Set<string>([...Object.values(COMMANDS).flatMap((c) => c.options), 'json', 'quiet', 'help', 'version']);
    expect(Object.keys(OPTIONS).filter((o) => !used.has(o))).toEqual([]);
  });
  it('an option that would have no effect is refused', async () => {
    for (const args of [
      ['check', 'tin.obj', '--outward', '3'],
      // As it was called before.
      ['check', 'tin.obj', '--front=3'],
      ['unwrap', 'tin.obj', '-o', 'x.glb', '--bits', '16'],
      ['simplify', 'tin.obj', '-o', 'x.glb', '--triangles', '40', '--keep'],
      ['solve', 'tin.obj', '--unit', 'cm'],
    ]) {
      const { code, err } = await run(...args);
      expect(code).toBe(2);
      expect(err).toMatch(new RegExp(`^wellmorph: ${args[0]} has no option --\\w+; see wellmorph help ${args[0]}\\.\n$`));
    }
    expect(await readdir(dir)).not.toContain('x.glb');
  });
});

describe('from one command to the next', () => {
  it('reads standard input as what it is, and writes standard output', async () => {
    const input = new TextEncoder().encode(tinLow());
    const asFile = JSON.parse((await run('check', 'tin.obj', '--json')).out);
    const piped = JSON.parse((await ran(['check', '-', '--json'], { input })).out);
    expect({ ...piped, file: 'tin.obj' }).toEqual(asFile);
    const laid = await ran(['unwrap', '-', '-o', '-', '--size', '128'], { input });
    expect(laid.code).toBe(0);
    expect(laid.err).toMatch(/islands, stretch/);
    expect(laid.bytes.subarray(0, 4).toString()).toBe('glTF');
    const again = await ran(['check', '-', '--json'], { input: laid.bytes });
    expect(JSON.parse(again.out).triangles).toBe(asFile.triangles);
    const archive = await ran(['export', '-', '-o', '-', '--size', '64', '--quiet'], { input: laid.bytes });
    expect([archive.code, archive.err]).toEqual([0, '']);
    expect(Object.keys(unzipSync(new Uint8Array(archive.bytes)))).toContain('standard-input.glb');
    expect((await ran(['bake', '--low', '-', '--high', '-', '-o', 'm'], { input })).err).toMatch(/can only be one of the files/);
  });
  it('is quiet where that is asked for', async () => {
    expect(await run('check', 'tin.obj', '--quiet')).toMatchObject({ code: 0, out: '', err: '' });
    const told = await run('simplify', 'tin.obj', '-o', 'lean.glb', '--triangles', '60', '--quiet', '--json');
    expect(told.err).toBe('');
    expect(JSON.parse(told.out).triangles).toBeLessThanOrEqual(60);
  });
  it('files of a folder are called by their way from it; each that can’t be read is told, also to build servers', async () => {
    const { code, out } = await run('check', 'models', '--json', '--junit', 'r.xml');
    expect(code).toBe(1);
    expect(JSON.parse(out).files.map((f: { file: string }) => f.file)).toEqual(['broken.glb', 'broken.obj', 'inner/tin.obj']);
    expect((await readFile(at('r.xml'), 'utf8')).match(/name="can be read"/g)).toHaveLength(2);
    const rows = (await run('check', 'models')).out.split('\n');
    const triangles = JSON.parse((await run('check', 'tin.obj', '--json')).out).triangles;
    // Triangles are in the table without a limit of them.
    expect(rows.find((r) => r.includes('inner/tin.obj'))).toMatch(new RegExp(`\\s${triangles}\\s`));
    // One file alone that can't be read ends with 2, and is in the report as well.
    const one = await run('check', 'broken.obj', '--junit', 'one.xml');
    expect(one.code).toBe(2);
    expect(await readFile(at('one.xml'), 'utf8')).toMatch(/<testsuite name="broken\.obj" tests="1" failures="1">/);
  });
  it('where it can’t write it says so before it works, and leaves what was there', async () => {
    await writeFile(at('taken.png'), 'as it was');
    for (const args of [
      ['render', 'broken.obj', '-o', 'nowhere/x.png'],
      ['simplify', 'broken.obj', '-o', 'nowhere/x.glb', '--triangles', '9'],
      ['export', 'broken.obj', '-o', 'tin.obj/x.zip'],
      ['bake', '--low', 'broken.obj', '--high', 'broken.obj', '-o', 'taken.png'],
      ['check', 'broken.obj', '--junit', 'nowhere/r.xml'],
    ]) {
      const { code, err } = await run(...args);
      // What is wrong with the model would have been said later.
      expect([code, err]).toEqual([2, expect.stringMatching(/ was not written: /)]);
    }
    expect((await run('render', 'broken.obj', '-o', 'taken.png')).err).toMatch(/Line 2/);
    expect(await readFile(at('taken.png'), 'utf8')).toBe('as it was');
    expect((await readdir(dir)).filter((f) => f.endsWith('.part'))).toEqual([]);
  });
  it('equal input gives equal bytes: the day it is made is told from outside', async () => {
    const epoch = { SOURCE_DATE_EPOCH: '1700000000' };
    const make = async (name: string, env: Record<string, string>) => {
      expect((await ran(['export', 'tin.obj', '-o', name, '--size', '64', '--quiet'], { env })).code).toBe(0);
      return readFile(at(name));
    };
    const [a, b, c] = [await make('a.zip', epoch), await make('b.zip', epoch), await make('c.zip', { SOURCE_DATE_EPOCH: '1600000000' })];
    expect(a.equals(b)).toBe(true);
    expect(a.equals(c)).toBe(false);
    expect(Buffer.from(unzipSync(new Uint8Array(a))['tin_spec-sheet.html']).toString()).toContain('2023-11-14');
    const bad = await ran(['export', 'tin.obj', '-o', 'd.zip', '--size', '64'], { env: { SOURCE_DATE_EPOCH: 'now' } });
    expect([bad.code, bad.err]).toEqual([2, expect.stringMatching(/SOURCE_DATE_EPOCH is now; it has to be whole seconds/)]);
  });
});

describe('what corners carry', () => {
  const attributes = async (name: string) => {
    const document = await new WebIO().readBinary(new Uint8Array(await readFile(at(name))));
    const [primitive] = document.getRoot().listMeshes()[0].listPrimitives();
    return { names: primitive.listSemantics().sort(), get: (s: string) => primitive.getAttribute(s) };
  };
  it('stays through simplifying and unwrapping; only the first layout is new, and there are no tangents for nothing', async () => {
    await run('simplify', 'drum.glb', '-o', 'drum-lean.glb', '--triangles', '40', '--quiet');
    await run('unwrap', 'drum.glb', '-o', 'drum-laid.glb', '--size', '128', '--padding', '4', '--quiet');
    for (const name of ['drum-lean.glb', 'drum-laid.glb']) {
      const { names, get } = await attributes(name);
      expect(names).toEqual(['COLOR_0', 'NORMAL', 'POSITION', 'TEXCOORD_0', 'TEXCOORD_1']);
      const [uv2, colour] = [get('TEXCOORD_1'), get('COLOR_0')];
      for (let v = 0; v < (uv2?.getCount() ?? 0); v++) {
        // As they were made: the second layout a part of the first, and the colour its coordinates.
        const [s, t]: number[] = uv2?.getElement(v, []) ?? [];
        const [r, g, b]: number[] = colour?.getElement(v, []) ?? [];
        expect(s).toBeCloseTo(0.5 * r, 5);
        expect(t).toBeCloseTo(0.25 * g, 5);
        expect(b).toBeCloseTo(0.25, 5);
      }
    }
    const firsts = await Promise.all(['drum-lean.glb', 'drum-laid.glb'].map(async (n) => (await attributes(n)).get('TEXCOORD_0')));
    expect(Math.max(...(firsts[0]?.getArray() ?? []))).toBeCloseTo(0.9, 5);
    expect(Math.max(...(firsts[1]?.getArray() ?? []))).toBeGreaterThan(0.9);
  });
  it('vertices are counted as the file has them; what is written shares them', async () => {
    const count = async (name: string) => JSON.parse((await run('check', name, '--json')).out).gpuVertices;
    // Twelve triangles four times over, none of their corners shared.
    expect(await count('drum.glb')).toBe(144);
    await run('unwrap', 'drum.glb', '-o', 'shared.glb', '--size', '128', '--padding', '4', '--keep', '--quiet');
    const shared = await count('shared.glb');
    expect(shared).toBeLessThan(70);
    expect((await attributes('shared.glb')).get('POSITION')?.getCount()).toBe(shared);
  });
  it('a layout can be kept and packed anew; hard edges are those above an angle', async () => {
    const islands = async (...more: string[]) => {
      const { code, out } = await run('unwrap', 'drum.glb', '-o', 'i.glb', '--size', '256', '--padding', '4', '--json', ...more);
      const json = JSON.parse(out) as { islands: number; folds: number; overlapTexels: number };
      expect([code, json.folds, json.overlapTexels]).toEqual([0, 0, 0]);
      return json.islands;
    };
    // The wall and two caps, as they are cut; sides that turn by 30° apart; all in one but the caps.
    expect(await islands('--keep')).toBe(3);
    expect(await islands('--angle', '20')).toBe(14);
    expect(await islands('--angle', '60')).toBeLessThan(6);
    expect(await islands('--whole', '--angle', '60')).toBeLessThanOrEqual(await islands('--angle', '60'));
    // A drum is seen all round: nothing of it has less.
    expect(await islands('--unseen', '0.5', '--fewer=-1')).toBeGreaterThan(0);
    const second = await run('unwrap', 'drum.glb', '-o', 'two.glb', '--size', '256', '--padding', '4', '--second', '128', '--twins');
    expect(second.out).toMatch(/^Second layout: \d+ islands, .* % covered, \d+ texels apart\.$/m);
    expect((await attributes('two.glb')).get('TEXCOORD_1')).not.toBeNull();
    expect((await run('unwrap', 'drum.glb', '-o', 'i.glb', '--unseen', '3')).err).toMatch(/--unseen is 3; it can be 0\.1 to 1/);
    expect((await run('unwrap', 'drum.glb', '-o', 'i.glb', '--angle', 'steep')).err).toMatch(
      /--angle is steep; it can be 1 to 180 degrees/,
    );
  });
});

describe('wellmorph bake, with its options', () => {
  it('bakes sixteen bits, within a reach, pairs as it is told', async () => {
    await run('unwrap', 'tin.obj', '-o', 'tin.glb', '--size', '128', '--padding', '4', '--quiet');
    const bake = (folder: string, ...more: string[]) =>
      run('bake', '--low', 'tin.glb', '--high', 'tin-high.obj', '-o', folder, '--size', '64', '--samples', '1', '--quiet', ...more);
    await writeFile(at('pairs.json'), JSON.stringify({ Body: 'Body' }));
    expect(await bake('deep', '--bits', '16', '--pairs', 'pairs.json')).toMatchObject({ code: 0 });
    // Several for one part are one that it is baked from: with the lid alone the body has far to search.
    const reaches = async (high: string | string[]) => {
      await writeFile(at('dense.json'), JSON.stringify({ Body: high }));
      const { out } = await bake('dense', '--pairs', 'dense.json', '--json');
      const { distances } = JSON.parse(out) as { distances: { part: string; rearMm: number; frontMm: number }[] };
      const body = distances.find((d) => d.part === 'Body');
      return Math.max(body?.rearMm ?? 0, body?.frontMm ?? 0);
    };
    const [body, lid] = [await reaches('Body'), await reaches('Lid')];
    expect(lid).toBeGreaterThan(2 * body);
    expect(await reaches(['Body'])).toBe(body);
    expect(await reaches(['Lid', 'Body'])).toBeLessThan(1.5 * body);
    expect(await bake('near', '--reach', '0.5')).toMatchObject({ code: 0 });
    const png = async (path: string) => decodePng(new Uint8Array(await readFile(at(path))));
    expect((await png('deep/tin_normal.png')).depth).toBe(16);
    expect((await png('near/tin_normal.png')).depth).toBe(8);
    const mean = (p: Awaited<ReturnType<typeof png>>) => {
      const shift = p.depth === 16 ? 257 : 1;
      let sum = 0;
      for (const x of p.data) sum += x;
      return sum / shift / p.data.length;
    };
    // What is farther off than half a millimetre no longer darkens.
    expect(mean(await png('near/tin_occlusion.png'))).toBeGreaterThan(mean(await png('deep/tin_occlusion.png')));
    for (const [pairs, words] of [
      [{ Bodkin: 'Body' }, /low model has no part “Bodkin”/],
      [{ Body: 'Bodkin' }, /high model has no part “Bodkin”/],
      [['Body'], /one JSON object of names/],
    ] as const) {
      await writeFile(at('wrong.json'), JSON.stringify(pairs));
      expect((await bake('wrong', '--pairs', 'wrong.json')).err).toMatch(words);
    }
    expect((await bake('wrong', '--bits', '12')).err).toMatch(/can be 8 or 16/);
    // Nothing of what failed is there, not even its folder.
    await expect(stat(at('wrong'))).rejects.toThrow();
  });
});
