import { mkdir, mkdtemp, readdir, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { Ajv2020 } from 'ajv/dist/2020.js';
import { unzipSync } from 'fflate';
import validator from 'gltf-validator';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { decodePng } from '../../core/src/image/png';
import { StepFile } from '../../core/test/step-files';
import { ventilator } from '../../demo/src/gallery';
import { TIN_MTL, tinHigh, tinLow } from '../../demo/src/tin';
import { ranIn } from '../test/run';
import { writeWhole } from './write';

let dir: string;
const at = (name: string) => join(dir, name);
const ran = ranIn(() => dir);
const run = (...args: string[]) => ran(args);

async function follows(schema: string, json: string): Promise<Record<string, never>> {
  const check = new Ajv2020({ allErrors: true }).compile(
    JSON.parse(await readFile(resolve(import.meta.dirname, `../schemas/${schema}.schema.json`), 'utf8')),
  );
  const value = JSON.parse(json);
  check(value);
  expect(check.errors ?? []).toEqual([]);
  return value;
}

/** A triangle with a base colour texture of the given base64. */
function texturedGltf(image: string): string {
  const floats = (...x: number[]) => Buffer.from(new Float32Array(x).buffer);
  const buffer = Buffer.concat([floats(0, 0, 0, 1, 0, 0, 0, 1, 0), floats(0, 0, 1, 0, 0, 1)]);
  return JSON.stringify({
    asset: { version: '2.0' },
    buffers: [{ byteLength: buffer.length, uri: `data:application/octet-stream;base64,${buffer.toString('base64')}` }],
    bufferViews: [
      { buffer: 0, byteLength: 36 },
      { buffer: 0, byteOffset: 36, byteLength: 24 },
    ],
    accessors: [
      { bufferView: 0, componentType: 5126, count: 3, type: 'VEC3', min: [0, 0, 0], max: [1, 1, 0] },
      { bufferView: 1, componentType: 5126, count: 3, type: 'VEC2' },
    ],
    images: [{ uri: `data:image/png;base64,${image}` }],
    textures: [{ source: 0 }],
    materials: [{ pbrMetallicRoughness: { baseColorTexture: { index: 0 } } }],
    meshes: [{ primitives: [{ attributes: { POSITION: 0, TEXCOORD_0: 1 }, material: 0 }] }],
    nodes: [{ mesh: 0 }],
    scenes: [{ nodes: [0] }],
  });
}

beforeAll(async () => {
  dir = await mkdtemp(join(tmpdir(), 'wellmorph-cli-'));
  await writeFile(at('tin.obj'), tinLow());
  await writeFile(at('tin-high.obj'), tinHigh());
  await writeFile(at('biscuit-tin.mtl'), TIN_MTL);
  await writeFile(at('open.obj'), 'v 0 0 0\nv 10 0 0\nv 0 10 0\nv 0 0 10\nf 1 2 3\nf 1 2 4\n');
  await writeFile(at('bad-texture.gltf'), texturedGltf('bm90IGEgcGljdHVyZSBhdCBhbGwsIG9ubHkgd29yZHM='));
  await writeFile(at('missing-texture.gltf'), texturedGltf('AAAA').replace('"source":0', '"source":3'));
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
  it('looks at one triangle as at anything else', async () => {
    await writeFile(at('one.obj'), 'v 0 0 0\nv 10 0 0\nv 0 0 10\nf 1 3 2\n');
    const { code, out } = await run('check', 'one.obj', '--json');
    expect([code, JSON.parse(out).triangles]).toEqual([0, 1]);
    // What is open has no volume.
    expect(JSON.parse(out).parts[0].volumeMm3).toBeNull();
  });
  it('reads a glTF with the files that lie beside it, and none from elsewhere', async () => {
    const floats = Buffer.from(new Float32Array([0, 0, 0, 0, 0, 0.01, 0.01, 0, 0]).buffer);
    const gltf = (uri: string) =>
      JSON.stringify({
        asset: { version: '2.0' },
        buffers: [{ byteLength: 36, uri }],
        bufferViews: [{ buffer: 0, byteLength: 36 }],
        accessors: [{ bufferView: 0, componentType: 5126, type: 'VEC3', count: 3, min: [0, 0, 0], max: [0.01, 0, 0.01] }],
        meshes: [{ name: 'Flag', primitives: [{ attributes: { POSITION: 0 } }] }],
        nodes: [{ mesh: 0, scale: [2, 2, 2] }],
        scenes: [{ nodes: [0] }],
      });
    await mkdir(at('flag'), { recursive: true });
    await writeFile(at('flag/flag data.bin'), floats);
    await writeFile(at('flag/flag.gltf'), gltf('flag%20data.bin'));
    await writeFile(at('flag/thief.gltf'), gltf('../flag/../../etc/passwd'));
    await writeFile(at('flag/lost.gltf'), gltf('lost.bin'));
    const { out } = await run('check', 'flag/flag.gltf', '--json');
    // In metres, and twice as large by its node.
    expect(JSON.parse(out).sizeMm.map((x: number) => Math.round(x * 1e4) / 1e4)).toEqual([20, 0, 20]);
    expect(JSON.parse(out).notes.join()).toMatch(/A scale on the nodes, of 2, was applied/);
    for (const name of ['thief', 'lost']) {
      const { code, err } = await run('check', `flag/${name}.gltf`);
      expect([code, err]).toEqual([2, expect.stringMatching(/lie in another file, “.+”: it has to be brought along/)]);
    }
  });
  it('reads PLY and STL; a count that lies is one sentence', async () => {
    const at3 = ['0 0 0', '10 0 0', '0 10 0', '0 0 10'];
    const sides = [
      [0, 2, 1],
      [0, 1, 3],
      [0, 3, 2],
      [1, 2, 3],
    ];
    const head = `ply\nformat ascii 1.0\nelement vertex 4\nproperty float x\nproperty float y\nproperty float z\nelement face 4\nproperty list uchar int vertex_indices\nend_header\n`;
    await writeFile(at('corner.ply'), `${head}${at3.join('\n')}\n${sides.map((f) => `3 ${f.join(' ')}\n`).join('')}`);
    const facet = (f: number[]) => `facet normal 0 0 0\nouter loop\n${f.map((v) => `vertex ${at3[v]}\n`).join('')}endloop\nendfacet\n`;
    await writeFile(at('corner.stl'), `solid corner\n${sides.map(facet).join('')}endsolid\n`);
    for (const [file, scale] of [
      ['corner.ply', 1],
      ['corner.stl', 10],
    ] as const) {
      const { code, out } = await run('check', file, '--unit', scale === 10 ? 'cm' : 'mm', '--json');
      expect(code).toBe(0);
      const [part] = JSON.parse(out).parts;
      expect([part.name, part.watertight]).toEqual(['corner', true]);
      // A sixth of the cube on its three edges.
      expect(part.volumeMm3).toBeCloseTo((10 * scale) ** 3 / 6, 6);
    }
    await writeFile(at('lies.stl'), new Uint8Array(84 + 50).fill(9, 80, 84));
    const { code, err } = await run('check', 'lies.stl');
    expect(code).toBe(2);
    expect(err).toMatch(/The STL says it has \d+ triangles and has room for 1\./);
  });
  it('reads STEP, cut as finely as it is told, upright; a broken one is one sentence', async () => {
    const file = new StepFile().cone('Pin', 5, 5, 20).bytes();
    await writeFile(at('pin.step'), file);
    const counts: number[] = [];
    for (const tolerance of ['0.5', '0.02']) {
      const { code, out } = await run('check', 'pin.step', '--tolerance', tolerance, '--json');
      expect(code).toBe(0);
      const {
        parts: [part],
        sizeMm,
      } = JSON.parse(out);
      expect([part.name, part.watertight]).toEqual(['Pin', true]);
      // What stands along z in it stands along y.
      expect(sizeMm[1]).toBeCloseTo(20, 6);
      expect(Math.abs(part.volumeMm3 - Math.PI * 500)).toBeLessThan(Number(tolerance) * 2 * Math.PI * 125);
      counts.push(part.triangles);
    }
    expect(counts[1]).toBeGreaterThan(counts[0]);
    await writeFile(at('half.step'), file.slice(0, file.length / 2));
    const { code, err } = await run('check', 'half.step');
    expect([code, err]).toEqual([2, expect.stringContaining('The STEP file ends before its data does.')]);
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

describe('wellmorph check with limits', () => {
  const limits = async (name: string, value: unknown) => writeFile(at(name), typeof value === 'string' ? value : JSON.stringify(value));
  it('tells each limit beside what was measured; a finding that is allowed doesn’t fail', async () => {
    await limits('strict.json', { triangles: 100, gpuVertices: 9000, drawCalls: 10, memoryMB: 1 });
    const strict = await run('check', 'tin.obj', '--limits', 'strict.json', '--json');
    expect(strict.code).toBe(1);
    const json = (await follows('check', strict.out)) as unknown as {
      limits: { what: string; value: number; kept: boolean }[];
      triangles: number;
    };
    expect(json.limits.map((l) => [l.what, l.kept])).toEqual([
      ['triangles', false],
      ['vertices on the card', true],
      ['draws', true],
      ['texture memory', true],
    ]);
    expect(json.limits[0].value).toBe(json.triangles);
    await limits('allow.json', { allow: ['winding', 'open-rim', 'inward', 'non-manifold'] });
    expect((await run('check', 'open.obj')).code).toBe(1);
    const allowed = await run('check', 'open.obj', '--limits', 'allow.json');
    expect(allowed.out).toContain('(allowed)');
    expect(allowed.code).toBe(0);
    // What is only a warning fails where that is asked for.
    await limits('warned.json', { allow: ['winding', 'open-rim', 'inward', 'non-manifold'], failOn: 'warning' });
    expect((await run('check', 'open.obj', '--limits', 'warned.json')).code).toBe(1);
  });
  it('a density is that of the file’s own layout at the texture size', async () => {
    await run('unwrap', 'tin.obj', '-o', 'laid.glb', '--size', '512', '--padding', '4');
    const at512 = JSON.parse((await run('unwrap', 'tin.obj', '-o', 'laid.glb', '--size', '512', '--padding', '4', '--json')).out) as {
      density: number;
    };
    await limits('dense.json', { densityPxPerCm: at512.density * 0.99, textureSize: 512 });
    expect((await run('check', 'laid.glb', '--limits', 'dense.json')).code).toBe(0);
    await limits('denser.json', { densityPxPerCm: at512.density * 1.1, textureSize: 512 });
    const over = await run('check', 'laid.glb', '--limits', 'denser.json');
    expect(over.code).toBe(1);
    expect(over.out).toMatch(/under: density, [\d.]+ px\/cm, under the least of/);
  });
  it('looks at many files and folders, also when one can’t be read, and writes a report for build servers', async () => {
    await mkdir(at('models/inner'), { recursive: true });
    await writeFile(at('models/tin.obj'), tinLow());
    await writeFile(at('models/inner/open & shut.obj'), 'v 0 0 0\nv 10 0 0\nv 0 10 0\nv 0 0 10\nf 1 2 3\nf 1 2 4\n');
    await writeFile(at('models/inner/broken.obj'), 'v 0 0 0\nf 1 2 3\n');
    await writeFile(at('models/notes.txt'), 'not a model');
    const { code, out } = await run('check', 'models', 'tin.obj', '--junit', 'report.xml', '--json');
    expect(code).toBe(1);
    const json = (await follows('check-many', out)) as unknown as { files: { file: string; unreadable?: string }[] };
    expect(json.files).toHaveLength(4);
    expect(json.files.filter((f) => f.unreadable)).toHaveLength(1);
    const xml = await readFile(at('report.xml'), 'utf8');
    expect(xml.match(/<testsuite /g)).toHaveLength(4);
    expect(xml).toContain('open &amp; shut.obj');
    expect(xml).toMatch(/<testcase [^>]*name="can be read">\s*<failure message="Line 2 of the OBJ/);
    expect(xml).toMatch(/<testsuite name="tin.obj" tests="1" failures="0">/);
    const told = await run('check', 'models', 'tin.obj');
    expect(told.out).toContain('2 of 4 files don’t pass.');
  });
  it('refuses limits that are none, in a sentence', async () => {
    for (const [value, words] of [
      ['{', /is no JSON/],
      [[], /one JSON object/],
      [{ triangle: 4 }, /“triangle” is no limit; there are triangles/],
      [{ triangles: -1 }, /limit triangles has to be a number above 0/],
      [{ allow: 'all' }, /list of kinds/],
      [{ failOn: 'never' }, /"error" or "warning"/],
      [{ densityPxPerCm: 20 }, /say textureSize too/],
    ] as const) {
      await limits('bad.json', value);
      const { code, err } = await run('check', 'tin.obj', '--limits', 'bad.json');
      expect(code).toBe(2);
      expect(err).toMatch(words);
    }
    expect((await run('check', 'tin.obj', '--limits', 'gone.json')).err).toMatch(/can’t be opened/);
    await mkdir(at('empty'), { recursive: true });
    expect((await run('check', 'empty')).err).toMatch(/There is no model in “empty”/);
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
  it('bake a part from itself, its edges rounded, with further maps and what their ends stand for', async () => {
    await run('unwrap', 'tin.obj', '-o', 'alone.glb', '--size', '128', '--padding', '4');
    const maps = ['--maps', 'normal,thickness,id', '--round', '0.5', '--size', '128', '--samples', '1', '--json'];
    const ba = await run('bake', '--low', 'alone.glb', '-o', 'own', ...maps);
    expect(ba.code).toBe(0);
    const made = (await follows('bake', ba.out)) as unknown as {
      missedPercent: number;
      ranges: { thickness: { from: number[]; to: number[] } };
    };
    expect(made.missedPercent).toBeLessThan(0.1);
    expect(made.ranges.thickness).toEqual({ from: [0], to: [20] });
    expect((await readdir(at('own'))).sort()).toEqual([
      'alone_id.json',
      'alone_id.png',
      'alone_normal.png',
      'alone_thickness.exr',
      'alone_thickness.png',
    ]);
  });
});

describe('wellmorph render', () => {
  it('lights, frames and traces a model; follows its schema; the same bytes for one thread and two, others for another seed', async () => {
    const args = ['tin.obj', '--size', '48x40', '--samples', '4', '--json'];
    const [one, two, other] = [
      await run('render', ...args, '-o', 'one.png', '--threads', '1'),
      await run('render', ...args, '-o', 'two.png', '--threads', '2'),
      await run('render', ...args, '-o', 'other.png', '--threads', '2', '--seed', '9'),
    ];
    expect([one.code, two.code, other.code]).toEqual([0, 0, 0]);
    const json = (await follows('render', one.out)) as unknown as { noise: number; samples: number; width: number; watts: { key: number } };
    expect([json.width, json.samples]).toEqual([48, 4]);
    expect(json.noise).toBeGreaterThan(0);
    expect(json.watts.key).toBeGreaterThan(0);
    const bytes = await Promise.all(['one.png', 'two.png', 'other.png'].map((f) => readFile(at(f))));
    expect(bytes[0].equals(bytes[1])).toBe(true);
    expect(bytes[0].equals(bytes[2])).toBe(false);
    const picture = decodePng(new Uint8Array(bytes[0]));
    expect([picture.width, picture.height]).toEqual([48, 40]);
    // The painted tin stands in the middle and is red; the paper in the corner is not.
    const pixel = (x: number, y: number) => [...picture.data.slice(4 * (48 * y + x), 4 * (48 * y + x) + 3)];
    const tin = pixel(24, 24);
    expect(tin[0]).toBeGreaterThan(tin[1] + 25);
    const paper = pixel(2, 37);
    expect(Math.max(...paper) - Math.min(...paper)).toBeLessThan(40);
    expect((await readdir(dir)).filter((f) => f.endsWith('.part'))).toEqual([]);
  }, 120_000);
});

describe('a picture of our own GLB, textures and all', () => {
  it('looks like the picture of the file it was made from', async () => {
    await run('export', 'tin.obj', '-o', 'again.zip', '--size', '128');
    const files = unzipSync(new Uint8Array(await readFile(at('again.zip'))));
    await writeFile(at('own.glb'), files['tin.glb']);
    const shared = ['--size', '40x32', '--samples', '16', '--threads', '2'];
    const made = [await run('render', 'tin.obj', '-o', 'a.png', ...shared), await run('render', 'own.glb', '-o', 'b.png', ...shared)];
    expect(made.map((m) => m.code)).toEqual([0, 0]);
    const [a, b] = await Promise.all(['a.png', 'b.png'].map(async (f) => decodePng(new Uint8Array(await readFile(at(f))))));
    const mean = (p: typeof a, k: number) => [...p.data].reduce((sum, x, i) => (i % 4 === k ? sum + x : sum), 0) / (p.data.length / 4);
    // The same colours through 8-bit textures: noise and rounding are all that differs.
    for (const k of [0, 1, 2]) expect(Math.abs(mean(a, k) - mean(b, k))).toBeLessThan(3);
  }, 120_000);
});

describe('wellmorph export', () => {
  it('makes one archive with everything in it, and its GLB is read again with the same figures', async () => {
    const { code, out } = await run('export', 'tin.obj', '-o', 'tin.zip', '--size', '128', '--json');
    expect(code).toBe(0);
    const json = (await follows('export', out)) as unknown as {
      files: { name: string; bytes: number }[];
      preflight: { id: string }[];
      notCarried: string[];
    };
    const files = unzipSync(new Uint8Array(await readFile(at('tin.zip'))));
    expect(Object.keys(files).sort()).toEqual(json.files.map((f) => f.name).sort());
    for (const f of json.files) expect(files[f.name].length).toBe(f.bytes);
    for (const name of ['tin.glb', 'tin.obj', 'tin.mtl', 'tin_layout.svg', 'tin_spec-sheet.html', 'textures/tin_basecolor.png'])
      expect(files[name], name).toBeDefined();
    expect(json.preflight.map((l) => l.id)).toEqual(
      expect.arrayContaining(['untouched', 'licence', 'stale-bake'].filter((x) => x !== 'stale-bake')),
    );
    expect(json.notCarried.join(' ')).toMatch(/no unit/);
    const report = await validator.validateBytes(files['tin.glb']);
    expect(report.issues.numErrors + report.issues.numWarnings).toBe(0);
    await writeFile(at('again.glb'), files['tin.glb']);
    const [a, b] = [JSON.parse((await run('check', 'tin.obj', '--json')).out), JSON.parse((await run('check', 'again.glb', '--json')).out)];
    expect(b.parts.map((p: { name: string }) => p.name)).toEqual(a.parts.map((p: { name: string }) => p.name));
    for (const [i, p] of a.parts.entries()) expect(b.parts[i].volumeMm3 / p.volumeMm3).toBeCloseTo(1, 5);
  }, 60_000);
  it('a full disk or a folder that isn’t there leaves nothing behind', async () => {
    const gone = await run('export', 'tin.obj', '-o', 'nowhere/tin.zip', '--size', '64');
    expect([gone.code, gone.out]).toEqual([2, '']);
    expect(gone.err).toMatch(/folder is not there. Nothing is left of it/);
    // A device that is always full.
    await expect(writeWhole('/dev/full/x.zip', new Uint8Array(8))).rejects.toThrow(/was not written/);
    expect((await readdir(dir)).filter((f) => f.endsWith('.part'))).toEqual([]);
  }, 60_000);
});

describe('input that can’t be used ends with 2, one sentence, no stack', () => {
  it.each([
    [['check', 'nothing.obj'], /can’t be opened/],
    [['check', 'broken.obj'], /Line 2/],
    [['check', 'tin.obj', '--unit', 'furlong'], /it can be mm, cm, m or in/],
    [['check'], /takes files or folders/],
    [['check', 'tin.obj', '--limit-triangles', 'many'], /whole number/],
    [['unwrap', 'tin.obj'], /ends in \.glb/],
    [['unwrap', 'tin.obj', '-o', 'x.glb', '--size', '3'], /from 64 to 8192/],
    [['bake', '--low', 'tin.obj', '--high', 'tin-high.obj', '-o', 'm'], /has no layout/],
    [['bake', '--high', 'tin.obj'], /needs --low/],
    [['bake', '--low', 'tin.obj', '--high', 'tin-high.obj', '-o', 'm', '--outward', '1'], /go together/],
    [['render', 'tin.obj'], /ends in \.png/],
    [['render', 'tin.obj', '-o', 'x.png', '--size', 'large'], /like 512x512/],
    [['render', 'tin.obj', '-o', 'x.png', '--threads', '0'], /from 1 to 64/],
    [['render', 'bad-texture.gltf', '-o', 'x.png'], /not a PNG, JPEG, WebP or KTX2 picture/],
    [['render', 'missing-texture.gltf', '-o', 'x.png'], /names a picture that is not in it/],
    [['export', 'tin.obj', '-o', 'x.tar'], /ends in \.zip/],
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

describe('wellmorph simplify', () => {
  it('brings a model down to a number, measures what that cost, and writes a valid file', async () => {
    const { code, out, err } = await run('simplify', 'tin-high.obj', '-o', 'lean.glb', '--triangles', '1500', '--json');
    expect(err).not.toMatch(/wellmorph:/);
    expect(code).toBe(0);
    const json = (await follows('simplify', out)) as unknown as {
      triangles: number;
      parts: { from: number; to: number; mostMm: number; meanMm: number }[];
    };
    expect(json.triangles).toBeLessThanOrEqual(1500);
    expect(json.triangles).toBeGreaterThan(1200);
    for (const p of json.parts) {
      expect(p.to).toBeLessThan(p.from);
      expect(p.meanMm).toBeLessThan(p.mostMm);
      // The tin is 200 mm wide: a hundredth of that would show.
      expect(p.mostMm).toBeLessThan(2);
    }
    const report = await validator.validateBytes(new Uint8Array(await readFile(at('lean.glb'))));
    expect(report.issues.numErrors).toBe(0);
    const again = await run('check', 'lean.glb', '--json');
    expect((JSON.parse(again.out) as { triangles: number }).triangles).toBe(json.triangles);
    // Fewer triangles lie farther off.
    const coarse = JSON.parse(
      (await run('simplify', 'tin-high.obj', '-o', 'coarse.glb', '--triangles', '300', '--json')).out,
    ) as typeof json;
    expect(Math.max(...coarse.parts.map((p) => p.mostMm))).toBeGreaterThan(Math.max(...json.parts.map((p) => p.mostMm)));
  });
  it('says what it needs and what can’t be', async () => {
    for (const [args, words] of [
      [['tin.obj', '-o', 'x.obj', '--triangles', '100'], /ends in .glb/],
      [['tin.obj', '-o', 'x.glb'], /needs --triangles/],
      [['tin.obj', '-o', 'x.glb', '--triangles', '3.5'], /whole number/],
      [['tin-high.obj', '-o', 'x.glb', '--triangles', '4'], /too few: the model takes/],
      [['broken.obj', '-o', 'x.glb', '--triangles', '100'], /Line 2 of the OBJ/],
    ] as const) {
      const { code, err } = await run('simplify', ...args);
      expect(code).toBe(2);
      expect(err).toMatch(words);
    }
    expect(await readdir(dir)).not.toContain('x.glb');
  });
});

describe('wellmorph solve', () => {
  it('spends a number of triangles on a recipe, says on what, and writes it so that it passes its check', async () => {
    await writeFile(at('ventilator.json'), JSON.stringify(ventilator()));
    const { code, out } = await run('solve', 'ventilator.json', '--triangles', '2500', '-o', 'solved.asset.zip', '--json');
    expect(code).toBe(0);
    const json = (await follows('solve', out)) as unknown as {
      triangles: number;
      worstMm: number;
      tenthMoreMm: number;
      counts: { label: string; count: number; errorMm: number }[];
    };
    expect(json.triangles).toBeLessThanOrEqual(2500);
    expect(json.triangles).toBeGreaterThan(2250);
    expect(json.worstMm).toBe(Math.max(...json.counts.map((c) => c.errorMm)));
    expect(json.tenthMoreMm).toBeLessThanOrEqual(json.worstMm);
    const checked = JSON.parse((await run('check', 'solved.asset.zip', '--json')).out) as {
      triangles: number;
      findings: { severity: string }[];
    };
    expect(checked.triangles).toBe(json.triangles);
    expect(checked.findings.filter((f) => f.severity === 'error')).toEqual([]);
    expect((await run('solve', 'ventilator.json')).out).toMatch(/of 1.800 triangles; at most/);
  });
  it('says when it can’t be kept, and writes nothing then', async () => {
    const { code, out } = await run('solve', 'ventilator.json', '--triangles', '100', '-o', 'never.asset.zip');
    expect(code).toBe(1);
    expect(out).toMatch(/can’t be kept: the piece takes/);
    expect(await readdir(dir)).not.toContain('never.asset.zip');
  });
  it('says what it needs', async () => {
    for (const [args, words] of [
      [[], /takes one asset file/],
      [['ventilator.json', '-o', 'x.glb'], /has to end in it/],
      [['ventilator.json', '--triangles', '0'], /whole number/],
      [['tin.obj'], /no readable asset/],
      [['gone.json'], /can’t be opened/],
    ] as const) {
      const { code, err } = await run('solve', ...args);
      expect(code).toBe(2);
      expect(err).toMatch(words);
    }
  });
});

describe('wellmorph check on an asset file', () => {
  it('takes the longer look, waivers and wanted relations along', async () => {
    const document = ventilator();
    const wanted = {
      ...document,
      relations: [{ id: 'r', a: document.parts[0].id, b: document.parts[1].id, wanted: 'gap' as const, mm: 90, tolerance: 0.1 }],
    };
    await writeFile(at('wanted.json'), JSON.stringify(wanted));
    const { code, out } = await run('check', 'wanted.json', '--json');
    expect(code).toBe(1);
    const json = (await follows('check', out)) as unknown as {
      findings: { id: string; kind: string; value: number; severity: string; waived?: string }[];
      neighbours: { a: string; met?: boolean }[];
    };
    expect(json.neighbours.some((n) => n.met === false)).toBe(true);
    expect(json.findings.some((f) => f.kind === 'hidden')).toBe(true);
    const relation = json.findings.find((f) => f.kind === 'relation');
    expect(relation?.severity).toBe('error');
    const waived = { ...wanted, waivers: [{ finding: relation?.id, reason: 'it is as it is', value: relation?.value }] };
    await writeFile(at('waived.json'), JSON.stringify(waived));
    const told = await run('check', 'waived.json');
    expect(told.code).toBe(0);
    expect(told.out).toContain('(meant: it is as it is)');
  });
});
