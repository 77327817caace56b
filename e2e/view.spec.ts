import type { Locator, Page } from '@playwright/test';
import { decodePng } from '../core/src/image/png';
import { expect, test } from './fixtures';
import { openSheet } from './helpers';

/** Brightness of every pixel of what is drawn, 0…255, and how wide a row is. */
async function drawn(plate: Locator): Promise<{ light: Float64Array; width: number }> {
  const { data, width, height, channels } = decodePng(await plate.screenshot());
  const light = Float64Array.from(
    { length: width * height },
    (_, i) => (data[channels * i] + data[channels * i + 1] + data[channels * i + 2]) / 3,
  );
  return { light, width };
}

/** Once two pictures in turn are the same: nothing is loaded, computed or drawn any more. */
async function atRest(page: Page, plate: Locator) {
  let before = await drawn(plate);
  for (let i = 0; i < 20; i++) {
    await page.waitForTimeout(700);
    const now = await drawn(plate);
    if (now.light.every((v, k) => v === before.light[k])) return now;
    before = now;
  }
  throw new Error('The view doesn’t come to rest.');
}

test('the view: shade on the ground, corners shaded when wanted and as it was left', async ({ page }) => {
  await openSheet(page, 'Storm lantern', 'Form');
  const plate = page.locator('[data-plate=piece] canvas');
  await expect(plate).toBeVisible({ timeout: 60_000 });
  const plain = await atRest(page, plate);

  const menu = () => page.getByRole('button', { name: 'view on the piece' }).click();
  await test.step('corners are shaded: some of it is darker, nothing is lighter', async () => {
    await menu();
    const item = page.getByRole('menuitemcheckbox', { name: 'Shade corners' });
    // Where a processor draws they are not shaded unless somebody wants it.
    await expect(item).toHaveAttribute('aria-checked', 'false');
    await item.click();
    await expect(page.getByRole('menu')).toHaveCount(0);
    await page.mouse.move(0, 0);
    await expect
      .poll(async () => {
        const now = await atRest(page, plate);
        const off = now.light.map((v, i) => v - plain.light[i]);
        return { darker: off.filter((d) => d < -12).length > 400, lighter: off.filter((d) => d > 3).length };
      })
      .toEqual({ darker: true, lighter: 0 });
  });

  await test.step('it is remembered', async () => {
    await page.reload();
    await expect(plate).toBeVisible({ timeout: 60_000 });
    await menu();
    const item = page.getByRole('menuitemcheckbox', { name: 'Corners unshaded' });
    await expect(item).toHaveAttribute('aria-checked', 'true');
    await item.click();
    await expect(page.getByRole('menu')).toHaveCount(0);
    await page.mouse.move(0, 0);
    await expect.poll(async () => (await atRest(page, plate)).light.filter((v, i) => Math.abs(v - plain.light[i]) > 3).length).toBe(0);
  });

  await test.step('the ground is darkest beside what stands on it', () => {
    const { light, width } = plain;
    const y = Math.floor(0.83 * (light.length / width));
    const row = light.subarray(y * width, (y + 1) * width);
    // From the middle of the foot to the right, past its edge.
    let edge = width >> 1;
    while (edge < width && Math.abs(row[edge + 4] - row[edge]) < 40) edge++;
    const [near, far] = [row[edge + 8], row[edge + 50]];
    expect(far - near).toBeGreaterThan(8);
    expect(row[4] - near).toBeGreaterThan(25);
  });
});
