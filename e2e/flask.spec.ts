import type { Page } from '@playwright/test';
import { flaskGlb } from '../core/test/flask';
import { expect, test } from './fixtures';
import { bringIn, saved, settled, station } from './helpers';

const glb = (name: string, bytes: Uint8Array) => ({ name, mimeType: 'model/gltf-binary', buffer: Buffer.from(bytes) });
const shot = async (page: Page, name: string) => {
  if (process.env.SHOTS) await page.screenshot({ path: `${process.env.SHOTS}/${name}.png` });
};

test('a flask and its stopper: too small a low mesh named before any ray, grown, baked, judged; ids, edges, a worse distance, the queue', async ({
  page,
  server,
}) => {
  test.setTimeout(600_000);
  const controls = page.getByRole('region', { name: 'controls' });
  const aside = page.getByRole('region', { name: 'findings and advice' });
  const row = (label: string) => aside.locator(`[data-figure="${label}"]`);
  const figure = async (label: string) => Number(/(-?[\d.]+)\s*[°%]/.exec((await row(label).textContent())?.replace(label, '') ?? '')?.[1]);
  const bake = async () => {
    await controls.getByRole('button', { name: /^Bake/ }).first().click();
    await settled(page, 'Baking');
    await expect(aside.getByText('This bake is from an older state.')).toHaveCount(0);
    await expect(row('texels judged')).toBeVisible();
  };
  await page.goto('/');
  await page.getByLabel('Model file').setInputFiles([glb('flask.glb', await flaskGlb('low', 1.2))]);
  await bringIn(page);
  await station(page, 'Brief');
  await page.getByLabel('Texture size').selectOption('512');
  await saved(page);

  await test.step('the shortfall is named before a ray is sent, and cured by one click', async () => {
    await station(page, 'Bake');
    await page.getByLabel('High mesh file').setInputFiles([glb('flask-high.glb', await flaskGlb('high'))]);
    await expect(page.getByText('2 of 2 parts found their high mesh.')).toBeVisible();
    await expect(aside.getByText(/“Flask” lies inside its high mesh by 1\.\d+\smm, all over\./)).toBeVisible({ timeout: 60_000 });
    await expect(aside.getByText('is judged here')).toBeVisible();
    await aside.getByRole('button', { name: /^Grow it by/ }).click();
    await expect(aside.getByText(/lies inside its high mesh/)).toHaveCount(0, { timeout: 60_000 });
    await page.keyboard.press('Control+z');
    await expect(aside.getByText(/lies inside its high mesh/)).toBeVisible({ timeout: 60_000 });
    await page.keyboard.press('Control+Shift+z');
    await expect(aside.getByText(/lies inside its high mesh/)).toHaveCount(0, { timeout: 60_000 });
    await saved(page);
  });

  await test.step('baked with nothing else set but the ids that were painted', async () => {
    await controls.getByLabel('id', { exact: true }).check();
    await controls.getByLabel('Id', { exact: true }).selectOption('colour');
    // A stopper is taken off: it darkens nothing but itself.
    await expect(controls.getByLabel('Parts that move')).toHaveValue('alone');
    await bake();
    expect(await figure('rays that find nothing')).toBeLessThanOrEqual(0.1);
    expect(await figure('rays on a back face')).toBeLessThanOrEqual(0.1);
    expect(await figure('19 of 20 texels under')).toBeLessThanOrEqual(2);
    await shot(page, 'flask-baked');
  });

  await test.step('stray faces are found, and take the colour round them', async () => {
    await expect(aside.getByText('4 faces have another colour than all round them.')).toBeVisible();
    await page.getByLabel('which map').selectOption('id');
    await expect(page.getByRole('note', { name: 'what the map holds' })).toContainText('#');
    await aside.getByRole('button', { name: 'Let them take the colour round them' }).click();
    await settled(page, 'Baking');
    await expect(aside.getByText('4 stray faces took the colour round them.')).toBeVisible();
  });

  await test.step('the worst place is flown to, and every texel is seen', async () => {
    await page.getByLabel('which map').selectOption('judged');
    await page.getByRole('button', { name: 'The map' }).click();
    await aside.getByText('Worst places').scrollIntoViewIfNeeded();
    await aside
      .getByRole('button', { name: /^(Flask|Stopper).*°$/ })
      .first()
      .click();
    await shot(page, 'flask-judged');
  });

  await test.step('a distance made worse on purpose: the judge says so, and what helps', async () => {
    await controls.getByLabel('Distances', { exact: true }).selectOption('uniform');
    await controls.getByLabel('Outward', { exact: true }).fill('0.1');
    await page.keyboard.press('Enter');
    await controls.getByLabel('Inward', { exact: true }).fill('0.1');
    await page.keyboard.press('Enter');
    await bake();
    await expect(aside.getByText(/% of the rays find nothing\./)).toBeVisible();
    expect(await figure('rays that find nothing')).toBeGreaterThan(5);
    await aside.getByRole('button', { name: 'Search as far as measured and bake again' }).click();
    await settled(page, 'Baking');
    await expect(controls.getByLabel('Distances', { exact: true })).toHaveValue('measured');
    expect(await figure('rays that find nothing')).toBeLessThanOrEqual(0.1);
  });

  await test.step('distances painted too short on purpose: the preview finds it; erased, they are as measured', async () => {
    await page.getByRole('button', { name: 'Baked', exact: true }).click();
    await page.getByRole('button', { name: 'Cage' }).click();
    await controls.getByRole('button', { name: 'Paint' }).click();
    for (const [label, mm] of [
      ['Brush', '20'],
      ['Painted outward', '0'],
      ['Painted inward', '0'],
    ]) {
      await controls.getByLabel(label, { exact: true }).fill(mm);
      await page.keyboard.press('Enter');
    }
    const box = (await page.locator('[data-plate=piece] canvas').boundingBox()) as { x: number; y: number; width: number; height: number };
    const click = () => page.mouse.click(box.x + 0.5 * box.width, box.y + 0.6 * box.height);
    await click();
    await expect(controls.getByText('painted in one place')).toBeVisible();
    await expect(aside.getByText(/% of the rays find nothing/)).toBeVisible({ timeout: 60_000 });
    await shot(page, 'flask-painted');
    // Only the rows that a painted place reaches are baked anew.
    await bake();
    await expect(page.getByText(/of the rows baked anew in/)).toBeVisible();
    await expect(aside.getByText('Erase what was painted over the measured distances, or paint it farther.')).toBeVisible();
    expect(await figure('rays that find nothing')).toBeGreaterThan(0.3);
    await controls.getByRole('button', { name: 'Erase' }).click();
    await click();
    await expect(controls.getByText('painted in one place')).toHaveCount(0);
    // As it was baked before: that very result is in view again.
    await expect.poll(() => figure('rays that find nothing'), { timeout: 30_000 }).toBeLessThanOrEqual(0.1);
    await expect(aside.getByText(/Previewed at/)).toHaveCount(0);
    await expect(aside.getByText('This bake is from an older state.')).toHaveCount(0);
    // A stroke is one change, however many places it passes.
    await controls.getByRole('button', { name: 'Paint' }).click();
    await page.mouse.move(box.x + 0.5 * box.width, box.y + 0.5 * box.height);
    await page.mouse.down();
    for (let i = 1; i <= 8; i++) await page.mouse.move(box.x + 0.5 * box.width, box.y + (0.5 + 0.02 * i) * box.height);
    await page.mouse.up();
    await expect(controls.getByText(/painted in \d+ places/)).toBeVisible();
    await page.getByRole('button', { name: /^Undo/ }).click();
    await expect(controls.getByText(/painted in/)).toHaveCount(0);
    await controls.getByRole('button', { name: 'Paint' }).click();
    await page.getByRole('button', { name: 'Cage' }).click();
  });

  await test.step('two bakes over each other, map by map', async () => {
    const trials = page.getByRole('button', { name: /to compare$/ });
    await trials.nth(0).click();
    await trials.nth(1).click();
    const dialog = page.getByRole('dialog');
    await expect(dialog.locator('img')).toHaveCount(2);
    await dialog.getByLabel('which map').selectOption({ label: 'Occlusion' });
    await expect
      .poll(() =>
        dialog
          .locator('img')
          .first()
          .evaluate((i: HTMLImageElement) => i.naturalWidth),
      )
      .toBeGreaterThan(0);
    await shot(page, 'flask-wiped');
    await dialog.getByRole('button', { name: 'Close' }).click();
  });

  await test.step('one rectangle, at full size, with settings that are not baked yet', async () => {
    await controls.getByLabel('Reach', { exact: true }).fill('8');
    await page.keyboard.press('Enter');
    await page.getByLabel('which map').selectOption('occlusion');
    await page.getByRole('button', { name: 'Rectangle' }).click();
    await expect(page.getByText('Draw a rectangle: it alone is baked, at full size.')).toBeVisible();
    const box = (await page.locator('[data-plate=layout]').boundingBox()) as { x: number; y: number; width: number; height: number };
    const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
    await page.mouse.move(x - 60, y - 50);
    await page.mouse.down();
    await page.mouse.move(x - 10, y - 20, { steps: 4 });
    await page.mouse.up();
    await expect(page.getByText(/\d+² texels at full size in [\d.]+ s/)).toBeVisible({ timeout: 60_000 });
    await shot(page, 'flask-rectangle');
    await page.getByRole('button', { name: 'Rectangle' }).click();
    await page.keyboard.press('Control+z');
    await expect(controls.getByLabel('Reach', { exact: true })).toHaveValue('30');
  });

  await test.step('a part without a high mesh: from itself, its edges rounded, judged as well', async () => {
    await controls.getByLabel('from').nth(1).selectOption('');
    await controls.getByLabel('Edges rounded by').fill('0.8');
    await page.keyboard.press('Enter');
    await expect(controls.getByText(/texels wide/)).toBeVisible();
    await bake();
    await expect(row('texels on rounded edges')).toContainText('0.8');
    await expect(row('Stopper')).toContainText('from itself');
    expect(await figure('19 of 20 texels under')).toBeLessThanOrEqual(2);
  });

  await test.step('in the queue: the server is killed in the middle of it and goes on from what it had done', async () => {
    await controls.getByLabel('Rays a texel').fill('900');
    await page.keyboard.press('Enter');
    await saved(page);
    await controls.getByRole('button', { name: 'Queue it' }).click();
    const queued = controls.getByRole('status', { name: 'in the queue' });
    const share = async () => Number(/(\d+) %/.exec((await queued.textContent()) ?? '')?.[1] ?? 0);
    await expect.poll(share, { timeout: 120_000 }).toBeGreaterThan(25);
    await queued.getByText('Put off').click();
    await expect(queued).toContainText('put off; what was done is kept', { timeout: 60_000 });
    await queued.getByText('Go on').click();
    await expect.poll(share, { timeout: 60_000 }).toBeGreaterThan(25);
    const before = await share();
    await server.killed();
    await page.reload();
    // It is as far as it was at once, not from the beginning.
    await expect.poll(share, { timeout: 60_000 }).toBeGreaterThanOrEqual(Math.min(before, 26));
    await expect(queued).toHaveCount(0, { timeout: 300_000 });
    await expect(aside.getByText('This bake is from an older state.')).toHaveCount(0, { timeout: 30_000 });
    await expect(row('texels on rounded edges')).toBeVisible();
  });
});
