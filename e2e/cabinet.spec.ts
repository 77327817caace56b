import { unzipSync } from 'fflate';
import { cabinet } from '../core/test/cabinet';
import { expect, test } from './fixtures';
import { bringIn, downloads, saved, settled, station, validGlb } from './helpers';

test('a cabinet of two woods, brushed metal and a smudged pane: wear copied, a stroke painted and erased, laid out anew, composed at two sizes', async ({
  page,
}) => {
  test.setTimeout(500_000);
  const controls = page.getByRole('region', { name: 'controls' });
  const aside = page.getByRole('region', { name: 'findings and advice' });
  const bench = controls.getByRole('group', { name: 'materials' });
  const layers = controls.getByRole('region', { name: 'layers' });
  const names = () => layers.getByRole('checkbox').evaluateAll((all) => all.map((a) => a.getAttribute('aria-label')));
  /** What of its material's surface a layer touches, %. */
  const share = async (layer: string) =>
    Number(/([\d.]+)\s*%/.exec((await aside.locator(`[data-figure="${layer}"]`).first().textContent()) ?? '')?.[1]);
  const composed = async (words: string, px: number) => {
    await controls.getByRole('button', { name: words }).click();
    await settled(page, 'Composing');
    await expect(page.getByText(new RegExp(`${px} px, composed in`))).toBeVisible({ timeout: 240_000 });
    await expect(aside.getByText('Every judged texel is within what real surfaces reflect.')).toBeVisible();
  };
  await page.goto('/');
  await page
    .getByLabel('Model file')
    .setInputFiles([{ name: 'cabinet.json', mimeType: 'application/json', buffer: Buffer.from(JSON.stringify(cabinet())) }]);
  await bringIn(page);
  await station(page, 'Surface');

  await test.step('the wear of one wood on the metal too', async () => {
    await bench.getByRole('button', { name: 'Oak' }).click();
    await layers.getByRole('button', { name: /^Worn edges/ }).click();
    await layers.getByLabel('Lay it on another material too').selectOption({ label: 'Brushed metal' });
    await bench.getByRole('button', { name: 'Brushed metal' }).click();
    await expect.poll(async () => (await names())[0]).toBe('Worn edges is on');
    // What is clear has layers like any other.
    await bench.getByRole('button', { name: 'Pane' }).click();
    await expect.poll(names).toEqual(['Smudges is on', 'Wiped is on']);
  });

  const box = async () =>
    (await page.locator('[data-plate=surfaced] canvas').boundingBox()) as { x: number; y: number; width: number; height: number };
  const stroke = async (places: readonly (readonly [number, number])[]) => {
    const b = await box();
    for (const [i, [x, y]] of places.entries()) {
      await page.mouse.move(b.x + x * b.width, b.y + y * b.height, { steps: 6 });
      if (i === 0) await page.mouse.down();
    }
    await page.mouse.up();
  };
  await test.step('painted over the top, taken back, brought again, erased in one place', async () => {
    await bench.getByRole('button', { name: 'Oak' }).click();
    await layers.getByRole('button', { name: 'Add a layer' }).click();
    await page.getByRole('menuitem', { name: /^Painted by hand/ }).click();
    const field = layers.getByRole('group', { name: 'strokes by hand' }).first();
    await expect(field.getByText('Painting is shown on a layout.')).toBeVisible();
    await field.getByRole('button', { name: 'Unwrap' }).click();
    await expect(field.getByText('nothing painted yet')).toBeVisible({ timeout: 60_000 });
    await field.getByRole('button', { name: 'Paint' }).click();
    await field.getByLabel('Brush').fill('40');
    await page.keyboard.press('Enter');
    await expect(page.locator('[data-preview-ms]')).toHaveText(/previewed at 512/, { timeout: 60_000 });
    await stroke([
      [0.3, 0.36],
      [0.5, 0.37],
      [0.62, 0.36],
    ]);
    await expect(field.getByText(/^one stroke, \d+ points$/)).toBeVisible();
    await page.keyboard.press('Control+z');
    await expect(field.getByText('nothing painted yet')).toBeVisible();
    await page.keyboard.press('Control+Shift+z');
    await expect(field.getByText(/^one stroke/)).toBeVisible();
    // Two drawn while the first is still being kept: both, each once.
    for (const x of [0.36, 0.56])
      await stroke([
        [x, 0.345],
        [x + 0.05, 0.345],
      ]);
    await expect(field.getByText(/^3 strokes/)).toBeVisible();
    await page.keyboard.press('Control+z');
    await page.keyboard.press('Control+z');
    await expect(field.getByText(/^one stroke/)).toBeVisible();
    await field.getByRole('button', { name: 'Erase' }).click();
    await stroke([
      [0.48, 0.34],
      [0.48, 0.4],
    ]);
    await expect(field.getByText(/^2 strokes/)).toBeVisible();
    await saved(page);
    if (process.env.SHOTS) await page.screenshot({ path: `${process.env.SHOTS}/cabinet-painted.png` });
  });

  let painted = 0;
  await test.step('composed: a line worn on both, and what was painted', async () => {
    await composed('Compose the set', 1024);
    painted = await share('Painted');
    expect(painted).toBeGreaterThan(0.5);
    expect(await share('Smudges')).toBeGreaterThan(5);
    if (process.env.SHOTS) await page.screenshot({ path: `${process.env.SHOTS}/cabinet.png` });
  });

  await test.step('laid out anew the stroke covers what it covered', async () => {
    await station(page, 'Unwrap');
    await controls.getByLabel('Padding').fill('14');
    await page.keyboard.press('Enter');
    await saved(page);
    await station(page, 'Surface');
    await composed('Compose again', 1024);
    expect(Math.abs((await share('Painted')) / painted - 1)).toBeLessThan(0.08);
  });

  await test.step('at twice the size it is the same set', async () => {
    await station(page, 'Brief');
    await controls.getByLabel('Texture size').selectOption('2048');
    await saved(page);
    await station(page, 'Surface');
    await composed('Compose again', 2048);
    expect(Math.abs((await share('Painted')) / painted - 1)).toBeLessThan(0.08);
    if (process.env.SHOTS) await page.screenshot({ path: `${process.env.SHOTS}/cabinet-2048.png` });
  });

  await test.step('handed over: the pane is clear, and rough where its map says so', async () => {
    await station(page, 'Hand-off');
    const files = await downloads(page, () => page.getByRole('button', { name: 'Pack and download' }).click(), 1);
    const archive = unzipSync(new Uint8Array([...files.values()][0]));
    const glb = Object.keys(archive).find((n) => n.endsWith('.glb')) as string;
    const document = await validGlb(Buffer.from(archive[glb]));
    const pane = document
      .getRoot()
      .listMaterials()
      .find((m) => m.getName() === 'Pane');
    expect(pane?.getExtension('KHR_materials_transmission')).not.toBeNull();
    expect(pane?.getMetallicRoughnessTexture()).not.toBeNull();
  });
});
