import { expect, type Page, test } from './fixtures';
import { compose, openSheet, saved, settled, station } from './helpers';

/** A digit as it leads to a station: not while something is being typed or chosen. */
async function digit(page: Page, n: number): Promise<void> {
  await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
  await page.keyboard.press(String(n));
}

test('the second half by keyboard, with figures that can’t be, undo, and a picture that is stopped', async ({ page }) => {
  const errors: string[] = [];
  page.on('pageerror', (e) => errors.push(e.message));
  await openSheet(page, 'Brass aneroid gauge', 'Brief');
  await page.getByLabel('Texture size').selectOption('256');
  await saved(page);

  await test.step('digits lead to the stations; an empty one says what to do', async () => {
    await digit(page, 5);
    await expect(page.locator('[aria-current=page]')).toContainText('Surface');
    await expect(page.getByText(/No set composed yet/)).toBeVisible();
    await digit(page, 8);
    await expect(page.getByText(/The map set has not been made yet/)).toBeVisible();
    await expect(page.getByRole('heading', { name: /in the way/ })).toBeVisible();
    await page.getByRole('link', { name: 'go there' }).first().click();
    await expect(page.locator('[aria-current=page]')).not.toContainText('Hand-off');
  });

  await test.step('a part without a material is said, and given one it is gone; taken back it is said again', async () => {
    await station(page, 'Surface');
    await page.getByLabel('Case', { exact: true }).selectOption('');
    await expect(page.getByText('One part has no material.')).toBeVisible();
    await page.getByLabel('Case', { exact: true }).selectOption({ label: 'Rubber' });
    await expect(page.getByText('One part has no material.')).toHaveCount(0);
    await saved(page);
    await page.getByRole('button', { name: 'Undo' }).click();
    await expect(page.getByText('One part has no material.')).toBeVisible();
    await page.getByRole('button', { name: 'Redo' }).click();
    await expect(page.getByText('One part has no material.')).toHaveCount(0);
  });

  await test.step('a figure out of range gets a sentence and changes nothing', async () => {
    await page.getByRole('button', { name: 'Rubber', exact: true }).click();
    const roughness = page.getByLabel('Roughness', { exact: true }).first();
    const before = await roughness.inputValue();
    await roughness.fill('3');
    await page.keyboard.press('Enter');
    await expect(page.getByRole('alert').filter({ hasText: 'It can’t be more than 1' })).toBeVisible();
    await page.keyboard.press('Escape');
    await expect(roughness).toHaveValue(before);
    await roughness.fill('1/2');
    await page.keyboard.press('Enter');
    await expect(roughness).toHaveValue('0.5');
    await saved(page);
    await compose(page);
    await expect(page.getByText('What layers touch')).toBeVisible();
  });

  await test.step('the light follows what is asked: a lamp of twice the ratio takes twice the watts of the others', async () => {
    await digit(page, 6);
    const plan = page.getByRole('img', { name: /Light plan from above/ });
    const watts = async () => [...((await plan.getAttribute('aria-label')) ?? '').matchAll(/([\d.]+) watts/g)].map((m) => Number(m[1]));
    await expect(plan).toBeVisible();
    const before = await watts();
    await page.getByRole('tab', { name: 'Fill' }).click();
    await page.getByLabel('Arriving light').fill('2');
    await page.keyboard.press('Enter');
    await expect.poll(async () => (await watts())[1] / (await watts())[0] / (before[1] / before[0])).toBeGreaterThan(1.9);
    await expect(page.getByText(/A grey card facing the key reads 0[.]18/)).toBeVisible();
    await page.getByLabel('Lens').fill('2 m');
    await page.keyboard.press('Enter');
    await expect(page.getByRole('alert').filter({ hasText: 'It can’t be more than' })).toBeVisible();
    await page.keyboard.press('Escape');
    await page.getByLabel('Aperture').selectOption({ label: 'f/1.4' });
    await expect(page.getByText(/the piece reaches from/)).toBeVisible();
    await page.getByLabel('Aperture').selectOption({ index: 0 });
    await saved(page);
  });

  await test.step('a long picture is stopped: nothing is kept of it, and the page says so', async () => {
    await digit(page, 7);
    await expect(page.getByText('Safe to start?')).toBeVisible();
    await expect(page.getByText(/Every part has a material/)).toBeVisible();
    await page.getByLabel('Samples a pixel').fill('4096');
    await page.keyboard.press('Enter');
    await saved(page);
    await page.getByRole('button', { name: 'Render', exact: true }).click();
    const bar = page.getByRole('status', { name: 'Rendering' });
    await expect(bar).toBeVisible();
    await bar.getByRole('button', { name: 'Stop' }).click();
    await settled(page, 'Rendering');
    await expect(page.getByText('Stopped, as asked.')).toBeVisible();
    await expect(page.getByText('noise of two halves')).toHaveCount(0);
    await expect(page.getByRole('button', { name: 'Render', exact: true })).toBeEnabled();
  });

  await test.step('nothing chosen for the archive is said, and nothing is packed', async () => {
    await digit(page, 8);
    for (const name of ['GLB', 'OBJ and MTL', 'textures', 'layout', 'picture', 'spec sheet'])
      await page.getByLabel(name, { exact: true }).uncheck();
    await expect(page.getByRole('alert').filter({ hasText: 'Nothing is chosen' })).toBeVisible();
    await expect(page.getByRole('button', { name: 'Pack and download' })).toBeDisabled();
    await page.getByRole('button', { name: /^For a game engine/ }).click();
    await expect(page.getByRole('button', { name: 'Pack and download' })).toBeEnabled();
    await expect(page.getByText(/OBJ: /)).toHaveCount(0);
    await saved(page);
  });
  expect(errors).toEqual([]);
});
