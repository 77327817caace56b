import { tinLow } from '../demo/src/tin';
import { expect, type Page, test } from './fixtures';
import { bringIn, downloads, openSheet, saved, settled, station } from './helpers';

/** What was tried stays with what it was tried with: it is judged, compared and taken up again; and an asset goes from one workshop to another. */
const padding = (page: Page) => page.getByRole('textbox', { name: /^Padding/ });
async function unwrapped(page: Page, texels: string, cards: number): Promise<void> {
  await padding(page).fill(texels);
  await page.keyboard.press('Enter');
  await saved(page);
  await page
    .getByRole('button', { name: /^Unwrap/ })
    .first()
    .click();
  await expect(page.getByRole('button', { name: /to compare/ })).toHaveCount(cards, { timeout: 120_000 });
  await settled(page, 'Unwrapping');
}

test('trials of a stage: judged, noted, compared, taken up to the same layout, and there after a reload', async ({ page }) => {
  await openSheet(page, 'Gig oar', 'Unwrap');
  const trials = page.getByRole('region', { name: 'trials' });
  await expect(trials).toContainText('Nothing tried here yet.');
  await unwrapped(page, '4', 1);
  const density = page.locator('[data-figure="Density"]');
  const first = await density.textContent();
  await unwrapped(page, '16', 2);
  expect(await density.textContent()).not.toBe(first);

  await test.step('two are compared: one setting differs, so it made the difference', async () => {
    const cards = trials.getByRole('button', { name: /to compare/ });
    await cards.nth(0).click();
    await expect(trials).toContainText('choose one more to compare');
    await cards.nth(1).click();
    const dialog = page.getByRole('dialog');
    await expect(dialog).toContainText('Only “padding, px” was changed, so the difference is due to it.');
    await expect(dialog).toContainText('density, px/cm');
    await expect(dialog).not.toContainText(/stretchL2|seamAngle/);
    await expect(dialog.getByRole('img', { name: 'Both layouts laid over each other' })).toBeVisible();
    await page.screenshot({ path: process.env.SHOTS ? `${process.env.SHOTS}/over.png` : undefined });
    await dialog.getByRole('button', { name: 'Close' }).click();
    await expect(dialog).toHaveCount(0);
  });

  await test.step('one is kept, one dropped, one has a note: all of it is there after a reload', async () => {
    await trials.getByRole('button', { name: 'keep', exact: true }).first().click();
    await trials.getByRole('button', { name: 'drop', exact: true }).last().click();
    await trials.getByLabel('Note').first().fill('islands keep clear of each other');
    await page.keyboard.press('Enter');
    await expect(trials.getByRole('button', { name: 'dropped' })).toHaveCount(1);
    await page.reload();
    await expect(trials.getByRole('button', { name: 'kept', exact: true })).toHaveAttribute('aria-pressed', 'true');
    await expect(trials.getByRole('button', { name: 'dropped' })).toHaveCount(1);
    await expect(trials.getByLabel('Note').first()).toHaveValue('islands keep clear of each other');
  });

  await test.step('the older one taken up: its settings and its very layout, without working it out again; undo brings the other back', async () => {
    await expect(padding(page)).toHaveValue('16');
    const puts: string[] = [];
    page.on('request', (r) => r.method() === 'PUT' && r.url().includes('/api/results/') && puts.push(r.url()));
    await trials.getByRole('button', { name: 'take up' }).last().click();
    await expect(page.getByText(/Set again as for “Padding 4/)).toBeVisible();
    await expect(padding(page)).toHaveValue('4');
    await expect.poll(() => density.textContent()).toBe(first);
    await expect(page.getByText('This layout is from an older state.')).toHaveCount(0);
    expect(puts).toEqual([]);
    await page.getByRole('button', { name: 'Undo' }).click();
    await expect(padding(page)).toHaveValue('16');
    await expect.poll(() => density.textContent()).not.toBe(first);
  });

  await test.step('folded away they stay so', async () => {
    await page.getByRole('button', { name: 'Fold trials away' }).click();
    await page.reload();
    await expect(page.getByRole('button', { name: 'Show trials' })).toBeVisible();
    await expect(trials.getByRole('button', { name: /to compare/ })).toHaveCount(0);
    await page.getByRole('button', { name: 'Show trials' }).click();
    await expect(trials.getByRole('button', { name: /to compare/ })).toHaveCount(2);
  });
});

test('an asset leaves as a file and is opened again: what was decided, the meshes that were brought, the unit', async ({ page }) => {
  await page.goto('/');
  await page
    .getByLabel('Model file')
    .setInputFiles([{ name: 'ration-tin.obj', mimeType: 'application/octet-stream', buffer: Buffer.from(tinLow()) }]);
  await page.getByRole('dialog').getByLabel('One unit is').selectOption('mm');
  await page.getByRole('dialog').getByLabel('Source and licence').fill('own work, CC0');
  await bringIn(page);
  await expect(page.getByRole('heading', { name: 'Ration tin' })).toBeVisible();
  await station(page, 'Brief');
  await page.getByLabel('Lengths in').selectOption('cm');
  await page.getByLabel('Triangles', { exact: true }).fill('777');
  await page.keyboard.press('Enter');
  await saved(page);
  await station(page, 'Form');
  await expect(page.locator('header')).toContainText('21 × 9.6 × 14 cm');
  const files = await downloads(page, () => page.getByRole('button', { name: 'Save asset file' }).click(), 1);
  const [[name, bytes]] = [...files];
  expect(name).toMatch(/^ration-tin.*\.zip$/);

  await page.goto('/');
  await page.getByLabel('Model file').setInputFiles([{ name, mimeType: 'application/zip', buffer: bytes }]);
  const dialog = page.getByRole('dialog');
  await expect(dialog).toContainText('An asset file brings everything that was decided');
  await bringIn(page);
  await expect(dialog).toHaveCount(0);
  await expect(page.locator('header')).toContainText('21 × 9.6 × 14 cm');
  await station(page, 'Brief');
  await expect(page.getByLabel('Triangles', { exact: true })).toHaveValue('777');
  await station(page, 'Hand-off');
  await expect(page.getByText('own work, CC0')).toBeVisible();
});

test('pictures in the queue: stopped while drawn and while waiting; what was not stopped is drawn', async ({ page }) => {
  for (const [asset, samples] of [
    ['Brass aneroid gauge', '4096'],
    ['Gig oar', '4'],
  ] as const) {
    await openSheet(page, asset, 'Light');
    for (const [label, px] of [
      ['Wide', '96'],
      ['High', '96'],
    ] as const) {
      await page.getByLabel(label, { exact: true }).fill(px);
      await page.keyboard.press('Enter');
    }
    await station(page, 'Render');
    await page.getByLabel('Samples a pixel').fill(samples);
    await page.keyboard.press('Enter');
    await saved(page);
    await page.getByRole('button', { name: 'Put in the queue' }).click();
    // The maps it is drawn with are composed first, which for a product's textures takes a while.
    await expect(page.getByText(/Put in the queue; it is drawn on the server/)).toBeVisible({ timeout: 240_000 });
  }
  await page.getByRole('link', { name: 'Back to the workshop' }).click();
  const queue = page.getByRole('region', { name: 'queue' });
  await expect(queue.locator('[data-job=running]')).toContainText('Brass aneroid gauge');
  await queue.getByRole('button', { name: 'Stop the picture of Brass aneroid gauge' }).click();
  await expect(queue.locator('[data-job=stopped]')).toContainText('Brass aneroid gauge', { timeout: 60_000 });
  await expect(queue.locator('[data-job=done]')).toContainText('Gig oar', { timeout: 120_000 });
  await queue.getByRole('link', { name: 'Picture of Gig oar' }).click();
  await expect(page.getByRole('img', { name: 'Picture of Gig oar' })).toBeVisible();
  await expect(page.getByText('noise of two halves')).toBeVisible();
});
