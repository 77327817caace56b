import { briefFor } from '@wellmorph/core/brief/brief';
import { newDocument } from '@wellmorph/core/pipeline/document';
import { CREAM } from '../demo/src/materials';
import { lineSketch, part, path, step } from '../demo/src/written';
import { expect, type Locator, type Page, test } from './fixtures';
import { firstPart, saved } from './helpers';

async function newForm(page: Page, name: string): Promise<void> {
  await page.goto('/');
  await page.getByRole('button', { name: 'New asset' }).click();
  await page.getByRole('textbox', { name: 'Name', exact: true }).fill(name);
  await page.getByRole('button', { name: 'Start with the brief' }).click();
  await page.getByRole('link', { name: 'Go to Form' }).click();
}

/** Points and curves are picked where they are drawn; the middle of an arc's box is beside it. */
async function choose(sketch: Locator, ...ids: string[]): Promise<void> {
  for (const [i, id] of ids.entries()) {
    const point = sketch.locator(`[data-point="${id}"]`);
    if ((await point.count()) > 0) await point.click({ force: true, ...(i > 0 && { modifiers: ['Shift'] }) });
    else await sketch.locator(`[data-curve="${id}"]`).dispatchEvent('pointerdown', { shiftKey: i > 0, bubbles: true });
  }
}

test('a scoop is swept: sections along a side, cut to a plan whose corners are rounded, a wall; what can’t be is said', async ({
  page,
}) => {
  const controls = page.getByRole('region', { name: 'controls' });
  const plate = page.getByLabel('what the plate shows');
  const sketch = page.getByRole('application', { name: /^Sketch of Sweep/ });
  const alert = controls.getByRole('alert');
  const triangles = async () => Number((await controls.getByText(/sweep of sections · [\d\s]+ tri/).textContent())?.replace(/\D/g, ''));

  await newForm(page, 'Bailer');
  await firstPart(page, 'sweep of sections');
  await expect.poll(triangles).toBeGreaterThan(100);

  await test.step('its ends follow a plan, rounded by a feature that is kept', async () => {
    await controls.getByLabel('Ends at').selectOption('plan');
    await plate.getByRole('button', { name: 'Plan' }).click();
    await choose(sketch, 'a', 'd');
    await page.getByRole('button', { name: '+ round' }).click();
    await expect(page.getByRole('heading', { name: 'Made of it' })).toBeVisible();
    await page.getByLabel('Radius', { exact: true }).fill('6');
    await page.keyboard.press('Enter');
    await expect(alert).toHaveCount(0);
    await expect.poll(triangles).toBeGreaterThan(100);
    await saved(page);
    // More than fits is refused with what does, and the piece waits.
    await page.getByLabel('Radius', { exact: true }).fill('60');
    await page.keyboard.press('Enter');
    await expect(alert).toContainText(/A rounded corner in the sketch of “Sweep” of R 60\smm doesn’t fit between “.*” and “.*”; up to \d/);
    await page.keyboard.press('Control+z');
    await expect(alert).toHaveCount(0);
    await expect(page.getByLabel('Radius', { exact: true })).toHaveValue(/^6\b/);
  });

  await test.step('teeth of the plan are kept by the sweep, and taken back', async () => {
    const before = await triangles();
    await choose(sketch, 'l1');
    await page.getByRole('button', { name: '+ teeth' }).click();
    await expect(page.getByText(/A row of teeth: “right edge”, \d+ at \d/)).toBeVisible();
    await expect.poll(triangles, { timeout: 20_000 }).toBeGreaterThan(1.4 * before);
    await expect(alert).toHaveCount(0);
    await page.keyboard.press('Control+z');
    await expect.poll(triangles).toBe(before);
  });

  await test.step('a section is given its radius, and another is put between', async () => {
    await plate.getByRole('button', { name: 'Section 1' }).click();
    await choose(sketch, 'h1');
    await page.getByRole('button', { name: 'radius', exact: true }).click();
    await page.getByLabel(/^radius, hollow/).fill('30');
    await page.keyboard.press('Enter');
    await expect(alert).toHaveCount(0);
    await controls.getByRole('button', { name: 'Add a section' }).click();
    // It would stand beyond the path’s end: that is said, and mended.
    await expect(alert).toContainText(/A section of “Sweep” stands 240\smm along its path, which is 120\smm long/);
    await controls.getByLabel('Along').nth(2).fill('60');
    await page.keyboard.press('Enter');
    await expect(alert).toHaveCount(0);
    await expect(plate.getByRole('button', { name: 'Section 3' })).toBeVisible();
    await saved(page);
  });

  await test.step('a wall that would fold is refused with what bends there', async () => {
    const before = await triangles();
    await controls.getByLabel('Drawn is').selectOption('lower');
    const wall = controls.getByLabel(/^Wall/);
    await wall.fill('70');
    await page.keyboard.press('Enter');
    await expect(alert).toContainText(/A wall of 70\smm doesn’t fit “Sweep”: near .* it bends round \d/);
    await wall.fill('2');
    await page.keyboard.press('Enter');
    await expect(alert).toHaveCount(0);
    await expect.poll(triangles).toBeGreaterThan(before / 2);
  });

  await test.step('all of it is there after a reload', async () => {
    await saved(page);
    const before = await triangles();
    await page.reload();
    await controls.getByRole('button', { name: /^\d+ ?Part 1/ }).click();
    await expect.poll(triangles).toBe(before);
    await expect(plate.getByRole('button', { name: 'Section 3' })).toBeVisible();
    await expect(page.getByText(/open rim|can’t be built/)).toHaveCount(0);
  });
});

test('lines are drawn by typed lengths, trimmed, run on and repeated', async ({ page }) => {
  await newForm(page, 'Rack');
  await firstPart(page, 'plate');
  await page.getByRole('button', { name: 'Draw' }).click();
  const sketch = page.getByRole('application', { name: /^Sketch of Plate/ });
  await expect(sketch).toBeVisible();
  const curves = sketch.locator('[data-curve]');
  const count = await curves.count();
  const beside = async (id: string, dx: number, dy: number) => {
    const box = await sketch.locator(`[data-point="${id}"]`).boundingBox();
    if (!box) throw new Error(`no point ${id}`);
    return { x: box.x + box.width / 2 + dx, y: box.y + box.height / 2 + dy };
  };
  const corner = (await sketch.locator('[data-point]').first().getAttribute('data-point')) ?? '';

  await test.step('a length typed while drawing is kept as a distance', async () => {
    await page.getByRole('button', { name: 'Line', exact: true }).click();
    const from = await beside(corner, 60, -40);
    await page.mouse.click(from.x, from.y);
    await page.mouse.move(from.x + 80, from.y);
    await page.keyboard.press('2');
    await expect(page.getByLabel('Length', { exact: true })).toHaveValue('2');
    await page.keyboard.type('1.5');
    await page.keyboard.press('Enter');
    await expect(curves).toHaveCount(count + 1);
    await expect(page.getByLabel(/^distance, line/)).toHaveValue(/21\.5/);
    await page.keyboard.press('Escape');
    await page.getByRole('button', { name: 'Move', exact: true }).click();
  });

  await test.step('it runs on to the outline, and what is too long is trimmed', async () => {
    const line = curves.last();
    const id = (await line.getAttribute('data-curve')) ?? '';
    const long = async () => (await sketch.locator(`[data-curve="${id}"]`).boundingBox())?.width ?? 0;
    const [was, box] = [await long(), await line.boundingBox()];
    if (!box) throw new Error('no line');
    await page.getByRole('button', { name: 'Extend', exact: true }).click();
    await page.mouse.click(box.x + box.width - 4, box.y + box.height / 2);
    await expect.poll(long).toBeGreaterThan(was + 5);
    await page.keyboard.press('Control+z');
    await expect.poll(long).toBeLessThan(was + 1);
    // Nothing crosses it: trimmed, it goes altogether.
    await page.getByRole('button', { name: 'Trim', exact: true }).click();
    await page.mouse.click(box.x + box.width / 2, box.y + box.height / 2);
    await expect(curves).toHaveCount(count);
    await page.getByRole('button', { name: 'Move', exact: true }).click();
  });

  await test.step('corners bevelled; a hole drawn by its radius goes round a point', async () => {
    await choose(sketch, corner);
    await page.getByRole('button', { name: '+ bevel' }).click();
    await expect(page.getByText(/A bevelled corner: point 1/)).toBeVisible();
    await page.getByRole('button', { name: 'Circle', exact: true }).click();
    const m = await beside(corner, 90, -60);
    await page.mouse.click(m.x, m.y);
    await page.keyboard.press('2');
    await page.keyboard.press('Enter');
    // Four sides, the bevel that was made of two of them, the hole.
    await expect(curves).toHaveCount(count + 2);
    await page.getByRole('button', { name: 'Move', exact: true }).click();
    const hole = (await curves.nth(count).getAttribute('data-curve')) ?? '';
    await choose(sketch, hole);
    await page.getByRole('button', { name: '+ row' }).click();
    await page.getByLabel('Copies', { exact: true }).fill('2');
    await page.keyboard.press('Enter');
    await expect(page.getByText(/A row of copies: “circle/)).toBeVisible();
    await saved(page);
    await expect(page.getByRole('region', { name: 'controls' }).getByRole('alert')).toHaveCount(0);
  });
});

/** Pegs in a row, a dish with a kink in its side, and a plate to draw on. */
const rack = () => {
  return {
    ...newDocument('Peg rack', { ...briefFor('game'), sizeMm: [120, 40, 60] }),
    materials: [CREAM],
    parts: [
      part('pegs', 'Pegs', 'body', CREAM.id, [
        step('box', 'peg', 'Peg', { width: 6, height: 20, depth: 6, corner: 0, edgeRadius: 0 }),
        step('row', 'peg-row', 'Row', { count: 4, dx: 20, dy: 0, dz: 0 }),
      ]),
      part('dish', 'Dish', 'body', CREAM.id, [
        step('sweep', 'dish-sweep', 'Dish', {
          along: 'points',
          path: path([0, 0, 60], [40, 0, 60, 60], [90, 14, 60]),
          stations: [
            {
              id: 's',
              at: 0,
              sketch: lineSketch(
                [
                  [-20, 5, 5],
                  [20, 5],
                ],
                false,
              ),
            },
          ],
          wall: 1.5,
        }),
        step('fair', 'dish-fair', 'Fairing', { within: 0.3 }),
      ]),
      part('boards', 'Boards', 'body', CREAM.id, [
        step('plate', 'board', 'Board', {
          lies: 'upright',
          sketch: lineSketch(
            [
              [0, 0],
              [60, 0],
              [60, 30],
              [0, 30],
            ],
            true,
          ),
        }),
        step('plate', 'lid', 'Lid', {
          lies: 'upright',
          sketch: lineSketch(
            [
              [4, 34],
              [30, 34],
              [30, 44],
              [4, 44],
            ],
            true,
          ),
        }),
      ]),
    ],
  };
};

test('a copy is taken out; lines before and after fairing; a drawing follows the edges of another', async ({ page }) => {
  const controls = page.getByRole('region', { name: 'controls' });
  await page.goto('/');
  await page
    .getByLabel('Model file')
    .setInputFiles([{ name: 'rack.json', mimeType: 'application/json', buffer: Buffer.from(JSON.stringify(rack())) }]);
  await page.getByRole('dialog').getByRole('button', { name: 'Import' }).click();
  await expect(page.locator('[data-plate=piece] canvas')).toBeVisible({ timeout: 60_000 });
  const open = (name: RegExp) => controls.getByRole('button', { name }).click();

  await test.step('the third peg becomes a part; the row has one fewer, and it can all be taken back', async () => {
    await open(/^\d+ ?Pegs/);
    await controls.locator('button[aria-expanded]', { hasText: 'Row' }).first().click();
    await controls.getByLabel('Copy', { exact: true }).fill('3');
    await page.keyboard.press('Enter');
    await controls.getByRole('button', { name: 'Make it a part' }).click();
    await expect(controls.getByRole('button', { name: /^\d+ ?Pegs 3/ })).toBeVisible();
    await saved(page);
    await page.keyboard.press('Control+z');
    await expect(controls.getByRole('button', { name: /^\d+ ?Pegs 3/ })).toHaveCount(0);
  });

  await test.step('reflection lines without the step and with it stand beside each other', async () => {
    await open(/^\d+ ?Dish/);
    await controls.locator('button[aria-expanded]', { hasText: 'Fairing' }).first().click();
    await expect(controls.getByText('moved by at most').locator('xpath=..')).toContainText(/0\.\d/);
    await page.getByRole('button', { name: 'Before · now' }).click();
    for (const which of ['before', 'now'])
      await expect(page.getByRole('figure', { name: `reflection lines ${which}` }).locator('canvas')).toBeVisible({ timeout: 60_000 });
    await expect(page.getByText('without “Fairing”')).toBeVisible();
    // Another step has no lines of its own: the piece is there again.
    await controls.locator('button[aria-expanded]', { hasText: 'sweep of sections' }).first().click();
    await expect(page.getByRole('figure', { name: 'reflection lines before' })).toHaveCount(0);
  });

  await test.step('the lid shows the board’s edges as guides, and lets them go', async () => {
    await open(/^\d+ ?Boards/);
    await controls.locator('button[aria-expanded]', { hasText: 'Lid' }).first().click();
    await controls.getByRole('button', { name: 'Draw' }).click();
    const sketch = page.getByRole('application', { name: /^Sketch of Lid/ });
    const curves = sketch.locator('[data-curve]');
    await expect(curves).toHaveCount(4);
    await page.getByLabel('Follow', { exact: true }).selectOption({ label: 'Outline of Board' });
    await expect(curves).toHaveCount(8);
    await saved(page);
    await page.getByRole('button', { name: 'Let go of Outline of Board' }).click();
    await expect(curves).toHaveCount(4);
  });
});
