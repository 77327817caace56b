import { expect, test } from '@playwright/test';
import { BLENDS, type BlendMode, composite, type Rgba } from '../core/src/surface/blend';

/** Our blend modes against the browser's own compositing of the same colours (W3C Compositing and Blending Level 1). */
test('every blend mode is Chromium’s own within two steps of 255, partial alpha and all', async ({ page }) => {
  await page.goto('about:blank');
  const modes = Object.keys(BLENDS) as BlendMode[];
  const levels = [0, 0.2, 0.5, 0.75, 1];
  const cases = modes.flatMap((mode) =>
    levels.flatMap((b) =>
      levels.flatMap((s) =>
        [
          [1, 1],
          [1, 0.4],
          [0.5, 0.6],
          [0.7, 1],
        ].map(([ab, as]) => ({ mode, b, s, ab, as })),
      ),
    ),
  );
  const theirs = await page.evaluate((list) => {
    const canvas = document.createElement('canvas');
    canvas.width = list.length;
    canvas.height = 1;
    const c = canvas.getContext('2d', { willReadFrequently: true }) as CanvasRenderingContext2D;
    list.forEach(({ mode, b, s, ab, as }, i) => {
      const grey = (x: number, a: number) => `rgba(${Math.round(x * 255)},${Math.round(x * 255)},${Math.round(x * 255)},${a})`;
      c.globalCompositeOperation = 'source-over';
      c.fillStyle = grey(b, ab);
      c.fillRect(i, 0, 1, 1);
      c.globalCompositeOperation = mode === 'normal' ? 'source-over' : (mode as GlobalCompositeOperation);
      c.fillStyle = grey(s, as);
      c.fillRect(i, 0, 1, 1);
    });
    return [...c.getImageData(0, 0, list.length, 1).data];
  }, cases);
  let worst = { off: 0, of: '' };
  for (const [i, { mode, b, s, ab, as }] of cases.entries()) {
    const of = (x: number, a: number): Rgba => [Math.round(x * 255) / 255, Math.round(x * 255) / 255, Math.round(x * 255) / 255, a];
    const [r, , , a] = composite(of(b, ab), of(s, as), mode);
    // A canvas keeps colours multiplied by their alpha, so that is where two steps are two steps.
    const off = Math.max(Math.abs(r * a * 255 - (theirs[4 * i] * theirs[4 * i + 3]) / 255), Math.abs(a * 255 - theirs[4 * i + 3]));
    if (off > worst.off) worst = { off, of: `${mode} of ${s} (${as}) over ${b} (${ab})` };
  }
  console.log(`blend modes differ from Chromium by at most ${worst.off.toFixed(2)} of 255: ${worst.of}`);
  expect(worst.off, worst.of).toBeLessThanOrEqual(2);
});
