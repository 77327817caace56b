import AxeBuilder from '@axe-core/playwright';
import type { Page } from '@playwright/test';
import { expect, test } from './fixtures';
import { openSheet, saved, station } from './helpers';

/** Stages in the order of the line. */
const STAGES = ['Brief', 'Form', 'Unwrap', 'Bake', 'Surface', 'Light', 'Render', 'Hand-off'];

const LEFT = ['color-contrast', 'aria-hidden-focus'];

/**
 * What axe (axe-core 4.13, rules of WCAG 2.2 A and AA and good practice) finds on the page as it stands. Of what it can't decide, two
 * kinds are left to the eye: words over a drawing or beside the arrow of a choice, whose colours are the same two as everywhere; and
 * the page behind a dialog, that holds the focus itself.
 */
async function found(page: Page, where: string): Promise<string[]> {
  const { violations, incomplete } = await new AxeBuilder({ page }).analyze();
  const told = (kind: string) => (v: (typeof violations)[number]) =>
    v.nodes.map((n) => `${where}: ${kind} ${v.id}: ${n.html.slice(0, 160)}`);
  return [...violations.flatMap(told('wrong')), ...incomplete.filter((v) => !LEFT.includes(v.id)).flatMap(told('undecided'))];
}

async function theme(page: Page, mode: 'light' | 'dark'): Promise<void> {
  await page.evaluate((m) => localStorage.setItem('mui-mode', m), mode);
  await page.reload();
}

/** Everything of a stage has come. */
async function quiet(page: Page): Promise<void> {
  await expect(page.getByText(/^(Opening|Forming the piece|Laying the piece)/)).toHaveCount(0);
  await expect(page.getByRole('progressbar')).toHaveCount(0);
  // Colours that glide from one state to another have arrived.
  await page.waitForTimeout(600);
}

for (const mode of ['light', 'dark'] as const)
  test(`nothing is found on any main view, ${mode}`, async ({ page }) => {
    await page.goto('/');
    await theme(page, mode);
    await page.getByRole('article', { name: 'Storm lantern' }).waitFor();
    const wrong = await found(page, 'workshop');
    await page.getByRole('button', { name: 'New asset' }).click();
    await page.getByRole('dialog').waitFor();
    await page.waitForTimeout(600);
    wrong.push(...(await found(page, 'new asset')));
    await page.getByRole('textbox', { name: 'Name', exact: true }).fill('Empty');
    await page.getByRole('button', { name: 'Start with the brief' }).click();
    await page.getByRole('link', { name: 'Go to Form' }).click();
    await page.getByRole('button', { name: 'Make the first part' }).waitFor();
    await quiet(page);
    wrong.push(...(await found(page, 'empty form')));
    await openSheet(page, 'Storm lantern', 'Brief');
    for (const stage of STAGES) {
      await station(page, stage);
      await quiet(page);
      wrong.push(...(await found(page, stage)));
    }
    for (const view of ['logbook', 'plan']) {
      await page.goto(`/${view}`);
      await page.getByRole(view === 'plan' ? 'region' : 'grid', { name: view === 'plan' ? 'timetable' : 'runs' }).waitFor();
      await quiet(page);
      wrong.push(...(await found(page, view)));
    }
    await openSheet(page, 'Notice box', 'Form');
    await page.getByRole('button', { name: /^Photographs/ }).click();
    await page.getByRole('button', { name: 'Open Notice box, from the right' }).click();
    await page.locator('svg[data-shown-ms]').waitFor();
    await quiet(page);
    wrong.push(...(await found(page, 'photograph')));
    await page.keyboard.press('?');
    await page.getByRole('dialog', { name: 'Keys' }).waitFor();
    await page.waitForTimeout(600);
    wrong.push(...(await found(page, 'keys')));
    expect(wrong).toEqual([]);
  });

test('every view fits from 1024 to 1920 px, and nothing is said on the console', async ({ page }) => {
  const said: string[] = [];
  page.on('console', (m) => ['warning', 'error'].includes(m.type()) && said.push(m.text()));
  page.on('pageerror', (e) => said.push(e.message));
  for (const width of [1024, 1920]) {
    await page.setViewportSize({ width, height: 800 });
    await page.goto('/');
    await page.getByRole('article', { name: 'Storm lantern' }).waitFor();
    const over = () => page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth);
    expect(await over(), `workshop at ${width}`).toBeLessThanOrEqual(0);
    for (const view of ['logbook', 'plan']) {
      await page.goto(`/${view}`);
      await quiet(page);
      await page.waitForTimeout(1000);
      expect(await over(), `${view} at ${width}`).toBeLessThanOrEqual(0);
    }
    await openSheet(page, 'Storm lantern', 'Brief');
    for (const stage of STAGES) {
      await station(page, stage);
      await quiet(page);
      expect(await over(), `${stage} at ${width}`).toBeLessThanOrEqual(0);
    }
  }
  expect(said).toEqual([]);
});

test('an address that leads nowhere says so, and leads back', async ({ page }) => {
  await page.goto('/assets/none/nowhere');
  await expect(page.getByRole('heading', { name: 'There is no such page' })).toBeVisible();
  await page.getByRole('link', { name: 'Back to the workshop' }).click();
  await expect(page.getByRole('article', { name: 'Storm lantern' })).toBeVisible();
});

test('the workshop by keyboard: found, ordered, opened; parts and columns moved without a pointer', async ({ page }) => {
  await page.goto('/');
  await page.getByRole('article', { name: 'Storm lantern' }).waitFor();
  await page.keyboard.press('/');
  await page.keyboard.type('oil');
  await expect(page.getByRole('article')).toHaveCount(1);
  await expect(page.getByText(/^1 of \d+$/)).toBeVisible();
  await page.keyboard.press('Escape');
  await page.getByLabel('Order', { exact: true }).selectOption('by name');
  await expect(page.getByRole('article').first()).toHaveAccessibleName('Bailing scoop');
  await page.reload();
  // The order is remembered.
  await expect(page.getByRole('article').first()).toHaveAccessibleName('Bailing scoop');
  await page.getByLabel('Show', { exact: true }).selectOption('with something to mend');
  // One over its triangles, one without a material before photographs are laid on it.
  await expect(page.getByRole('article')).toHaveCount(2);
  await expect(page.getByRole('article', { name: 'Salvaged goods' })).toBeVisible();
  await expect(page.getByRole('article', { name: 'Notice box' })).toBeVisible();
  await page.getByLabel('Show', { exact: true }).selectOption('all');

  await openSheet(page, 'Enamel oil can', 'Form');
  const rows = page.getByRole('region', { name: 'controls' }).getByRole('button', { name: /^Place \d+ of \d+$/ });
  await expect(rows.first()).toBeVisible();
  const names = () =>
    page
      .getByRole('region', { name: 'controls' })
      .getByRole('button', { expanded: false })
      .filter({ hasText: /^\d+\D/ })
      .allInnerTexts();
  const before = (await names()).map((t) => t.split('\n')[1]);
  await rows.first().focus();
  // What is said to a screen reader tells when the next key is waited for.
  const said = (text: string) => expect(page.getByRole('status').filter({ hasText: text })).toBeAttached();
  await page.keyboard.press('Space');
  await said(`${before[0]} is at place 1`);
  // Where the next row is out of sight the first press only brings it into view.
  await expect(async () => {
    await page.keyboard.press('ArrowDown');
    await expect(page.getByRole('status').filter({ hasText: `${before[0]} is at place 2` })).toBeAttached({ timeout: 5000 });
  }).toPass({ timeout: 45_000 });
  await page.keyboard.press('Space');
  await saved(page);
  await expect.poll(async () => (await names()).map((t) => t.split('\n')[1])).toEqual([before[1], before[0], ...before.slice(2)]);
  await page.keyboard.press('Control+z');
  await expect.poll(async () => (await names()).map((t) => t.split('\n')[1])).toEqual(before);

  // With the pointer: the second is dragged to the first place.
  const [from, to] = [await rows.nth(1).boundingBox(), await rows.first().boundingBox()];
  if (!from || !to) throw new Error('no grips');
  await page.mouse.move(from.x + 8, from.y + 8);
  await page.mouse.down();
  await page.mouse.move(from.x + 8, from.y - 4, { steps: 4 });
  await page.mouse.move(to.x + 8, to.y + 2, { steps: 6 });
  await page.mouse.up();
  await expect.poll(async () => (await names()).map((t) => t.split('\n')[1])).toEqual([before[1], before[0], ...before.slice(2)]);
  await saved(page);

  // A column is made wider, and stays so at the other stages and after a reload.
  const controls = page.getByRole('region', { name: 'controls' });
  const width = async () => (await controls.boundingBox())?.width ?? 0;
  const start = await width();
  await page.getByRole('separator', { name: 'width of the controls' }).focus();
  for (let i = 0; i < 3; i++) await page.keyboard.press('ArrowRight');
  await expect.poll(width).toBeGreaterThan(start + 20);
  const wide = await width();
  await station(page, 'Unwrap');
  await expect.poll(width).toBeCloseTo(wide, -1);
  await page.reload();
  await expect.poll(width).toBeCloseTo(wide, -1);
});
