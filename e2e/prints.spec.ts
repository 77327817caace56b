import sharp from 'sharp';
import { bottle } from '../core/test/bottle';
import { expect, test } from './fixtures';
import { bringIn, downloads, saved, settled, station } from './helpers';

/** A label of 1063 × 709 px at 300 dpi: 90 × 60 mm. */
const label = async (name: string, background: string) => ({
  name,
  mimeType: 'image/png',
  buffer: await sharp({ create: { width: 1063, height: 709, channels: 3, background } })
    .withMetadata({ density: 300 })
    .png()
    .toBuffer(),
});

test('labels on an oil bottle of Ø 70: by their dots, front and back, replaced, moved, swapped, a text set, put by hand', async ({
  page,
}) => {
  test.setTimeout(400_000);
  const controls = page.getByRole('region', { name: 'controls' });
  const aside = page.getByRole('region', { name: 'findings and advice' });
  const prints = controls.getByRole('group', { name: 'prints' });
  const figure = async (print: string, name: string | RegExp) =>
    (await aside.locator(`[data-print="${print}"] [data-figure]`).filter({ hasText: name }).first().textContent()) ?? '';
  const type = async (field: string, value: string) => {
    await prints.getByLabel(field).fill(value);
    await page.keyboard.press('Enter');
  };
  await page.goto('/');
  await page
    .getByLabel('Model file')
    .setInputFiles([{ name: 'bottle.json', mimeType: 'application/json', buffer: Buffer.from(JSON.stringify(bottle(32))) }]);
  await bringIn(page);
  await station(page, 'Surface');
  await controls.getByRole('button', { name: 'Compose the set' }).click();
  await settled(page, 'Composing');
  await expect(page.getByText(/px, composed in/)).toBeVisible({ timeout: 240_000 });

  await test.step('a label as large as its dots say, once round by 147.3°', async () => {
    await page.getByLabel('Artwork', { exact: true }).setInputFiles([await label('front.png', '#b23240')]);
    await expect(prints.getByText('90 mm × 60 mm, Body')).toBeVisible();
    await expect(prints.getByText(/1063 × 709 px, 300 dpi at this size, 300 in its file/)).toBeVisible();
    await prints.getByLabel('Up, from').selectOption({ label: 'the lower edge' });
    await type('Edge to edge', '20');
    await expect.poll(() => figure('front', /Round Ø 70/), { timeout: 30_000 }).toMatch(/147\.3/);
    await expect.poll(() => figure('front', /lower, upper edge/)).toMatch(/20\smm, 39\.97\smm/);
  });

  await test.step('another behind, replaced with its fit unchanged, moved, swapped', async () => {
    await prints.getByRole('button', { name: 'Copy it' }).click();
    await prints.getByRole('button', { name: 'To the other side' }).click();
    await expect(prints.getByText('180° round')).toBeVisible();
    const before = await prints.getByLabel('To the right').inputValue();
    await page.getByLabel('Another artwork').setInputFiles([await label('back.png', '#17445a')]);
    await expect(prints.getByText(/back\.png/)).toBeVisible();
    await expect(prints.getByLabel('To the right')).toHaveValue(before);
    expect(await prints.getByLabel('Width').inputValue()).toBe('90.001');
    await type('To the right', '2');
    await expect(prints.getByText('3.3° round')).toBeVisible();
    await page.keyboard.press('Control+z');
    await expect(prints.getByLabel('To the right')).toHaveValue(before);
    await prints.getByLabel('Swap with').selectOption({ label: 'front' });
    await expect(prints.getByText(/front\.png/)).toBeVisible();
  });

  await test.step('a template goes out in true millimetres and is brought back painted', async () => {
    const files = await downloads(page, () => prints.getByRole('button', { name: 'Template, PNG' }).click(), 1);
    const [[name, sheet]] = [...files];
    expect(name).toMatch(/_template\.png$/);
    const { width = 0, height = 0 } = await sharp(sheet).metadata();
    // 90 × 60 mm at 600 dpi.
    expect(Math.abs(width - (90 / 25.4) * 600)).toBeLessThan(1.5);
    expect(Math.abs(height - (60 / 25.4) * 600)).toBeLessThan(1.5);
    const painted = await sharp(sheet)
      .composite([{ input: { create: { width: 400, height: 300, channels: 4, background: '#e8c15a' } }, left: 200, top: 200 }])
      .png()
      .toBuffer();
    const before = await prints.getByLabel('Width').inputValue();
    await page.getByLabel('Another artwork').setInputFiles([{ name: 'painted.png', mimeType: 'image/png', buffer: painted }]);
    await expect(prints.getByText(/painted\.png/)).toBeVisible();
    await expect(prints.getByLabel('Width')).toHaveValue(before);
    await page.keyboard.press('Control+z');
    await expect(prints.getByText(/front\.png/)).toBeVisible();
  });

  await test.step('a file that is watched is shown again when it is saved, its fit unchanged', async () => {
    // A file of the browser’s own store, saved as any program would; only the dialogue that picks one is left out, which no browser without a screen has.
    const painted = async (colour: string) => (await label('label.png', colour)).buffer.toString('base64');
    const save = (png: string) =>
      page.evaluate(async (bytes) => {
        const handle = await (await navigator.storage.getDirectory()).getFileHandle('label.png', { create: true });
        const writable = await handle.createWritable();
        await writable.write(Uint8Array.from(atob(bytes), (c) => c.charCodeAt(0)));
        await writable.close();
        Object.assign(window, { showOpenFilePicker: async () => [handle] });
      }, png);
    const blob = async () => {
      const asset = page.url().split('/').at(-2);
      const { document } = (await (await page.request.get(`/api/assets/${asset}`)).json()) as {
        document: { prints: { artwork: { fileName?: string; blob?: string } }[] };
      };
      return document.prints.find((p) => p.artwork.fileName === 'label.png')?.artwork.blob;
    };
    const before = await prints.getByLabel('Width').inputValue();
    await save(await painted('#5b7a3a'));
    await prints.getByRole('button', { name: 'Watch a file' }).click();
    await expect.poll(blob).toBeTruthy();
    const first = await blob();
    const began = Date.now();
    await save(await painted('#7a3a5b'));
    await expect.poll(blob, { intervals: [50] }).not.toBe(first);
    console.log(`a saved file is in its print after ${Date.now() - began} ms`);
    await expect(prints.getByLabel('Width')).toHaveValue(before);
    // Taken away it is watched no more, and what was brought stays.
    await page.evaluate(async () => (await navigator.storage.getDirectory()).removeEntry('label.png'));
    await expect(prints.getByRole('button', { name: 'Watch a file' })).toBeVisible();
    for (let k = 0; k < 2; k++) await page.keyboard.press('Control+z');
    await expect(prints.getByText(/front\.png/)).toBeVisible();
  });

  await test.step('a text, what of it can be read, and put where it is pressed', async () => {
    await prints.getByRole('button', { name: 'Set one' }).click();
    await page.getByRole('menuitem', { name: /^Text/ }).click();
    await prints.getByLabel('Text', { exact: true }).fill('COLZA\n500 ML');
    await prints.getByLabel('Capitals').fill('4');
    await page.keyboard.press('Enter');
    await expect.poll(() => figure('Text', /^Capitals of 4/), { timeout: 30_000 }).toMatch(/\d+ px, \d+ texels/);
    await prints.getByRole('button', { name: 'Put it elsewhere' }).click();
    const box = (await page.locator('[data-plate=surfaced] canvas').boundingBox()) as {
      x: number;
      y: number;
      width: number;
      height: number;
    };
    await page.mouse.move(box.x + 0.5 * box.width, box.y + 0.42 * box.height);
    await page.mouse.down();
    for (const dx of [2, 6, 10]) await page.mouse.move(box.x + 0.5 * box.width + dx, box.y + 0.45 * box.height, { steps: 3 });
    await page.mouse.up();
    await expect(prints.getByLabel('Across, from')).toHaveValue('put');
    await expect.poll(() => figure('Text', /Round Ø 70/)).toMatch(/°/);
    // What moved it can be taken back like anything else.
    await saved(page);
  });

  await test.step('what can’t be printed is said, and nothing is there of it', async () => {
    const drawing = '<svg xmlns="http://www.w3.org/2000/svg" width="30mm" height="20mm"><script>alert(1)</script></svg>';
    await page
      .getByLabel('Artwork', { exact: true })
      .setInputFiles([{ name: 'live.svg', mimeType: 'image/svg+xml', buffer: Buffer.from(drawing) }]);
    await expect(page.getByText('“live.svg” has scripts in it: save it without them.')).toBeVisible();
    const plain =
      '<svg xmlns="http://www.w3.org/2000/svg" width="30mm" height="20mm" viewBox="0 0 30 20"><circle cx="15" cy="10" r="9" fill="#e8c15a"/></svg>';
    await page
      .getByLabel('Artwork', { exact: true })
      .setInputFiles([{ name: 'seal.svg', mimeType: 'image/svg+xml', buffer: Buffer.from(plain) }]);
    await expect(prints.getByText('30 mm × 20 mm, Body')).toBeVisible();
  });

  await test.step('composed, and there again after the page is opened anew', async () => {
    await controls.getByRole('button', { name: 'Compose again' }).first().click();
    await settled(page, 'Composing');
    await expect(aside.getByText('This set is from an older state.')).toBeHidden({ timeout: 60_000 });
    await saved(page);
    await page.reload();
    await expect(prints.getByText('30 mm × 20 mm, Body')).toBeVisible();
    await expect(prints.getByRole('checkbox')).toHaveCount(4);
    await expect.poll(() => figure('front', /Round Ø 70/), { timeout: 60_000 }).toMatch(/147\.3/);
  });
});
