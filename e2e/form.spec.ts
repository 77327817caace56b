import { expect, type Locator, type Page, test } from './fixtures';
import { firstPart, saved, station } from './helpers';
import { PNG } from './picture-file';

/** Opens a new, empty asset at Form. */
async function newForm(page: Page, name: string): Promise<void> {
  await page.goto('/');
  await page.getByRole('button', { name: 'New asset' }).click();
  await page.getByRole('textbox', { name: 'Name', exact: true }).fill(name);
  await page.getByRole('button', { name: 'Start with the brief' }).click();
  await page.getByRole('link', { name: 'Go to Form' }).click();
}

/** The row of a part in the list. */
const partRow = (page: Page, n: number): Locator =>
  page.locator('button[aria-expanded]').filter({ has: page.getByText(`Part ${n}`, { exact: true }) });

/** Clicks on a drawing at a place in mm, by what the drawing shows when it is empty: 0…60 across and 0…80 up, its middle 22 px below the plate’s. */
function pencil(page: Page, sketch: Locator) {
  return async (x: number, y: number): Promise<void> => {
    const box = await sketch.boundingBox();
    if (!box) throw new Error('no sketch on the plate');
    const scale = Math.min((box.width - 150) / 60, (box.height - 190) / 80);
    await page.mouse.click(box.x + box.width / 2 + (x - 30) * scale, box.y + box.height / 2 + 22 - (y - 40) * scale);
  };
}

async function say(page: Page, sketch: Locator, ids: string[], words: string): Promise<void> {
  const pick = async (id: string, more: boolean) => {
    const what = sketch.locator(`[data-point="${id}"], [data-curve="${id}"]`).first();
    await what.click({ force: true, ...(more && { modifiers: ['Shift'] }) });
  };
  for (const [i, id] of ids.entries()) await pick(id, i > 0);
  await page.getByRole('button', { name: words, exact: true }).click();
}

test('a sketched and constrained profile is turned; seam and region stay through named dimensions, a bar and an array', async ({
  page,
}) => {
  await newForm(page, 'Mooring lamp');
  await firstPart(page);
  await page.getByRole('button', { name: 'Draw' }).click();
  await page.getByRole('button', { name: 'Sketch it anew' }).click();
  const sketch = page.getByRole('application', { name: /^Sketch of Turned profile/ });
  await expect(sketch).toBeVisible();
  await expect(page.getByText('Nothing is drawn yet')).toBeVisible();

  // A foot from the axis, a wall that leans, a shoulder.
  await page.getByRole('button', { name: 'Line', exact: true }).click();
  const at = pencil(page, sketch);
  for (const [x, y] of [
    [0, 0],
    [30, 0],
    [33, 40],
    [18, 55],
  ])
    await at(x, y);
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Move', exact: true }).click();
  await expect(page.getByText('level, line 1')).toBeVisible();
  await expect(page.getByText(/ways left to move/)).toBeVisible();

  // Constraints, until nothing can move; one that contradicts is refused with the reason.
  await say(page, sketch, ['p1'], 'nail down');
  await say(page, sketch, ['s1'], 'distance');
  await page.getByLabel(/^distance, line 1/).fill('28');
  await page.keyboard.press('Enter');
  await say(page, sketch, ['s2'], 'upright');
  await say(page, sketch, ['s2'], 'distance');
  await page.getByLabel(/^distance, line 2/).fill('42');
  await page.keyboard.press('Enter');
  await say(page, sketch, ['s3'], 'distance');
  await say(page, sketch, ['s2', 's3'], 'angle');
  await page.getByLabel(/^angle, line 2/).fill('45');
  await page.keyboard.press('Enter');
  await expect(page.getByText('Fully determined.')).toBeVisible();
  await say(page, sketch, ['s1', 's2'], 'square');
  await expect(page.getByRole('alert').filter({ hasText: '“square, line 1 and line 2” says nothing new: it follows from' })).toBeVisible();
  await saved(page);
  await expect(page.getByRole('application', { name: 'Sketch of Turned profile: fully determined' })).toBeVisible();

  // The wall's height is named; the sketch follows the name.
  await page.getByRole('button', { name: 'Name a dimension' }).click();
  await page.getByLabel('Name of size_1').fill('wall_height');
  await page.keyboard.press('Enter');
  await page.getByLabel('Formula of wall_height').fill('wall_height + 1');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('alert').filter({ hasText: 'goes round in a circle' })).toBeVisible();
  await page.getByLabel('Formula of wall_height').fill('4.2cm');
  await page.keyboard.press('Enter');
  await page.getByLabel(/^distance, line 2/).fill('wall_height');
  await page.keyboard.press('Enter');
  await expect(page.getByText('= wall_height')).toBeVisible();

  // A region by a loop and a seam, picked on the piece.
  await page.getByRole('button', { name: 'Piece', exact: true }).click();
  await page.getByRole('button', { name: /^Regions and seams/ }).click();
  await page.getByRole('button', { name: 'Add a region' }).click();
  await page.getByRole('button', { name: 'loop', exact: true }).click();
  const canvas = page.locator('[data-plate=piece] canvas');
  const middle = await canvas.boundingBox();
  if (!middle) throw new Error('no piece on the plate');
  await page.mouse.click(middle.x + middle.width / 2, middle.y + middle.height / 2);
  const region = page.locator('[data-region]');
  await expect(region).toContainText(/\d\d faces/);
  await page.getByRole('button', { name: 'Done picking' }).click();
  await page.getByRole('button', { name: 'Pick seams' }).click();
  await page.mouse.click(middle.x + middle.width / 2, middle.y + middle.height / 2);
  await expect(page.getByText('1 seam picked')).toBeVisible();
  await page.getByRole('button', { name: 'Done picking seams' }).click();
  const faces = async () => Number((await region.textContent())?.match(/(\d+) faces/)?.[1]);
  const before = await faces();

  // A bar in a part of its own, three times round the axis.
  await page.getByRole('button', { name: 'Add a part' }).click();
  await page.getByRole('menuitem', { name: /^bar along a path/ }).click();
  await page.getByRole('button', { name: 'Add a step' }).click();
  await page.getByRole('menuitem', { name: /^array round an axis/ }).click();
  await expect(page.getByLabel('Copies')).toHaveValue('3');
  await saved(page);

  // The named dimension changes: the piece grows, region and seam stay.
  const size = page.locator('header').getByText(/× \d+ ×/);
  const tall = async () => Number((await size.textContent())?.match(/× (\d+) ×/)?.[1]);
  const was = await tall();
  await page.getByLabel('Formula of wall_height').fill('60');
  await page.keyboard.press('Enter');
  await expect.poll(tall).toBeGreaterThan(was + 10);
  await partRow(page, 1).click();
  await page.getByRole('button', { name: /^Regions and seams/ }).click();
  await expect(page.getByText('1 seam picked')).toBeVisible();
  expect(await faces()).toBe(before);
  // With other counts the loop is still the whole loop.
  await page.getByLabel(/^sides round/).fill('24');
  await page.keyboard.press('Enter');
  await expect.poll(faces).toBe(24);
  await expect(page.getByText(/no longer has/)).toHaveCount(0);
  await saved(page);

  // All of it is there after a reload; taking the wall away under them is said.
  await page.reload();
  await partRow(page, 1).click();
  await page.getByRole('button', { name: /^Regions and seams/ }).click();
  await expect.poll(faces).toBe(24);
  await expect(page.getByText('1 seam picked')).toBeVisible();
  await page.getByRole('button', { name: 'Draw' }).click();
  await sketch.locator('[data-curve=s2]').click({ force: true });
  await page.keyboard.press('Delete');
  await expect(page.getByText(/has to be one open line from end to end; it is 2 pieces/).first()).toBeVisible();
  await page.getByRole('button', { name: 'Back to corners' }).click();
  await expect(page.getByText(/The region “Region 1” was picked on a surface that Part 1 no longer has/)).toBeVisible();
});

/** Two places on the piece give a distance. */
async function measured(page: Page): Promise<void> {
  await page.getByRole('button', { name: 'measure on the piece' }).click();
  await page.getByRole('menuitem', { name: 'Distance' }).click();
  const middle = async () => {
    const box = await page.locator('[data-plate=piece] canvas').boundingBox();
    if (!box) throw new Error('no piece on the plate');
    return { x: box.x + box.width / 2, y: box.y + box.height / 2 };
  };
  // On a busy machine the piece may not be drawn yet, nor the plate be as large as it will be: a click beside it takes no place.
  await expect(async () => {
    const { x, y } = await middle();
    await page.mouse.click(x, y);
    await expect(page.getByText(/click one more place/)).toBeVisible({ timeout: 4000 });
  }).toPass({ timeout: 45_000 });
  const { x, y } = await middle();
  await page.mouse.click(x + 6, y + 24);
  await expect(page.getByText(/^distance [\d.]+\smm/)).toBeVisible();
  await page.keyboard.press('Escape');
}

test('every kind of part can be begun; a step is doubled, moved, kept to one mesh; the piece is measured', async ({ page }) => {
  await newForm(page, 'One of each');
  const kinds = [
    'turned profile',
    'box',
    'panel',
    'prism',
    'plate',
    'bar along a path',
    'blade',
    'embossed band',
    'cushion',
    'folded tube',
  ];
  for (const [i, kind] of kinds.entries()) {
    await page.getByRole('button', { name: 'Add a part' }).click();
    await page.getByRole('menuitem', { name: new RegExp(`^${kind}`) }).click();
    await expect(partRow(page, i + 1)).toBeVisible();
    if (i === 0) await measured(page);
  }
  await saved(page);
  await expect(page.getByText('nothing found').or(page.getByText(/no material/).first())).toBeVisible();
  await expect(page.getByRole('alert').filter({ hasText: /\w/ })).toHaveCount(0);

  await partRow(page, 2).click();
  await page.getByRole('button', { name: 'Double Box' }).click();
  await expect(page.getByRole('button', { name: 'Remove Box (2)' })).toBeVisible();
  await page.getByLabel('Belongs to').selectOption('high');
  await expect(page.getByText(/box · high only/)).toBeVisible();
  await page.getByRole('button', { name: 'Move Box (2) up' }).click();
  await expect(page.getByRole('button', { name: 'Move Box (2) up' })).toHaveCount(0);
  await page.getByLabel('Corner radius').fill('400');
  await page.keyboard.press('Enter');
  await page.getByLabel('Belongs to').selectOption('both');
  await expect(page.getByRole('alert').filter({ hasText: 'Corners of 400 mm don’t fit' })).toBeVisible();

  // A picture behind it, scaled by two clicks; a file that is none is refused.
  const input = page.getByLabel('Picture file');
  await input.setInputFiles({ name: 'notes.png', mimeType: 'image/png', buffer: Buffer.from('no picture') });
  await expect(page.getByText('“notes.png” is not a picture that can be read')).toBeVisible();
  await input.setInputFiles({ name: 'front.png', mimeType: 'image/png', buffer: PNG });
  await page.getByRole('button', { name: 'Scale', exact: true }).click();
  const picture = page.getByRole('img', { name: /click two places/ });
  const p = await picture.boundingBox();
  if (!p) throw new Error('no picture to scale');
  await page.mouse.click(p.x + p.width * 0.25, p.y + p.height / 2);
  await page.mouse.click(p.x + p.width * 0.75, p.y + p.height / 2);
  await page.getByLabel('Distance between them').fill('50');
  await page.keyboard.press('Enter');
  await page.getByRole('button', { name: 'Set the scale' }).click();
  await expect(page.getByText(/^(99|100)(\.\d)? × /)).toBeVisible();
  await saved(page);
  // A size from a table becomes named dimensions.
  await page.getByRole('button', { name: 'Pick an everyday size' }).click();
  await page.getByRole('button', { name: /^A4/ }).click();
  await expect(page.getByLabel('Formula of paper_a4_width')).toHaveValue('210');
  // A colour is taken from the picture, by keyboard: one pixel of its frame.
  await station(page, 'Light');
  await page.getByRole('button', { name: 'Paper, from a picture' }).click();
  const dialog = page.getByRole('dialog');
  await dialog.getByLabel('Mean of a square of').fill('1');
  await page.keyboard.press('Enter');
  // It says when it can be picked from.
  await expect(dialog.getByRole('status')).toHaveText('press the place in the picture');
  await dialog.getByRole('application').focus();
  for (let i = 0; i < 17; i++) await page.keyboard.press('ArrowUp');
  await expect(dialog.getByRole('status')).toHaveText('#1e3c50');
  await page.keyboard.press('Enter');
  await expect(dialog).toHaveCount(0);
  await expect(page.getByLabel('Paper, hexadecimal')).toHaveValue('#1e3c50');
  await saved(page);
});
