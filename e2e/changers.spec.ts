import { expect, type Page, test } from './fixtures';
import { firstPart, saved } from './helpers';

async function fill(page: Page, label: string, value: string, n = 0): Promise<void> {
  const field = page.getByRole('textbox', { name: label, exact: true }).nth(n);
  await field.fill(value);
  await field.press('Enter');
}
async function addPart(page: Page, kind: RegExp): Promise<void> {
  await page.getByRole('button', { name: 'Add a part' }).click();
  await page.getByRole('menuitem', { name: kind }).click();
}
async function addStep(page: Page, kind: RegExp): Promise<void> {
  await page.getByRole('button', { name: 'Add a step' }).click();
  await page.getByRole('menuitem', { name: kind }).click();
}
/** What the open step came to. */
const result = (page: Page) => page.locator('[data-step-result]');

test('a handle is joined, a wall made, a bevel held, a window cut, 250 ml filled in, a tray slid until it clashes', async ({ page }) => {
  await page.goto('/');
  await page.getByRole('button', { name: 'New asset' }).click();
  await page.getByRole('textbox', { name: 'Name', exact: true }).fill('Measuring cup');
  await page.getByRole('button', { name: 'Start with the brief' }).click();
  await page.getByRole('link', { name: 'Go to Form' }).click();

  // A turned body with a loop across its wall, and a handle whose two ends stand on it.
  await firstPart(page);
  await addStep(page, /^cut by a plane/);
  await page.getByLabel('What stays').selectOption({ label: 'all, with edges along it' });
  await fill(page, 'At', '16');
  await addStep(page, /^bar along a path/);
  await page.getByRole('button', { name: 'Add a point' }).click();
  for (const [n, x, y] of [
    [0, '23', '24'],
    [1, '42', '24'],
    [2, '42', '7'],
    [3, '23', '7'],
  ] as const) {
    await fill(page, 'x', x, n);
    await fill(page, 'y', y, n);
  }
  await fill(page, 'Bend radius', '5', 1);
  await fill(page, 'Bend radius', '5', 2);
  await addStep(page, /^join rims/);
  await expect(result(page)).toContainText(/rims joined\s*2/);
  await expect(result(page)).toContainText('worst face at a rim');

  // A box is hollowed out; its wall can't be thicker than half of it.
  await addPart(page, /^box/);
  await fill(page, 'Corner radius', '0');
  await addStep(page, /^bevel/);
  await fill(page, 'Size', '60');
  await expect(result(page).getByRole('status')).toContainText(/“Bevel” of 60\smm has only 20\smm of room; 19.6\smm are taken/);
  await expect(page.getByRole('region', { name: 'Findings', exact: true })).toContainText('has only 20 mm of room');
  await fill(page, 'Size', '1.5');
  await expect(page.getByText('has only 20 mm of room')).toHaveCount(0);
  await addStep(page, /^wall/);
  await expect(result(page)).toContainText(/thickest that fits\s*20/);
  // It was put before the bevel, which now rounds the inside too.
  const steps = await page.getByRole('checkbox', { name: / is on$/ }).evaluateAll((list) => list.map((x) => x.getAttribute('aria-label')));
  expect(steps).toEqual(['Box is on', 'Wall is on', 'Bevel is on']);
  await fill(page, 'Wall', '25');
  await expect(page.getByRole('alert').filter({ hasText: 'A wall of 25 mm doesn’t fit' })).toBeVisible();
  await fill(page, 'Wall', '3');

  // A window through it, cut by a part that isn't delivered.
  await addPart(page, /^box/);
  await fill(page, 'Width (x)', '24');
  await fill(page, 'Height (y)', '12');
  await fill(page, 'Depth (z)', '200');
  await page.getByRole('button', { name: /^Placement and travel/ }).click();
  await fill(page, 'Move along y', '14');
  await page.getByLabel('Delivered').selectOption({ label: 'only for other steps' });
  await page.getByRole('button', { name: /^2\s*Part 2/ }).click();
  await addStep(page, /^with another part/);
  await expect(page.getByRole('alert').filter({ hasText: 'is not there' })).toBeVisible();
  await page.getByLabel('Part', { exact: true }).selectOption({ label: 'Part 3' });
  // 80 × 40 × 60 outside, 74 × 34 × 54 inside, less two windows of 24 × 12 through walls of 3, less what the bevels take.
  await expect(result(page)).toContainText(/volume\s*5\d\.\d+ ml/);

  // A vessel holds 250 ml at a level of 250 000 / (76 · 56).
  await addPart(page, /^box/);
  await page.getByLabel('Body').selectOption({ label: 'hollow, open above' });
  await fill(page, 'Height (y)', '80');
  await fill(page, 'Corner radius', '0');
  await page.getByRole('button', { name: /^Placement and travel/ }).click();
  await fill(page, 'Move along x', '160');
  await addPart(page, /^liquid in a vessel/);
  await page.getByLabel('In', { exact: true }).selectOption({ label: 'Part 4' });
  await fill(page, 'Millilitres', '250');
  await expect(result(page)).toContainText(/level above the bottom\s*58\.74\smm/);
  await expect(result(page)).toContainText(/volume\s*250 ml/);
  await fill(page, 'Millilitres', '999');
  await expect(page.getByRole('alert').filter({ hasText: 'more than the vessel holds' })).toBeVisible();
  await fill(page, 'Millilitres', '250');

  // A tray made to fit it, with half a millimetre round it: slid sideways it meets the wall there.
  await addPart(page, /^made to fit an opening/);
  await page.getByLabel('Of part').selectOption({ label: 'Part 4' });
  await fill(page, 'Measured at', '70');
  await fill(page, 'Clearance y', '62');
  await fill(page, 'Stands', '10');
  await expect(result(page)).toContainText(/size along x\s*75\smm/);
  await page.getByRole('button', { name: /^Placement and travel/ }).click();
  await page.getByRole('button', { name: 'Let it slide or turn' }).click();
  const travel = page.locator('[data-travel]');
  await expect(travel.getByRole('status')).toContainText(/clear all the way; nearest 0.5\smm to Part 4/);
  await travel.getByLabel('Axis').selectOption({ label: 'x' });
  await expect(travel.getByRole('status')).toContainText(/runs into Part 4 at 0.5\smm/);
  await expect(page.getByRole('region', { name: 'Findings', exact: true })).toContainText(/Part 6 runs into Part 4 at 0.5\smm/);
  await page.getByRole('slider', { name: 'Look at it on its way' }).press('End');
  await expect(travel.getByRole('status')).toContainText('shown at 40 mm');

  // What is wanted between them is measured.
  await page.getByRole('button', { name: 'Add', exact: true }).click();
  const relation = page.locator('[data-relation]');
  await relation.getByLabel('Part', { exact: true }).selectOption({ label: 'Part 6' });
  await relation.getByLabel('and part', { exact: true }).selectOption({ label: 'Part 4' });
  await expect(relation).toContainText('a gap of 0.5 mm');
  await expect(page.getByRole('region', { name: 'Findings', exact: true })).toContainText(
    /Part 6 and Part 4: a gap of 0.5\smm, wanted a gap of 0.4\smm/,
  );
  await fill(page, 'Gap', '0.5');
  await expect(page.getByText('1 as wanted')).toBeVisible();
  await saved(page);
  await page.reload();
  await expect(page.getByText('1 as wanted')).toBeVisible();
});
