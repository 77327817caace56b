import { expect, test } from './fixtures';
import { archiveOf, compose, downloads, firstPart, openSheet, picture, saved, settled, station, validGlb } from './helpers';

test('the lantern, from its brief to the archive', async ({ page }) => {
  const errors: string[] = [];
  page.on('pageerror', (e) => errors.push(e.message));

  await test.step('brief: a smaller texture is asked for, its reason stands beside it', async () => {
    await openSheet(page, 'Storm lantern', 'Brief');
    await expect(page.getByText('px/cm').first()).toBeVisible();
    await expect(page.getByText(/one pixel covers 0.\d+\smm/)).toBeVisible();
    await page.getByLabel('Texture size').selectOption('512');
    await saved(page);
    await page.getByLabel('Distance').fill('2*35cm');
    await page.keyboard.press('Enter');
    await expect(page.getByLabel('Distance')).toHaveValue('700');
    await page.getByLabel('Distance').fill('a while');
    await page.keyboard.press('Enter');
    await expect(page.getByRole('alert').filter({ hasText: 'is not a length' })).toBeVisible();
    await page.keyboard.press('Escape');
    await saved(page);
  });

  await test.step('form: the solver keeps the limit; undo lives through a reload', async () => {
    await page.keyboard.press('Escape');
    await page.getByRole('navigation', { name: 'stages' }).getByText('Form').click();
    await page.getByRole('button', { name: /^Solve/ }).click();
    await page.getByRole('button', { name: 'Use these counts' }).click();
    await expect(page.getByText('The limit is spent where it shows.')).toBeVisible();
    await expect(page.getByRole('group', { name: /^Triangles/ })).toContainText('of 5');
    await page
      .getByRole('button', { name: /Chimney/ })
      .first()
      .click();
    await page.getByLabel(/sides round/).fill('12');
    await page.keyboard.press('Enter');
    await expect(page.getByText('fixed').first()).toBeVisible();
    await saved(page);
    await page.reload();
    await page.getByRole('button', { name: 'Undo' }).click();
    await expect(page.getByText(/Taken back: fixed sides/)).toBeVisible();
    await page
      .getByRole('button', { name: /Chimney/ })
      .first()
      .click();
    await expect(page.getByText('fixed')).toHaveCount(0);
  });

  await test.step('unwrap: measured, and picked in one plate it shows in the other', async () => {
    await page.getByRole('navigation', { name: 'stages' }).getByText('Unwrap').click();
    await page
      .getByRole('button', { name: /Unwrap/ })
      .first()
      .click();
    await settled(page, 'Unwrapping');
    await expect(page.getByText('Claimed twice').locator('..')).toContainText('0');
    const island = page.locator('[data-island^="font/"]').first();
    await island.dispatchEvent('click');
    await expect(page.getByRole('region', { name: 'plate' }).getByText(/Font and base, island/)).toBeVisible();
  });

  await test.step('bake: in workers, with the page free; judged', async () => {
    await page.getByRole('navigation', { name: 'stages' }).getByText('Bake').click();
    await page.getByLabel('Samples a texel').selectOption('1');
    await page.getByLabel('Rays a texel').fill('4');
    await page.keyboard.press('Enter');
    await saved(page);
    await page.evaluate(() => {
      const w = window as unknown as { tasks: { start: number; end: number }[] };
      w.tasks = [];
      new PerformanceObserver((list) => {
        for (const e of list.getEntries()) w.tasks.push({ start: e.startTime, end: e.startTime + e.duration });
      }).observe({ entryTypes: ['longtask'] });
    });
    await page.getByRole('button', { name: /^Bake/ }).first().click();
    await expect(page.getByRole('status', { name: 'Baking' })).toBeVisible();
    const busy = page.evaluate(
      () =>
        new Promise<number>((done) => {
          const watch = setInterval(() => {
            if (!document.querySelector('[role=status][aria-label=Baking]')) {
              clearInterval(watch);
              done(performance.now());
            }
          }, 20);
        }),
    );
    await settled(page, 'Baking');
    await expect(page.getByText('Against the high mesh')).toBeVisible();
    await expect(page.getByText(/° off on average/).first()).toBeVisible();
    const until = await busy;
    const tasks = await page.evaluate(() => (window as unknown as { tasks: { start: number; end: number }[] }).tasks);
    const longest = (list: typeof tasks) => Math.round(Math.max(0, ...list.map((t) => t.end - t.start)));
    console.log(
      `longest task on the interface's thread: ${longest(tasks.filter((t) => t.end <= until - 30))} ms while baking, ${longest(tasks)} ms with drawing the result`,
    );
  });

  await test.step('export: a valid GLB with both maps, and the maps and layout beside it', async () => {
    const exporting = page.getByRole('button', { name: 'Export GLB' });
    await expect(exporting).toBeEnabled({ timeout: 300_000 });
    const files = await downloads(page, () => exporting.click(), 5);
    expect([...files.keys()].sort()).toEqual([
      'storm-lantern.glb',
      'storm-lantern_layout.png',
      'storm-lantern_layout.svg',
      'storm-lantern_normal.png',
      'storm-lantern_occlusion.png',
    ]);
    const document = await validGlb(files.get('storm-lantern.glb') as Buffer);
    const root = document.getRoot();
    expect(
      root
        .listTextures()
        .map((t) => t.getName())
        .sort(),
    ).toEqual(['normal', 'occlusion']);
    expect(root.listTextures()[0].getSize()).toEqual([512, 512]);
    const drawn = root.listNodes().reduce((n, x) => n + (x.getMesh()?.listPrimitives()[0].getIndices()?.getCount() ?? 0) / 3, 0);
    expect(drawn).toBeLessThanOrEqual(5000);
    expect(drawn).toBeGreaterThan(4800);
    const names = root.listNodes().map((n) => n.getName());
    for (const name of ['Font and base', 'Guard wires', 'Guard wires 4', 'Flame']) expect(names).toContain(name);
    for (const m of root.listMaterials()) {
      expect(m.getNormalTexture()).not.toBeNull();
      expect(m.getOcclusionTexture()).not.toBeNull();
    }
  });

  await test.step('trials: every attempt is there, and two can be compared', async () => {
    await page.getByRole('navigation', { name: 'stages' }).getByText('Unwrap').click();
    const cards = page.getByRole('button', { name: /to compare/ });
    await expect(cards).toHaveCount(2);
    // Each with a picture of the piece as it was.
    await expect(cards.locator('img')).toHaveCount(2);
    await cards.nth(0).click();
    await cards.nth(1).click();
    await expect(page.getByRole('dialog')).toContainText('Only “texture, px” was changed');
    await page.getByRole('button', { name: 'Close' }).click();
    await page.getByRole('button', { name: 'keep', exact: true }).first().click();
    await expect(page.getByRole('button', { name: 'kept', exact: true })).toBeVisible();
  });

  await test.step('surface: materials per part, a slider answers at once, the set is composed and judged', async () => {
    await station(page, 'Surface');
    await expect(page.locator('[data-preview-ms]:not([data-preview-ms=""])')).toBeVisible({ timeout: 120_000 });
    await page.getByLabel('Burner knob', { exact: true }).selectOption({ label: 'Polished brass' });
    await saved(page);
    await page.getByRole('button', { name: 'Aged brass', exact: true }).click();
    const roughness = page.getByRole('slider', { name: 'Roughness', exact: true });
    await roughness.focus();
    for (let i = 0; i < 6; i++) await page.keyboard.press('ArrowRight');
    await saved(page);
    const answer = Number(await page.locator('[data-preview-ms]').getAttribute('data-preview-ms'));
    console.log(`the preview of the set answered in ${answer} ms`);
    await compose(page);
    await expect(page.getByText('What layers touch')).toBeVisible();
    await expect(page.getByText(/Every judged texel is within|of the judged texels are not/)).toBeVisible();
    await page.getByRole('button', { name: 'Validity' }).click();
    await expect(page.locator('[data-plate=layout] image')).toBeVisible();
  });

  await test.step('light: solved for the card; the shot is framed and locked, and a locked one can’t be changed', async () => {
    await station(page, 'Light');
    await expect(page.getByText(/A grey card facing the key reads 0[.]18/)).toBeVisible();
    await expect(page.getByRole('img', { name: /Light plan from above: key \d/ })).toBeVisible();
    await expect(page.getByText(/W\/\(m²·sr\) over/).first()).toBeVisible();
    await page.getByLabel('Wide').fill('160');
    await page.keyboard.press('Enter');
    await page.getByLabel('High').fill('200');
    await page.keyboard.press('Enter');
    await page.getByLabel('Ground').selectOption('transparent');
    await page.getByLabel('Ground').selectOption('paper');
    await page.getByRole('button', { name: 'Lock the shot' }).click();
    await expect(page.getByRole('button', { name: 'Unlock the shot' })).toBeVisible();
    await expect(page.getByLabel('Lens')).toBeDisabled();
    await saved(page);
  });

  await test.step('render: a first picture within seconds, a forecast, the picture with its noise; two are compared by a wipe', async () => {
    const start = Date.now();
    await station(page, 'Render');
    await expect(page.locator('canvas[aria-label^="Preview of"]')).toBeVisible({ timeout: 120_000 });
    console.log(`first picture ${((Date.now() - start) / 1000).toFixed(1)} s after opening Render`);
    await expect(page.getByText(/noise will be left/)).toBeVisible({ timeout: 180_000 });
    await picture(page, 8);
    await expect(page.getByText('noise of two halves')).toBeVisible();
    await expect(page.getByRole('img', { name: 'Picture of Storm lantern' })).toBeVisible();
    await picture(page, 16);
    const cards = page.getByRole('button', { name: /to compare/ });
    await expect(cards).toHaveCount(2);
    await cards.nth(0).click();
    await cards.nth(1).click();
    await expect(page.getByRole('dialog')).toContainText('Only “samples” was changed');
    const edge = page.getByLabel('Where the two pictures meet');
    await edge.focus();
    await page.keyboard.press('ArrowRight');
    await expect(page.locator('[data-wipe="51"]')).toBeVisible();
    // At its own size, and twice that.
    const shown = page.locator('[data-wipe] img').first();
    const times = () => shown.evaluate((i: HTMLImageElement) => i.getBoundingClientRect().width / i.naturalWidth);
    for (const [name, k] of [
      ['1 : 1', 1],
      ['2 : 1', 2],
    ] as const) {
      await page.getByRole('button', { name, exact: true }).click();
      await expect.poll(times).toBeCloseTo(k, 2);
    }
    await page.getByRole('button', { name: 'Close' }).click();
  });

  await test.step('hand-off: looked over, packed, and everything is in the archive', async () => {
    await station(page, 'Hand-off');
    await expect(page.getByRole('heading', { name: /Ready/ })).toBeVisible();
    const files = await archiveOf(page, 'storm-lantern');
    await validGlb(files['storm-lantern.glb']);
    expect(String(files['storm-lantern_spec-sheet.html'])).toContain('Aged brass');
    expect(String(files['storm-lantern.mtl'])).toContain('Polished_brass');
  });

  await test.step('queue: drawn on the server while the workshop shows what waits and what is due', async () => {
    await station(page, 'Render');
    await page.getByRole('button', { name: 'Put in the queue' }).click();
    await expect(page.getByText(/Put in the queue; it is drawn on the server/)).toBeVisible();
    await page.goto('/');
    await expect(page.getByRole('region', { name: 'due' })).toContainText('Storm lantern');
    const queue = page.getByRole('region', { name: 'queue' });
    await expect(queue).toContainText('Picture of Storm lantern');
    await expect(queue.locator('[data-job=done]')).toHaveCount(1, { timeout: 300_000 });
  });
  expect(errors).toEqual([]);
});

test('a piece formed from nothing: a profile is drawn, a bar added, all by keyboard and typing', async ({ page }) => {
  await page.goto('/');
  await page.getByRole('button', { name: 'New asset' }).click();
  await page.getByRole('textbox', { name: 'Name', exact: true }).fill('Lamp key');
  await page.getByRole('button', { name: 'Start with the brief' }).click();
  await page.getByRole('link', { name: 'Go to Form' }).click();
  await firstPart(page);
  await page.getByRole('button', { name: 'Draw' }).click();
  const drawing = page.getByRole('application');
  await expect(drawing).toHaveAccessibleName(/3 corners/);
  await page.locator('[data-point=p1]').click();
  await page.keyboard.press('ArrowRight');
  await expect(page.getByLabel('Radius from axis')).toHaveValue('21');
  await page.getByLabel('Rounded by').fill('90');
  await page.keyboard.press('Enter');
  await expect(page.getByText(/does not fit at point 2; .* is the most there/).first()).toBeVisible();
  await page.getByLabel('Rounded by').fill('3');
  await page.keyboard.press('Enter');
  await expect(page.getByText(/does not fit/)).toHaveCount(0);
  // The middle of the first line, wherever it is drawn.
  const middle = await drawing
    .locator('path[stroke=transparent]')
    .first()
    .evaluate((path: SVGPathElement) => {
      const p = path.getPointAtLength(path.getTotalLength() / 2);
      const box = (path.ownerSVGElement as SVGSVGElement).getBoundingClientRect();
      return { x: box.left + p.x, y: box.top + p.y };
    });
  await page.mouse.click(middle.x, middle.y);
  await expect(drawing).toHaveAccessibleName(/4 corners/);
  await page.keyboard.press('Delete');
  await expect(drawing).toHaveAccessibleName(/3 corners/);
  await saved(page);
  await page.getByRole('button', { name: 'Add a part' }).click();
  await page.getByRole('menuitem', { name: 'bar along a path' }).click();
  await expect(page.getByText('has no material.').first()).toBeVisible();
  await page.getByLabel('Material').selectOption({ label: 'Polished brass' });
  await page.getByRole('button', { name: 'Add a step' }).click();
  await page.getByRole('menuitem', { name: 'array round an axis' }).click();
  await page.getByLabel('Copies').fill('5');
  await page.keyboard.press('Enter');
  await expect(page.getByText('bar Ø 4 · 5 round the axis')).toBeVisible();
  await saved(page);
  await page.keyboard.press('Control+z');
  await expect(page.getByText('bar Ø 4 · 3 round the axis')).toBeVisible();
});
