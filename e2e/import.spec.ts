import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { TIN_MTL, tinHigh, tinLow } from '../demo/src/tin';
import { expect, test } from './fixtures';
import { archiveOf, bringIn, compose, downloads, picture, saved, settled, station, validGlb } from './helpers';
import { lifeRing } from './life-ring';

const file = (name: string, content: string | Buffer) => ({ name, mimeType: 'application/octet-stream', buffer: Buffer.from(content) });

/** A block of twelve triangles as STL text. */
function block(size: number): string {
  const at = (i: number) => [i & 1, (i >> 1) & 1, i >> 2].map((x) => x * size).join(' ');
  const sides = [
    [0, 2, 3, 1],
    [4, 5, 7, 6],
    [0, 1, 5, 4],
    [2, 6, 7, 3],
    [0, 4, 6, 2],
    [1, 3, 7, 5],
  ];
  const facet = (...corners: number[]) =>
    `facet normal 0 0 0\nouter loop\n${corners.map((c) => `vertex ${at(c)}\n`).join('')}endloop\nendfacet\n`;
  return `solid rubber foot\n${sides.map(([a, b, c, d]) => facet(a, b, c) + facet(a, c, d)).join('')}endsolid rubber foot\n`;
}

test('an imported pair, from its files to the archive', async ({ page }) => {
  await test.step('import: the unit is asked, materials come along', async () => {
    await page.goto('/');
    await page.getByLabel('Model file').setInputFiles([file('spare-tin.obj', tinLow()), file('biscuit-tin.mtl', TIN_MTL)]);
    const dialog = page.getByRole('dialog');
    await dialog.getByRole('button', { name: 'Import' }).click();
    await expect(dialog.getByRole('alert')).toContainText('choose it first');
    await dialog.getByLabel('One unit is').selectOption('mm');
    await dialog.getByLabel('Source and licence').fill('own work');
    await bringIn(page);
    await expect(page.getByRole('heading', { name: 'Spare tin' })).toBeVisible();
    await expect(page.locator('header')).toContainText('210 × 96 × 140 mm');
    await page.getByRole('button', { name: /Body/ }).first().click();
    await expect(page.getByLabel('Material')).toHaveValue(/m\d/);
  });

  await test.step('another file is brought into the open piece, and taken out again', async () => {
    await page.getByLabel('Model to bring in').setInputFiles([file('foot.stl', block(20))]);
    const dialog = page.getByRole('dialog', { name: 'Bring a model into this piece' });
    await dialog.getByRole('button', { name: 'Bring it in' }).click();
    await expect(dialog.getByRole('alert')).toContainText('choose it first');
    await dialog.getByLabel('One unit is').selectOption('mm');
    await dialog.getByRole('button', { name: 'Bring it in' }).click();
    await expect(dialog).toHaveCount(0);
    const part = page.getByRole('region', { name: 'controls' }).getByRole('button', { name: /^\d+ ?rubber foot|^rubber foot/ });
    // It is open, since it has just come.
    await expect(part).toHaveAttribute('aria-expanded', 'true');
    await expect(part).toContainText('12');
    await page.keyboard.press('Control+z');
    await expect(part).toHaveCount(0);
    await expect(page.getByRole('region', { name: 'controls' }).getByRole('button', { name: /Lid/ })).toBeVisible();
    await saved(page);
  });

  await test.step('brief: a texture that is quickly baked', async () => {
    await page.getByRole('navigation', { name: 'stages' }).getByText('Brief').click();
    await page.getByLabel('Texture size').selectOption('512');
    await saved(page);
  });

  await test.step('high mesh: paired by name, shown, changeable', async () => {
    await page.getByRole('navigation', { name: 'stages' }).getByText('Bake').click();
    await expect(page.getByText('No part has a high mesh.')).toBeVisible();
    await page.getByLabel('High mesh file').setInputFiles([file('spare-tin-high.obj', tinHigh())]);
    await expect(page.getByText('2 of 2 parts found their high mesh.')).toBeVisible();
    await expect(page.getByText('paired by name')).toHaveCount(2);
    await page.getByLabel('from').first().selectOption('');
    await expect(page.getByText('no high mesh', { exact: true })).toBeVisible();
    await page.getByLabel('from').first().selectOption({ label: 'Body' });
    await expect(page.getByText('paired by hand')).toBeVisible();
  });

  await test.step('bake and export', async () => {
    await page.getByLabel('Samples a texel').selectOption('1');
    await page.getByLabel('Normal', { exact: true }).selectOption('down');
    await saved(page);
    await page.getByRole('button', { name: /^Bake/ }).first().click();
    await expect(page.getByText('Against the high mesh')).toBeVisible({ timeout: 300_000 });
    await settled(page, 'Baking');
    const exporting = page.getByRole('button', { name: 'Export GLB' });
    await expect(exporting).toBeEnabled({ timeout: 300_000 });
    const files = await downloads(page, () => exporting.click(), 5);
    const document = await validGlb(files.get('spare-tin.glb') as Buffer);
    const root = document.getRoot();
    expect(
      root
        .listMaterials()
        .map((m) => m.getName())
        .sort(),
    ).toEqual(['Bare_tin', 'Printed_tin']);
    const position = root
      .listMeshes()
      .find((m) => m.getName() === 'Body')
      ?.listPrimitives()[0]
      .getAttribute('POSITION');
    expect(position?.getMax([])[1]).toBeCloseTo(0.08, 5);
    expect(position?.getMax([])[0]).toBeCloseTo(0.105, 5);
    // The file inside the GLB is Y up whatever was asked for beside it.
    expect(root.listTextures()).toHaveLength(2);
  });

  await test.step('surface: what the file brought is looked at, one taken from the library, the set composed', async () => {
    await station(page, 'Surface');
    await expect(page.getByText('Some are as the file brought them.')).toBeVisible();
    await page.getByRole('button', { name: 'Printed_tin', exact: true }).click();
    await page.getByLabel('Start from').selectOption({ label: 'Enamel' });
    await page.getByRole('button', { name: 'Bare_tin', exact: true }).click();
    await page.getByRole('button', { name: 'Keep it as it is' }).click();
    await expect(page.getByText('Some are as the file brought them.')).toHaveCount(0);
    await page.getByRole('button', { name: 'Add a layer' }).click();
    await page.getByRole('menuitem', { name: /^Worn edges/ }).click();
    await saved(page);
    await compose(page);
  });

  await test.step('light and render: framed, locked, drawn', async () => {
    await station(page, 'Light');
    await expect(page.getByText(/A grey card facing the key reads 0[.]18/)).toBeVisible();
    await page.getByLabel('Wide').fill('128');
    await page.keyboard.press('Enter');
    await page.getByLabel('High').fill('96');
    await page.keyboard.press('Enter');
    await page.getByRole('button', { name: 'Lock the shot' }).click();
    await saved(page);
    await station(page, 'Render');
    await picture(page, 8);
    await expect(page.getByRole('img', { name: 'Picture of Spare tin' })).toBeVisible();
  });

  await test.step('hand-off: one archive, source and licence in its spec sheet', async () => {
    await station(page, 'Hand-off');
    const files = await archiveOf(page, 'spare-tin');
    await validGlb(files['spare-tin.glb']);
    expect(String(files['spare-tin_spec-sheet.html'])).toContain('own work');
    expect(String(files['spare-tin.obj'])).toContain('o Body');
  });
});

test('a faulty import is read out, mended, waived, and mending can be taken back', async ({ page }) => {
  // A cube with one face turned over and one missing.
  const faulty =
    'o Crate\nv 0 0 0\nv 40 0 0\nv 40 0 40\nv 0 0 40\nv 0 40 0\nv 40 40 0\nv 40 40 40\nv 0 40 40\nf 1 2 3 4\nf 5 6 7 8\nf 1 5 6 2\nf 2 6 7 3\nf 3 7 8 4\n';
  await page.goto('/');
  await page.getByLabel('Model file').setInputFiles([file('crate.obj', faulty)]);
  await page.getByLabel('One unit is').selectOption('mm');
  await bringIn(page);
  await expect(page.getByText(/neighbouring faces run opposite ways/)).toBeVisible();
  await page.getByRole('button', { name: 'Turn outward' }).click();
  await expect(page.getByText(/neighbouring faces run opposite ways/)).toHaveCount(0);
  await expect(page.getByText(/1 open rim of 4 edges/)).toBeVisible();
  await page.getByRole('button', { name: 'Declare it open' }).click();
  await expect(page.getByText('declared open')).toBeVisible();
  await page.getByRole('button', { name: 'It is meant …' }).click();
  await page.getByLabel('Why it is meant').fill('it is painted later');
  await page.getByRole('button', { name: 'Waive' }).click();
  await expect(page.getByText('Meant: it is painted later')).toBeVisible();
  await saved(page);
  await page.reload();
  await expect(page.getByText('Meant: it is painted later')).toBeVisible();
  const undo = page.getByRole('button', { name: 'Undo' });
  await undo.click();
  await expect(page.getByText('Meant: it is painted later')).toHaveCount(0);
  await undo.click();
  await expect(page.getByText('declared open')).toHaveCount(0);
  await undo.click();
  await expect(page.getByText(/neighbouring faces run opposite ways/)).toBeVisible();
});

test('files that lie get a sentence and leave nothing behind; so do requests of the wrong shape', async ({ page, request }) => {
  await page.goto('/');
  await expect(page.getByRole('article').first()).toBeVisible();
  const before = await page.getByRole('article').count();
  for (const [name, content, words] of [
    ['broken.glb', 'glTF not really', /does not begin like one|no description|GLB/],
    ['cut.obj', 'v 0 0 0\nv 1 0 0\nf 1 2 7\n', /element 7 of 2/],
    ['picture.png', 'x', /not a kind of file/],
  ] as const) {
    await page.getByLabel('Model file').setInputFiles([file(name, content)]);
    const dialog = page.getByRole('dialog');
    if (name.endsWith('.obj')) await dialog.getByLabel('One unit is').selectOption('mm');
    if (!name.endsWith('.png')) await dialog.getByRole('button', { name: 'Import' }).click();
    await expect(dialog.getByRole('alert')).toContainText(words);
    await dialog.getByRole('button', { name: 'Cancel' }).click();
  }
  await page.reload();
  await expect(page.getByRole('article')).toHaveCount(before);

  expect((await request.post('/api/assets', { data: { name: '', purpose: 'game' } })).status()).toBe(400);
  expect((await request.post('/api/assets', { data: { name: 'x', purpose: 'world peace' } })).status()).toBe(400);
  expect((await request.post('/api/assets', { data: '[1, 2' })).status()).toBe(400);
  expect(
    (await request.post('/api/assets', { data: { name: 'x', purpose: 'game' }, headers: { origin: 'http://example.invalid' } })).status(),
  ).toBe(403);
  expect((await request.get('/api/assets', { headers: { host: 'example.invalid' } })).status()).toBe(403);
  expect((await request.get('/api/blobs/nonsense')).status()).toBe(422);
  expect((await request.get(`/api/blobs/${'0'.repeat(64)}`)).status()).toBe(404);
  expect((await request.get('/api/assets/nobody')).status()).toBe(404);
  const answer = await (
    await request.post('/api/assets/nobody/edits', {
      data: { baseVersion: 1, clientId: 'a-page-of-ours', seq: 0, command: { type: 'format disk' } },
    })
  ).json();
  expect(answer.message).toMatch(/not a change/);
});

test('an import that takes long is stopped: nothing of it is there, and the next one is read', async ({ page, request }) => {
  // A wave of 1.3 million triangles, some 60 MB of text: read in seconds, not at once.
  const side = 800;
  const lines: string[] = [];
  for (let j = 0; j <= side; j++)
    for (let i = 0; i <= side; i++) lines.push(`v ${i / 4} ${(8 * Math.sin(i / 40) * Math.cos(j / 30)).toFixed(4)} ${j / 4}`);
  const at = (i: number, j: number) => j * (side + 1) + i + 1;
  for (let j = 0; j < side; j++)
    for (let i = 0; i < side; i++) lines.push(`f ${at(i, j)} ${at(i, j + 1)} ${at(i + 1, j + 1)} ${at(i + 1, j)}`);
  const folder = mkdtempSync(join(tmpdir(), 'wellmorph-wave-'));
  try {
    const path = join(folder, 'wave.obj');
    writeFileSync(path, lines.join('\n'));
    await page.goto('/');
    await expect(page.getByRole('article').first()).toBeVisible();
    const stored = async () => (await (await request.get('/api/assets')).json()).length;
    const before = await stored();
    await page.getByLabel('Model file').setInputFiles(path);
    const dialog = page.getByRole('dialog');
    await dialog.getByLabel('One unit is').selectOption('mm');
    await dialog.getByRole('button', { name: 'Import' }).click();
    await dialog.getByRole('button', { name: 'Stop' }).click();
    await expect(dialog.getByRole('alert')).toContainText('Stopped, as asked. Nothing was changed.');
    await dialog.getByRole('button', { name: 'Cancel' }).click();
    await expect(dialog).toHaveCount(0);
    // Whatever was stopped doesn't stand in the way of what comes next: two are read at once at most.
    await page.getByLabel('Model file').setInputFiles([file('after-all.obj', tinLow())]);
    await dialog.getByLabel('One unit is').selectOption('mm');
    await bringIn(page);
    await expect(page.getByRole('heading', { name: 'After all' })).toBeVisible();
    // It had all the time it would have taken to be stored as well.
    await page.waitForTimeout(8000);
    expect(await stored()).toBe(before + 1);
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
});

test('workshop: rename, duplicate, delete and bring back; the night theme stays', async ({ page }) => {
  await page.goto('/');
  const card = page.getByRole('article', { name: 'Brass aneroid gauge', exact: true });
  await card.getByRole('button', { name: /More for/ }).click();
  await page.getByRole('menuitem', { name: 'Duplicate' }).click();
  const copy = page.getByRole('article', { name: 'Brass aneroid gauge, copy' });
  await expect(copy).toBeVisible();
  await copy.getByRole('button', { name: /More for/ }).click();
  await page.getByRole('menuitem', { name: 'Rename' }).click();
  await page.getByLabel('New name').fill('Spare gauge');
  await page.keyboard.press('Enter');
  const spare = page.getByRole('article', { name: 'Spare gauge' });
  await expect(spare).toBeVisible();
  await spare.getByRole('button', { name: /More for/ }).click();
  await page.getByRole('menuitem', { name: 'Delete' }).click();
  await expect(spare).toHaveCount(0);
  await page.getByRole('button', { name: 'Bring it back' }).click();
  await expect(spare).toBeVisible();
  await page.getByRole('button', { name: 'Night theme' }).click();
  await page.reload();
  await expect(page.locator('html')).toHaveAttribute('data-sheet', 'dark');
  await page.getByRole('button', { name: 'Paper theme' }).click();
});

test('a model from elsewhere: scaled, mirrored, open, textured and packed; every figure on the way is of what stands there', async ({
  page,
}) => {
  await page.goto('/');
  await page.getByLabel('Model file').setInputFiles([file('life-ring.glb', await lifeRing())]);
  await test.step('what is not carried on is read before it is opened', async () => {
    await page.getByRole('dialog').getByRole('button', { name: 'Import' }).click();
    const notes = page.getByRole('dialog', { name: 'Imported, and not quite as it was' });
    await expect(notes).toContainText('A scale on the nodes, of 0.01, was applied');
    await expect(notes).toContainText('A group was dissolved');
    // What has a picture is handed on word for word, both its sides too: nothing of it is lost.
    await expect(notes).not.toContainText('seen from both sides');
    await notes.getByRole('button', { name: 'Open it' }).click();
  });
  await test.step('its size is that of the scene, and only what is so is found', async () => {
    await expect(page.getByRole('heading', { name: 'Life ring' })).toBeVisible();
    // Counted by the library it was written with.
    await expect(page.locator('header')).toContainText('80 × 38 × 76 mm');
    const findings = page.getByRole('region', { name: 'Findings', exact: true });
    await expect(findings).toContainText('Dish: 1 open rim of 48 edges.');
    await expect(findings).toContainText(/Handle: the file has a scale of .+ and a mirror on it, which is applied here/);
    await expect(findings).not.toContainText(/face inward|within 0\.005/);
  });
  await test.step('laid out, at the density of its true size', async () => {
    await station(page, 'Unwrap');
    await expect(page.getByText('No part that has it has a layout for it: it shows one of its colours.')).toBeVisible({ timeout: 60_000 });
    await page.getByRole('button', { name: 'Unwrap', exact: true }).first().click();
    await expect(page.getByText('Islands', { exact: true })).toBeVisible({ timeout: 120_000 });
    await settled(page, 'Unwrapping');
    // 1024 texels over 163 cm², half of the tile covered.
    const said = (await page.locator('header').textContent())?.match(/Texel density.*?%\s*([\d.]+) px\/cm/)?.[1];
    expect(Number(said)).toBeGreaterThan(50);
    expect(Number(said)).toBeLessThan(90);
  });
  await test.step('composed and drawn', async () => {
    await station(page, 'Brief');
    await page.getByLabel('Texture size').selectOption('256');
    await saved(page);
    await station(page, 'Surface');
    await compose(page);
    await station(page, 'Light');
    for (const label of ['Wide', 'High']) {
      await page.getByLabel(label, { exact: true }).fill('96');
      await page.keyboard.press('Enter');
    }
    await station(page, 'Render');
    await picture(page, 8);
    await expect(page.getByRole('img', { name: 'Picture of Life ring' })).toBeVisible();
    await station(page, 'Hand-off');
    await expect(page.getByText(/A scale on the nodes, of 0\.01, was applied/)).toBeVisible();
    await expect(page.getByText(/Its texture is kept byte for byte/)).toBeVisible();
  });
});
