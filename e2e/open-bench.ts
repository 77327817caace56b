import { chromium } from '@playwright/test';
import { calibrate, median } from '../core/bench/calibrate';

/** How long the lantern's sheet takes from a click to the piece on the paper, software drawing and all. */
const loop = median([calibrate(), calibrate(), calibrate()]);
const browser = await chromium.launch({
  executablePath: process.env.CHROMIUM,
  args: ['--no-sandbox', '--use-angle=swiftshader', '--enable-unsafe-swiftshader', '--disable-background-networking'],
});
const times: number[] = [];
for (let i = 0; i < 5; i++) {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await page.goto(`http://127.0.0.1:${process.env.E2E_PORT}/`);
  await page.getByRole('link', { name: 'Storm lantern', exact: true }).waitFor();
  const start = performance.now();
  await page.getByRole('link', { name: 'Storm lantern', exact: true }).click();
  await page.locator('[data-plate=piece] canvas').waitFor();
  times.push((performance.now() - start) / 1000);
  await page.close();
}
await browser.close();
console.log(
  `opening the demo asset, to the piece on the plate: median ${median(times).toFixed(2)} s, ${(median(times) / loop).toFixed(2)} × calibration`,
);
