import { briefFor } from '@wellmorph/core/brief/brief';
import { newDocument } from '@wellmorph/core/pipeline/document';
import { StepFile } from '../core/test/step-files';
import { CREAM, WOOD } from '../demo/src/materials';
import { part, path, profileOf, step } from '../demo/src/written';
import { expect, test } from './fixtures';
import { saved } from './helpers';

const file = (name: string, content: string | Uint8Array) => ({ name, mimeType: 'application/octet-stream', buffer: Buffer.from(content) });
const asset = (document: object) => JSON.stringify(document);

/** A mug of one tall face a side, and a handle whose ends point at it: not joined yet. It floats, a little askew. */
const mug = () => ({
  ...newDocument('Enamel mug', { ...briefFor('game'), sizeMm: [110, 90, 80] }),
  materials: [CREAM],
  parts: [
    {
      ...part('mug', 'Mug', 'body', CREAM.id, [
        step('turned', 'mug-body', 'Body', {
          body: 'wall',
          wall: 3,
          edgeRadius: 0.5,
          rings: [],
          profile: profileOf(
            [
              [0, 0],
              [40, 0],
              [40, 90],
            ],
            [['foot'], ['side']],
          ),
        }),
        step('bar', 'mug-handle', 'Handle', {
          radius: 5,
          edgeRadius: 0.4,
          path: path([44, 68, 0], [70, 68, 0, 10], [70, 22, 0, 10], [44, 22, 0]),
        }),
      ]),
      move: [0, 40, 0] as const,
      turnDegrees: [3, 0, -4] as const,
    },
  ],
});
const coaster = () => ({
  ...newDocument('Cork coaster', { ...briefFor('game'), sizeMm: [120, 6, 120] }),
  materials: [WOOD],
  parts: [
    part('coaster', 'Coaster', 'body', WOOD.id, [
      step('turned', 'disc', 'Disc', {
        body: 'solid',
        rings: [],
        edgeRadius: 0.5,
        profile: profileOf(
          [
            [0, 0],
            [58, 0],
            [58, 6],
            [0, 6],
          ],
          [['foot'], ['edge'], ['top']],
        ),
      }),
    ]),
  ],
});

test('a mug: joined, its sides changed, set on a coaster of another piece, looked at from within', async ({ page }) => {
  const controls = page.getByRole('region', { name: 'controls' });
  const figure = (label: string) => controls.getByText(label).locator('xpath=..');

  await test.step('both pieces come as asset files', async () => {
    for (const [name, document] of [
      ['coaster.json', coaster()],
      ['mug.json', mug()],
    ] as const) {
      await page.goto('/');
      await page.getByLabel('Model file').setInputFiles([file(name, asset(document))]);
      await page.getByRole('dialog').getByRole('button', { name: 'Import' }).click();
      await expect(page.locator('[data-plate=piece] canvas')).toBeVisible({ timeout: 60_000 });
    }
    await expect(page.getByRole('heading', { name: 'Enamel mug' })).toBeVisible();
  });

  await test.step('the handle is joined: quads alone, whatever the sides', async () => {
    await controls.getByRole('button', { name: /^\d+ ?Mug/ }).click();
    await controls.getByRole('button', { name: 'Add a step' }).click();
    await page.getByRole('menuitem', { name: /join rims/ }).click();
    await expect(figure('quads, and triangles')).toContainText(/[0-9]+ – 0\s*$/, { timeout: 30_000 });
    await expect(figure('rims joined')).toContainText('2');
    await saved(page);
    const sides = controls.getByLabel(/^sides round Ø 80/);
    for (const n of ['17', '40']) {
      await sides.fill(n);
      await page.keyboard.press('Enter');
      await expect(sides).toHaveValue(n);
      await expect(figure('rims joined')).toContainText('2');
      await expect(page.getByText(/needs \d+ triangles?:/)).toHaveCount(0);
      await saved(page);
    }
  });

  await test.step('another piece of the Workshop is brought in, linked', async () => {
    await controls.getByRole('button', { name: 'Bring in a piece' }).click();
    const dialog = page.getByRole('dialog', { name: 'Bring in another piece' });
    const option = await dialog.getByLabel('Piece').locator('option', { hasText: 'Cork coaster' }).first().getAttribute('value');
    await dialog.getByLabel('Piece').selectOption(option ?? '');
    await dialog.getByRole('button', { name: 'Bring it in' }).click();
    await expect(dialog).toHaveCount(0, { timeout: 60_000 });
    await expect(page.getByText('One part came in from Cork coaster.')).toBeVisible();
    const row = controls.getByRole('button', { name: /^\d+ ?Coaster/ });
    await expect(row).toContainText('from Cork coaster');
    await controls.getByRole('button', { name: /^Came from/ }).click();
    await expect(controls.getByText('As Cork coaster is now.')).toBeVisible();
  });

  await test.step('set down, the mug rests on it in contact, and can be picked up again', async () => {
    await controls.getByRole('button', { name: /^\d+ ?Mug/ }).click();
    await controls.getByRole('button', { name: /^Placement and travel/ }).click();
    await controls.getByRole('button', { name: 'Set down' }).click();
    const said = page.getByText(/^Mug rests on [\d ]+ places, /);
    await expect(said).toBeVisible({ timeout: 60_000 });
    const gap = Number(/places, ([\d.]+)\s?mm off/.exec((await said.textContent()) ?? '')?.[1] ?? Number.NaN);
    expect(gap).toBeLessThanOrEqual(0.01);
    await expect(said).toContainText(/it tips at [1-9]\d°/);
    await expect(controls.getByLabel('Turn about x')).toHaveValue(/^-?0(\.0\d*)?$/);
    await expect(controls.getByLabel('Move along y')).toHaveValue(/^6(\.00\d*)?$/);
    await page.keyboard.press('Control+z');
    await expect(controls.getByLabel('Move along y')).toHaveValue('40');
    await page.keyboard.press('Control+Shift+z');
    await expect(controls.getByLabel('Move along y')).toHaveValue(/^6(\.00\d*)?$/);
    await saved(page);
  });

  await test.step('the rest is left out, and the section shows the wall', async () => {
    await page.keyboard.press('o');
    await expect(page.getByText('1 of 2 parts shown')).toBeVisible();
    await page.getByRole('button', { name: 'view on the piece' }).click();
    await page.getByRole('menuitemcheckbox', { name: 'Section across z' }).click();
    const bar = page.locator('[data-section=z]');
    await expect(bar).toBeVisible();
    await bar.getByLabel('Section, z at').fill('0');
    await page.keyboard.press('Enter');
    // Somewhere along the left wall the pointer finds it: three millimetres across.
    const box = await page.locator('[data-plate=piece] canvas').boundingBox();
    if (!box) throw new Error('The view has a size.');
    const wall = page.getByText(/^wall here /);
    let found = '';
    for (let i = 0; i < 60 && !found; i++) {
      await page.mouse.move(box.x + box.width * (0.2 + 0.006 * i), box.y + box.height * 0.5);
      await page.waitForTimeout(30);
      const text = (await wall.count()) > 0 ? ((await wall.first().textContent()) ?? '') : '';
      if (/wall here (2\.9|3)/.test(text)) found = text;
    }
    expect(found).toMatch(/wall here (2\.9\d*|3)/);
    await page.getByRole('button', { name: 'Whole', exact: true }).click();
    await expect(bar).toHaveCount(0);
    await page.keyboard.press('a');
    await expect(page.getByText('parts shown')).toHaveCount(0);
  });

  await test.step('a mirrored copy shares texels with what it is a copy of', async () => {
    await controls.getByRole('button', { name: 'Copy', exact: true }).click();
    await page.getByRole('menuitem', { name: 'Mirrored across x = 0' }).click();
    await expect(controls.getByText('A mirrored copy of Mug')).toBeVisible();
    await expect(controls.getByText('One draw more; its texels are those of Mug.')).toBeVisible();
    await page.keyboard.press('Control+z');
    await expect(controls.getByText('A mirrored copy of Mug')).toHaveCount(0);
    await saved(page);
  });
});

test('a STEP file: brought in, cut finer, replaced by a newer one', async ({ page }) => {
  const controls = page.getByRole('region', { name: 'controls' });
  const first = new StepFile()
    .boredBlock('Bracket', [0, 0, 0], [60, 40, 12], [20, 20], 9, [0.45, 0.47, 0.5])
    .cone('Pin', 8.8, 8.8, 40, [0.8, 0.6, 0.2])
    .bytes();
  const second = new StepFile().boredBlock('Bracket', [0, 0, 0], [70, 40, 14], [20, 20], 9, [0.45, 0.47, 0.5]).torus('Ring', 14, 3).bytes();
  await page.goto('/');
  await page.getByLabel('Model file').setInputFiles([file('bracket.step', first)]);
  const dialog = page.getByRole('dialog');
  await expect(dialog.getByText(/STEP says its unit/)).toBeVisible();
  await dialog.getByRole('button', { name: 'Import' }).click();
  await expect(page.locator('[data-plate=piece] canvas')).toBeVisible({ timeout: 60_000 });
  // Drawn along z it stands along y.
  await expect(page.locator('header')).toContainText(/× 40 ×/);

  await test.step('its surfaces are cut finer without a new import', async () => {
    await controls.getByRole('button', { name: /^\d+ ?Pin/ }).click();
    await controls.getByRole('button', { name: /^Came from/ }).click();
    const cut = controls.getByLabel('Surfaces cut to');
    await cut.fill('0.01');
    await page.keyboard.press('Enter');
    await expect(page.getByText('bracket.step is cut to 0.01 mm now.')).toBeVisible({ timeout: 60_000 });
    await expect(cut).toHaveValue('0.01');
  });

  await test.step('a broken newer file is refused, a whole one takes its place; what is gone is a finding', async () => {
    await page.getByLabel('Newer file for bracket.step').setInputFiles([file('bracket-2.step', second.slice(0, 3000))]);
    await dialog.getByRole('button', { name: 'Replace' }).click();
    await expect(dialog.getByRole('alert')).toContainText('The STEP file ends before its data does.');
    await dialog.getByRole('button', { name: 'Cancel' }).click();
    await page.getByLabel('Newer file for bracket.step').setInputFiles([file('bracket-2.step', second)]);
    await dialog.getByRole('button', { name: 'Replace' }).click();
    await expect(dialog.getByText('No longer in it, and left as before: Pin.')).toBeVisible({ timeout: 60_000 });
    await dialog.getByRole('button', { name: 'Look at it' }).click();
    await expect(controls.getByRole('button', { name: /^\d+ ?Ring/ })).toBeVisible();
    await expect(page.getByText('Pin is not in the newer “bracket.step”; it stands as it was.')).toBeVisible({ timeout: 30_000 });
    await page.keyboard.press('Control+z');
    await expect(controls.getByRole('button', { name: /^\d+ ?Ring/ })).toHaveCount(0);
  });
});
