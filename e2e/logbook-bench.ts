import { chromium, type Page } from '@playwright/test';

/** How long the logbook of 20 000 runs and the plan of their 60 pieces take to open, from a click in the workshop and by their address. */
const at = (path: string) => `http://127.0.0.1:${process.env.E2E_PORT}${path}`;
/** How long the workshop is looked at before, ms. */
const LOOKED_AT = 3000;
const browser = await chromium.launch({ executablePath: process.env.CHROMIUM, args: ['--no-sandbox', '--disable-background-networking'] });

async function timed(what: string, wanted: number, shown: (page: Page) => Promise<void>, open: (page: Page) => Promise<unknown>) {
  const times: number[] = [];
  for (let k = 0; k < 5; k++) {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await page.goto(at('/'));
    await page.getByRole('article').first().waitFor();
    // Somebody looks at the workshop meanwhile, and it fetches what opening a piece needs.
    await page.waitForTimeout(LOOKED_AT);
    const began = performance.now();
    await open(page);
    await shown(page);
    times.push((performance.now() - began) / 1000);
    await page.close();
  }
  times.sort((a, b) => a - b);
  console.log(`${what.padEnd(52)} ${times[2].toFixed(2).padStart(6)} s, slowest ${times[4].toFixed(2)} (wanted ≤ ${wanted})`);
}
const rows = (page: Page) => page.getByRole('row').nth(8).waitFor();
const planned = (page: Page) => page.getByRole('status').first().waitFor();
const go = (name: string) => (page: Page) => page.getByRole('link', { name, exact: true }).first().click();

console.log(`opened in a browser after ${LOOKED_AT / 1000} s in the workshop, medians of five`);
await timed('the logbook, from the workshop', 1.5, rows, go('Logbook'));
await timed('the logbook, by its address', 1.5, rows, (page) => page.goto(at('/logbook')));
await timed('the logbook, filtered', 1.5, rows, (page) => page.goto(at('/logbook?stage=bake&verdict=kept')));
await timed('the plan, from the workshop', 1.5, planned, go('Plan'));
await browser.close();
