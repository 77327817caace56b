import { expect, type Page, test } from './fixtures';
import { openSheet, saved, settled, station } from './helpers';

/** Tabs, switches and breaks that overlap, in a real browser with its own storage, locks and stream of news. */
async function newAsset(page: Page, name: string): Promise<void> {
  await page.goto('/');
  await page.getByRole('button', { name: 'New asset' }).click();
  await page.getByRole('textbox', { name: 'Name', exact: true }).fill(name);
  await page.getByRole('button', { name: 'Start with the brief' }).click();
  await expect(page.getByRole('heading', { name })).toBeVisible();
}
const put = async (page: Page, label: string, value: string): Promise<void> => {
  await page.getByLabel(label).fill(value);
  await page.keyboard.press('Enter');
};

test('two windows: each shows what the other does; what both set at once is said, kept, and made when that is wanted', async ({
  browser,
}) => {
  const [one, two] = [await browser.newContext(), await browser.newContext()];
  const [a, b] = [await one.newPage(), await two.newPage()];
  await newAsset(a, 'Shared lamp');
  await b.goto(a.url());
  await expect(b.getByRole('heading', { name: 'Shared lamp' })).toBeVisible();
  await put(a, 'Distance', '800');
  await saved(a);
  await expect(b.getByLabel('Distance')).toHaveValue('800');
  // Cut off, the second window goes on; meanwhile the first sets the same thing.
  await two.setOffline(true);
  await put(b, 'Distance', '900');
  await put(b, 'Lens', '50');
  await expect(b.locator('header').getByRole('status')).toHaveText(/not saved yet/);
  await put(a, 'Distance', '700');
  await saved(a);
  await two.setOffline(false);
  await saved(b);
  await expect(b.getByText(/Someone else changed this in the meantime \(set the brief: closest view\)/)).toBeVisible();
  await expect(b.getByLabel('Distance')).toHaveValue('700');
  await expect(b.getByLabel('Lens')).toHaveValue('50');
  await expect(a.getByLabel('Lens')).toHaveValue('50');
  await b.getByRole('button', { name: '1 not stored' }).click();
  await b.getByRole('button', { name: 'Do it now' }).click();
  await expect(b.getByLabel('Distance')).toHaveValue('900');
  await b.keyboard.press('Escape');
  await saved(b);
  await expect(a.getByLabel('Distance')).toHaveValue('900');
  await one.close();
  await two.close();
});

test('what a window could not store goes on in the next one, even when nobody opens that asset', async ({ browser }) => {
  const context = await browser.newContext();
  const a = await context.newPage();
  await newAsset(a, 'Left behind');
  const url = a.url();
  await context.setOffline(true);
  await put(a, 'Distance', '4321');
  await expect(a.locator('header').getByRole('status')).toHaveText(/not saved yet/);
  await a.close({ runBeforeUnload: false });
  await context.setOffline(false);
  const b = await context.newPage();
  await b.goto('/');
  await expect(b.getByRole('article', { name: 'Left behind' })).toBeVisible();
  await expect
    .poll(async () => {
      const answer = await b.request.get(url.replace(/\/assets\/([^/]+)\/.*/, '/api/assets/$1'));
      return ((await answer.json()) as { document: { brief: { closestMm: number } } }).document.brief.closestMm;
    })
    .toBe(4321);
  await context.close();
});

test('undo right after a slider was dragged, and twice in a row', async ({ page }) => {
  await openSheet(page, 'Storm lantern', 'Surface');
  await page.getByRole('button', { name: 'Aged brass', exact: true }).click();
  const slider = page.getByRole('slider', { name: 'Roughness', exact: true });
  await expect(slider).toBeVisible();
  const value = () => slider.inputValue();
  const before = await value();
  await slider.focus();
  await page.keyboard.press('ArrowRight');
  await saved(page);
  const first = await value();
  await page.keyboard.press('ArrowRight');
  await saved(page);
  expect(await value()).not.toBe(first);
  // The slider still has the focus.
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await expect.poll(value).toBe(before);
  await expect(page.getByText(/Someone else/)).toHaveCount(0);
  await saved(page);
});

test('work goes on while another asset is open: it is listed there, and can be stopped there', async ({ page }) => {
  await openSheet(page, 'Storm lantern', 'Bake');
  await page.getByLabel('Rays a texel').fill('700');
  await page.keyboard.press('Enter');
  await saved(page);
  await page.getByRole('button', { name: /^Bake/ }).first().click();
  await expect(page.getByRole('status', { name: 'Baking', exact: true })).toBeVisible();
  await page.getByRole('link', { name: 'Back to the workshop' }).click();
  await expect(page.getByText(/on this page:/)).toBeVisible();
  await page.getByRole('article').getByRole('link', { name: 'Gig oar', exact: true }).click();
  await station(page, 'Unwrap');
  await expect(page.getByRole('status', { name: 'Baking Storm lantern' })).toBeVisible();
  // This asset's own work is none of that.
  await page
    .getByRole('button', { name: /^Unwrap/ })
    .first()
    .click();
  await expect(page.getByText('Islands', { exact: true })).toBeVisible({ timeout: 120_000 });
  await settled(page, 'Unwrapping');
  await page.getByRole('button', { name: 'Stop baking storm lantern' }).click();
  await expect(page.getByText(/Storm lantern: Stopped, as asked/)).toBeVisible();
  await settled(page, 'Baking Storm lantern');
});

test('twenty assets opened in turn take no more than half as much again as the third', async ({ page }) => {
  await page.addInitScript(() => {
    const live = { buffers: 0, textures: 0, contexts: 0, urls: 0 };
    Object.assign(window, { live });
    const count = (kind: 'buffers' | 'textures', by: number, proto: object, name: string) => {
      const own = (proto as Record<string, (...a: unknown[]) => unknown>)[name];
      (proto as Record<string, unknown>)[name] = function (this: unknown, ...args: unknown[]) {
        live[kind] += by;
        return own.apply(this, args);
      };
    };
    count('buffers', 1, WebGL2RenderingContext.prototype, 'createBuffer');
    count('buffers', -1, WebGL2RenderingContext.prototype, 'deleteBuffer');
    count('textures', 1, WebGL2RenderingContext.prototype, 'createTexture');
    count('textures', -1, WebGL2RenderingContext.prototype, 'deleteTexture');
    // What a drawing context still holds goes with it when it is given up.
    const seen = new WeakSet<object>();
    const get = HTMLCanvasElement.prototype.getContext as (this: HTMLCanvasElement, ...a: unknown[]) => object | null;
    HTMLCanvasElement.prototype.getContext = function (this: HTMLCanvasElement, ...args: unknown[]) {
      const made = get.apply(this, args);
      if (made instanceof WebGL2RenderingContext && !seen.has(made)) {
        seen.add(made);
        live.contexts++;
        this.addEventListener('webglcontextlost', () => live.contexts--);
      }
      return made;
    } as typeof HTMLCanvasElement.prototype.getContext;
    const [make, drop] = [URL.createObjectURL, URL.revokeObjectURL];
    URL.createObjectURL = (x) => {
      live.urls++;
      return make.call(URL, x);
    };
    URL.revokeObjectURL = (x) => {
      live.urls--;
      drop.call(URL, x);
    };
  });
  const session = await page.context().newCDPSession(page);
  await session.send('HeapProfiler.enable');
  const measure = async () => {
    // A sheet that was left lingers for a moment in case it is come back to.
    await page.waitForTimeout(4500);
    await session.send('HeapProfiler.collectGarbage');
    await session.send('HeapProfiler.collectGarbage');
    const { usedSize } = (await session.send('Runtime.getHeapUsage')) as { usedSize: number };
    const live = await page.evaluate(() => (window as unknown as { live: Record<string, number> }).live);
    return { megabytes: usedSize / 1e6, ...live } as {
      megabytes: number;
      buffers: number;
      textures: number;
      contexts: number;
      urls: number;
    };
  };
  await page.goto('/');
  // Those that have something to be drawn.
  const cards = page.getByRole('article').filter({ has: page.locator('img') });
  await expect(cards.first()).toBeVisible();
  const count = await cards.count();
  let third = { megabytes: 0, buffers: 0, textures: 0, contexts: 0, urls: 0 };
  for (let i = 0; i < 20; i++) {
    await cards
      .nth(i % count)
      .getByRole('link')
      .first()
      .click();
    await expect(page.getByRole('navigation', { name: 'stages' })).toBeVisible();
    await station(page, 'Form');
    await expect(page.locator('canvas').first()).toBeVisible();
    await page.waitForTimeout(700);
    await page.getByRole('link', { name: 'Back to the workshop' }).click();
    await expect(cards.first()).toBeVisible();
    if (i === 2) third = await measure();
  }
  const last = await measure();
  console.log(`after three: ${JSON.stringify(third)}; after twenty: ${JSON.stringify(last)}`);
  expect(last.megabytes).toBeLessThan(1.5 * third.megabytes);
  expect(last.buffers).toBeLessThanOrEqual(Math.max(20, 1.5 * third.buffers));
  // No context is kept, and with it nothing that was in it: each brings four textures of its own.
  expect(last.contexts).toBeLessThanOrEqual(1);
  expect(last.textures).toBeLessThanOrEqual(4 * 20 + 1.5 * Math.max(0, third.textures - 4 * 3));
  expect(last.urls).toBeLessThanOrEqual(third.urls + 2);
});
