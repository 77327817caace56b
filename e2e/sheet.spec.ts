import { tinLow } from '../demo/src/tin';
import { expect, test } from './fixtures';
import { bringIn, firstPart, openSheet, saved, station } from './helpers';

test('the sheet by keyboard: stages, help, search, theme', async ({ page }) => {
  await openSheet(page, 'Storm lantern', 'Form');
  await expect(page.locator('[data-plate=piece] canvas')).toBeVisible();
  await page.keyboard.press('1');
  await expect(page).toHaveURL(/\/brief$/);
  await page.keyboard.press('5');
  await expect(page).toHaveURL(/\/surface$/);
  await expect(page.getByRole('button', { name: 'Validity' })).toBeVisible();
  await page.keyboard.press('2');
  await expect(page).toHaveURL(/\/form$/);
  await page.keyboard.press('?');
  await expect(page.getByRole('dialog', { name: 'Keys' })).toContainText('take the last change back');
  await page.keyboard.press('Escape');
  await expect(page.getByRole('dialog')).toHaveCount(0);
  await page.keyboard.press('/');
  await expect(page.getByLabel('Search parts and steps')).toBeFocused();
  await page.keyboard.type('wire');
  // Findings name parts too.
  const parts = page.getByRole('region', { name: 'controls' });
  await expect(parts.getByRole('button', { name: /Guard wires/ })).toBeVisible();
  await expect(parts.getByRole('button', { name: /Chimney/ })).toHaveCount(0);
  await page.keyboard.press('Escape');
  await expect(parts.getByRole('button', { name: /Chimney/ })).toBeVisible();
  await page.keyboard.press('Escape');
  // Low, high and both can be looked at.
  await page.getByRole('button', { name: 'High', exact: true }).click();
  await expect(page.getByText(/high: 1\d\d.\d\d\d triangles/)).toBeVisible();
});

test('a corner is dragged and snaps; the history says what was done', async ({ page }) => {
  await page.goto('/');
  await page.getByRole('button', { name: 'New asset' }).click();
  await page.getByRole('textbox', { name: 'Name', exact: true }).fill('Bollard');
  await page.getByRole('button', { name: 'Start with the brief' }).click();
  await page.getByRole('link', { name: 'Go to Form' }).click();
  await firstPart(page);
  await page.getByRole('button', { name: 'Draw' }).click();
  await saved(page);
  const corner = await page.locator('[data-point=p2]').boundingBox();
  const other = await page.locator('[data-point=p1]').boundingBox();
  if (!corner || !other) throw new Error('the corners are not drawn');
  // To just beside the radius of the corner below: it snaps to it.
  await page.mouse.move(corner.x + 4, corner.y + 4);
  await page.mouse.down();
  await page.mouse.move(corner.x + 20, corner.y + 4, { steps: 3 });
  await page.mouse.move(other.x + 7, corner.y + 4, { steps: 3 });
  await page.mouse.up();
  await expect(page.getByLabel('Radius from axis')).toHaveValue('20');
  await saved(page);
  await page.getByRole('button', { name: 'History' }).click();
  await expect(page.getByText('changed Turned profile').first()).toBeVisible();
  await expect(page.getByText('added the part Part 1')).toBeVisible();
  await page.keyboard.press('Escape');
  await page.getByLabel('Then “wall”').or(page.getByLabel('Body')).first().selectOption({ index: 1 });
  await saved(page);
});

test('a model can be dropped on the workshop', async ({ page }) => {
  await page.goto('/');
  await expect(page.getByRole('article').first()).toBeVisible();
  const transfer = await page.evaluateHandle((content) => {
    const data = new DataTransfer();
    data.items.add(new File([content], 'dropped-tin.obj'));
    return data;
  }, tinLow());
  await page.locator('main').dispatchEvent('dragenter', { dataTransfer: transfer });
  await page.locator('main').dispatchEvent('dragover', { dataTransfer: transfer });
  await expect(page.getByText('Drop the model here')).toBeVisible();
  await page.locator('main').dispatchEvent('drop', { dataTransfer: transfer });
  await page.getByLabel('One unit is').selectOption('cm');
  await bringIn(page);
  await expect(page.getByRole('heading', { name: 'Dropped tin' })).toBeVisible();
  await expect(page.locator('header')).toContainText(/2.100 × 960 × 1.400\smm/);
});

test('lengths are read in the unit of the brief, in fields and in sentences, and nothing is made anew for it', async ({ page }) => {
  await openSheet(page, 'Brass aneroid gauge', 'Form');
  const controls = page.getByRole('region', { name: 'controls' });
  const figures = page.getByRole('region', { name: 'findings and advice' });
  await expect(page.locator('header')).toContainText(/\d\smm ·.*closest view [\d.]+\smm/);
  await expect(figures).toContainText(/[\d.]+\smm/);
  const list = async () => ((await controls.textContent()) ?? '').match(/Ø [\d.]+/)?.[0] ?? '';
  const inMm = await list();
  await station(page, 'Brief');
  await page.getByLabel('Lengths in').selectOption('in');
  await saved(page);
  await expect(page.locator('header')).toContainText(/\d\sin ·.*closest view [\d.]+\sin/);
  await station(page, 'Form');
  await expect(page.locator('header').getByRole('status')).toHaveText('saved');
  // 25.4 mm to the inch: what the list of steps says is that many times smaller, to a thousandth.
  const inInches = await list();
  expect(Math.abs(Number(inInches.slice(2)) * 25.4 - Number(inMm.slice(2)))).toBeLessThan(0.03);
  await expect(figures).toContainText(/[\d.]+\sin/);
  // No length is left in mm, but for what is called so: a lens, areas, shares of a millimetre.
  expect(((await figures.textContent()) ?? '').replace(/mm²|mm lens|1\/mm/g, '')).not.toMatch(/\d\smm\b/);
  await expect(page.getByRole('navigation', { name: 'stages' }).getByTitle(/Form: stale/)).toHaveCount(0);
});

test('a day is typed in the order it is written in, and taken away; a colour by its digits', async ({ page }) => {
  await openSheet(page, 'Biscuit tin', 'Brief');
  await expect(page.locator('header')).toContainText('none set');
  await page.getByRole('spinbutton', { name: 'Year' }).click();
  await page.keyboard.type('20990115');
  await saved(page);
  await expect(page.locator('header')).toContainText(/days left/);
  await page.reload();
  await expect(page.getByRole('spinbutton', { name: 'Year' })).toHaveText('2099');
  await expect(page.getByRole('spinbutton', { name: 'Day' })).toHaveText('15');
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.locator('header')).not.toContainText('2099');

  await station(page, 'Surface');
  const digits = page.getByLabel('Colour, hexadecimal', { exact: true });
  await digits.fill('336699');
  await digits.press('Enter');
  await saved(page);
  await expect(page.getByLabel('Colour', { exact: true })).toHaveValue('#336699');
  // What is no colour is not taken.
  await digits.fill('#33');
  await digits.press('Enter');
  await expect(digits).toHaveValue('#336699');
});
