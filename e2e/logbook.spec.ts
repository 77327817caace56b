import { readFile } from 'node:fs/promises';
import { expect, type Page, test } from './fixtures';
import { downloads, openSheet, saved, station } from './helpers';

/** Asks the server as a page would: to set the scene quickly. */
const asked = (page: Page, method: string, path: string, body: object): Promise<{ status: number }> =>
  page.evaluate(
    async ([m, p, b]) => {
      const answer = await fetch(p, { method: m, headers: { 'content-type': 'application/json' }, body: b });
      return { status: answer.status };
    },
    [method, path, JSON.stringify(body)] as const,
  );
const edit = async (page: Page, id: string, command: object): Promise<void> => {
  const version = await page.evaluate(
    async (asset) => ((await (await fetch(`/api/assets/${asset}`)).json()) as { version: number }).version,
    id,
  );
  const once = { baseVersion: version, clientId: crypto.randomUUID(), seq: 0 };
  expect((await asked(page, 'POST', `/api/assets/${id}/edits`, { ...once, command })).status).toBe(200);
};
const idOf = (page: Page): string => /assets\/([^/]+)/.exec(page.url())?.[1] as string;
const shot = (page: Page, name: string) => page.screenshot({ path: process.env.SHOTS ? `${process.env.SHOTS}/${name}.png` : undefined });

test('twelve runs are swept, the seventh gone back to, three compared; a lesson, snags and a date are met again', async ({ page }) => {
  await openSheet(page, 'Pin rail', 'Render');
  const id = idOf(page);
  const controls = page.getByRole('region', { name: 'controls' });
  let material = '';
  let seventh = '';

  await test.step('four apertures by three keys are queued as a sweep, and laid out as a sheet', async () => {
    await edit(page, id, { type: 'shot.set', patch: { widthPx: 64, heightPx: 80 } });
    await edit(page, id, { type: 'render.set', patch: { samples: 4, maps: false } });
    await page.reload();
    await expect(controls.getByLabel('Samples a pixel')).toHaveValue('4');
    await controls.getByRole('button', { name: 'Sweep a setting over a range …' }).click();
    const dialog = page.getByRole('dialog');
    await dialog.getByLabel(/^along/).selectOption('aperture');
    await dialog.getByLabel('Values along').fill('4, five');
    await expect(dialog.getByRole('alert')).toContainText('“five” is no figure');
    await dialog.getByLabel('Values along').fill('4 to 11.3 in 4');
    await dialog.getByLabel(/^and down/).selectOption('key.ratio');
    await dialog.getByLabel('Values and down').fill('1, 2, 4');
    await expect(dialog).toContainText('12 runs');
    await shot(page, 'sweep-new');
    await dialog.getByRole('button', { name: 'Queue the runs' }).click();
    await expect(dialog.getByText('12 of 12 made')).toBeVisible({ timeout: 240_000 });
    await expect(dialog.getByRole('button', { name: /, the best$/ })).toHaveCount(1);
    await shot(page, 'sweep-sheet');
    const sheet = await downloads(page, () => dialog.getByRole('button', { name: 'Contact sheet' }).click(), 1);
    expect([...sheet.values()][0].subarray(1, 4).toString()).toBe('PNG');
  });

  await test.step('run seven is gone back to: the very same picture, without drawing it again', async () => {
    const dialog = page.getByRole('dialog');
    const cell = dialog.getByRole('button', { name: /^f\// }).nth(6);
    seventh = (await cell.locator('img').getAttribute('src')) as string;
    await cell.click();
    await dialog.getByRole('button', { name: 'Set the piece so' }).click();
    await expect(dialog).toHaveCount(0);
    await page.getByLabel('which picture').getByRole('button', { name: 'Picture', exact: true }).click();
    // Files are called by their bytes: the same address is the same picture.
    await expect(page.getByRole('img', { name: 'Picture of Pin rail' })).toHaveAttribute('src', seventh);
    await saved(page);
  });

  await test.step('three are chosen in the logbook and compared; a point of the chart is a run; what one taught is pinned', async () => {
    await page.getByRole('link', { name: 'Back to the workshop' }).click();
    await page.getByRole('navigation', { name: 'pages' }).getByRole('link', { name: 'Logbook' }).click();
    await page.getByLabel('piece', { exact: true }).selectOption({ label: 'Pin rail' });
    await page.getByLabel('stage', { exact: true }).selectOption('render');
    const grid = page.getByRole('grid', { name: 'runs' });
    await expect(grid.getByRole('row')).toHaveCount(13);
    await expect(page.getByRole('region', { name: 'what was chosen' })).toContainText('No run chosen');
    for (const row of [1, 2, 3]) await grid.getByRole('row').nth(row).getByRole('checkbox').click();
    const three = page.getByRole('region', { name: 'Three runs' });
    await expect(three).toContainText('Only “aperture, f/” was changed, so the difference is due to it.');
    await expect(three.getByRole('table')).toContainText('noise, %');
    await shot(page, 'logbook');
    const pictures = page.getByRole('region', { name: 'Their pictures' });
    const two = pictures.getByLabel('Two over each other');
    await expect(two.locator('option')).toHaveCount(4);
    await two.selectOption({ index: 3 });
    await expect(pictures.getByRole('group', { name: 'The two pictures' })).toBeVisible();
    await two.selectOption({ index: 0 });
    await expect(pictures.getByRole('figure')).toHaveCount(3);
    for (const row of [2, 3]) await grid.getByRole('row').nth(row).getByRole('checkbox').click();
    const chosen = page.getByRole('region', { name: 'what was chosen' });
    await expect(chosen).toContainText('Take it up again.');
    await chosen.getByRole('textbox', { name: 'Lesson' }).fill('At f/4 only the front pin is sharp.');
    material = (await chosen
      .getByRole('region', { name: 'pin a lesson' })
      .getByLabel('to', { exact: true })
      .locator('option')
      .first()
      .textContent()) as string;
    await chosen.getByRole('button', { name: 'Pin it' }).click();
    await expect(page.getByRole('region', { name: 'lessons' })).toContainText('At f/4 only the front pin is sharp.');
    // Filters are saved under a name, and had again.
    await page.getByLabel('Name of the filter').fill('Pin rail pictures');
    await page.getByRole('button', { name: 'Save', exact: true }).click();
    await page.getByRole('button', { name: 'any', exact: true }).click();
    await page.getByRole('button', { name: 'Pin rail pictures', exact: true }).click();
    await expect(page.getByLabel('piece', { exact: true })).toHaveValue(id);
  });

  await test.step('where the same is chosen on another piece, the lesson stands beside it', async () => {
    await openSheet(page, 'Water bucket', 'Surface');
    const other = idOf(page);
    const called = async (name: string) => {
      await edit(page, other, { type: 'material.set', material: await firstMaterial(page, other), patch: { name } });
      await page.reload();
      await controls.getByRole('button', { name }).first().click();
    };
    // Of another material nothing was learned.
    await called('Painted pail');
    await expect(controls.getByRole('note', { name: 'lesson' })).toHaveCount(0);
    await called(material);
    await expect(controls.getByRole('note', { name: 'lesson' })).toContainText('At f/4 only the front pin is sharp.');
  });

  await test.step('three snags are noted with minutes, one pinned to a place', async () => {
    await openSheet(page, 'Pin rail', 'Form');
    const snags = page.getByRole('region', { name: 'snags' });
    const plate = page.getByRole('region', { name: 'plate' });
    await expect(plate.getByText(/vertices on the card/)).toBeVisible();
    for (const [i, words] of ['Pin heads are too sharp', 'Rail end wants a cap', 'Grain runs across'].entries()) {
      await snags.getByLabel('Snag').fill(words);
      await snags.getByLabel('minutes it takes').fill(String(10 * (i + 1)));
      await page.keyboard.press('Tab');
      if (i === 0) {
        await snags.getByRole('button', { name: 'Pin it to a place' }).click();
        const box = (await plate.locator('canvas').first().boundingBox()) as { x: number; y: number; width: number; height: number };
        await expect(async () => {
          for (const y of [0.5, 0.45, 0.55, 0.6]) {
            await page.mouse.click(box.x + box.width / 2, box.y + y * box.height);
            if (await snags.getByRole('button', { name: 'Pinned; not there' }).isVisible()) return;
          }
          throw new Error('nothing was pinned');
        }).toPass();
      }
      await snags.getByRole('button', { name: 'Note it' }).click();
      await expect(snags).toContainText(words);
    }
    await expect(snags).toContainText('3 open, 60 min');
    await snags.getByRole('button', { name: 'Show where: Pin heads are too sharp' }).click();
    await shot(page, 'snags');
  });

  await test.step('a state is named, something is changed, and it is gone back to', async () => {
    await page.getByRole('button', { name: 'History' }).click();
    await page.getByLabel('Name of this state').fill('Before the caps');
    await page.keyboard.press('Enter');
    await expect(page.getByRole('button', { name: 'Go back to Before the caps' })).toBeVisible();
    await page.keyboard.press('Escape');
    await edit(page, id, { type: 'render.set', patch: { samples: 99 } });
    // The sheet has to have heard of it: gone back from an older state, it would be refused.
    await station(page, 'Render');
    await expect(controls.getByLabel('Samples a pixel')).toHaveValue('99');
    await page.getByRole('button', { name: 'History' }).click();
    await page.getByRole('button', { name: 'Go back to Before the caps' }).click();
    await expect(page.getByText('As it was for “Before the caps”')).toBeVisible();
    await page.keyboard.press('Escape');
    await expect(controls.getByLabel('Samples a pixel')).toHaveValue('4');
  });

  await test.step('after a year’s jump of the clock they are there, and the date is past', async () => {
    const now = new Date();
    await edit(page, id, {
      type: 'brief.set',
      patch: { deadline: `${now.getFullYear()}-${String(now.getMonth() + 1).padStart(2, '0')}-${String(now.getDate()).padStart(2, '0')}` },
    });
    const later = new Date(now);
    later.setFullYear(now.getFullYear() + 1);
    await page.clock.setSystemTime(later);
    await page.goto('/plan');
    const fit = page.getByRole('region', { name: 'does it fit' });
    await page.getByRole('region', { name: 'timetable' }).getByRole('button', { name: 'Pin rail' }).click();
    await expect(fit).toContainText('a date that is past');
    await expect(fit.getByRole('table', { name: 'what is left, by stage' })).toContainText('Snags');
    await openSheet(page, 'Pin rail', 'Form');
    await expect(page.getByRole('region', { name: 'snags' })).toContainText('3 open, 60 min');
    await page.clock.setSystemTime(now);
  });

  await test.step('the date doesn’t fit; one cut is taken, and it fits; undone, it doesn’t', async () => {
    expect(
      (await asked(page, 'PUT', '/api/plan', { order: [id], hours: { week: [20, 20, 20, 20, 20, 20, 20], off: [], machine: 0.01 } }))
        .status,
    ).toBe(200);
    await page.goto('/plan');
    const fit = page.getByRole('region', { name: 'does it fit' });
    await page.getByRole('region', { name: 'timetable' }).getByRole('button', { name: 'Pin rail' }).click();
    await expect(fit).toContainText('It doesn’t fit');
    const cuts = fit.getByRole('region', { name: 'changes that would help' });
    await expect(cuts.getByRole('button', { name: /^Take:/ })).toHaveCount(3);
    await shot(page, 'plan');
    await cuts.getByRole('button', { name: /^Take: Eight more hours/ }).click();
    await expect(fit).toContainText('It fits');
    await fit.getByRole('button', { name: 'Undo' }).click();
    await expect(fit).toContainText('It doesn’t fit');
    await cuts.getByRole('button', { name: /^Take: Textures of/ }).click();
    await expect(fit.getByRole('status').first()).toContainText('Taken: Pin rail: Textures of');
  });

  await test.step('the calendar goes out', async () => {
    const [download] = await Promise.all([page.waitForEvent('download'), page.getByRole('link', { name: 'As a calendar' }).click()]);
    const text = await readFile(await download.path(), 'utf8');
    expect(text).toMatch(/^BEGIN:VCALENDAR\r\n/);
    expect(text).toContain('SUMMARY:Due: Pin rail\r\n');
  });

  await test.step('at hand-off the open snags are counted', async () => {
    await openSheet(page, 'Pin rail', 'Hand-off');
    await expect(page.getByText(/3 snags are open, 60 min: Pin heads are too sharp and others/)).toBeVisible();
  });
});

async function firstMaterial(page: Page, id: string): Promise<string> {
  return page.evaluate(async (asset) => {
    const { document } = (await (await fetch(`/api/assets/${asset}`)).json()) as { document: { materials: { id: string }[] } };
    return document.materials[0].id;
  }, id);
}
