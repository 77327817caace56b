import { readFileSync } from 'node:fs';
import type { Page } from '@playwright/test';
import { decodePng } from '../core/src/image/png';
import { decodeTexture } from '../core/src/io/textures';
import { seenFrom } from '../core/src/photo/camera';
import type { Px } from '../core/src/photo/match';
import { cameraTaken, NOTICE_BOX, PHOTO_SIZE, seenOn, TAKEN } from '../demo/src/notice-box';
import { expect, test } from './fixtures';
import { downloads, saved, settled, station, validGlb } from './helpers';

const [TAKEN_RIGHT] = TAKEN;
const JPEG = readFileSync(new URL(`../demo/kept/${TAKEN_RIGHT.file}`, import.meta.url));
const shot = async (page: Page, name: string) => {
  if (process.env.SHOTS) await page.screenshot({ path: `${process.env.SHOTS}/${name}.png` });
};
const number = (text: string | null, pattern: RegExp): number =>
  Number((pattern.exec(text ?? '')?.[1] ?? 'NaN').replace(/[\s\u202f]/g, ''));

test('a photograph of a box: its camera matched, its sizes found, laid on, handed over unlit', async ({ page }) => {
  test.setTimeout(420_000);
  const controls = page.getByRole('region', { name: 'controls' });
  const aside = page.getByRole('region', { name: 'findings and advice' });
  await page.goto('/');
  await page
    .getByRole('link', { name: /Notice box/ })
    .first()
    .click();
  await station(page, 'Form');
  await controls.getByRole('button', { name: /^Photographs/ }).click();
  for (const t of TAKEN) await controls.getByRole('button', { name: `Remove ${t.name}` }).click();
  await expect(controls.getByText('A photograph with edges that run along its axes')).toBeVisible();

  await test.step('what is no photograph, or one in the inks of a print, is said and not taken', async () => {
    const input = page.getByLabel('Photograph file');
    await input.setInputFiles([{ name: 'words.jpg', mimeType: 'image/jpeg', buffer: Buffer.from('only words, no picture at all') }]);
    await expect(page.getByText('“words.jpg” is no JPEG or PNG picture.')).toBeVisible();
    // A frame header of four components (ITU-T T.81, B.2.2).
    const inks = Buffer.from([255, 216, 255, 192, 0, 20, 8, 0, 64, 0, 64, 4, 1, 17, 0, 2, 17, 0, 3, 17, 0, 4, 17, 0, 255, 217]);
    await input.setInputFiles([{ name: 'print.jpg', mimeType: 'image/jpeg', buffer: inks }]);
    await expect(page.getByText(/“print.jpg” is a picture in the four inks of a print/)).toBeVisible();
    await expect(controls.getByRole('button', { name: /^Open / })).toHaveCount(0);
    // They stay until they were read, and lie over the plate.
    for (let i = 0; i < 2; i++) await page.getByRole('alert').getByRole('button', { name: 'Close' }).first().click();
  });

  await page.getByLabel('Photograph file').setInputFiles([{ name: 'notice-box.jpg', mimeType: 'image/jpeg', buffer: JPEG }]);
  const sheet = page.locator('svg[data-shown-ms]');
  await expect(sheet).toBeVisible({ timeout: 30_000 });
  const facts = aside.getByRole('region', { name: 'what the photograph says' });
  await expect(
    facts.getByText('Draw edges that run along the piece’s axes.', { exact: false }).or(facts.getByText(/two bundles/)),
  ).toBeVisible();
  /** A place of the photograph on the screen, to a whole pixel as a mouse has it. */
  const onScreen = async (p: Px): Promise<[number, number]> => {
    const box = await sheet.boundingBox();
    const [x, y, scale] = ((await sheet.getAttribute('data-view')) ?? '').split(' ').map(Number);
    return [Math.round((box?.x ?? 0) + (p[0] - x) * scale), Math.round((box?.y ?? 0) + (p[1] - y) * scale)];
  };
  const seen = seenOn(TAKEN_RIGHT);
  const plate = page.getByRole('group', { name: 'what is drawn on the photograph' });

  await test.step('edges are drawn by hand and move onto the picture’s own', async () => {
    let drawn = 0;
    for (const axis of [0, 1, 2] as const) {
      await plate.getByRole('button', { name: `Edges along ${'xyz'[axis]}` }).click();
      for (const { ends } of seen.edges.filter((e) => e.axis === axis)) {
        const [a, b] = [await onScreen(ends[0]), await onScreen(ends[1])];
        // Not from the very corner: handles of other edges lie there.
        const at = (t: number) => [a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1])] as const;
        await page.mouse.move(...at(0.12));
        await page.mouse.down();
        await page.mouse.move(...at(0.5));
        await page.mouse.move(...at(0.88));
        await page.mouse.up();
        drawn++;
        await expect(facts.getByRole('table', { name: 'edges' }).getByRole('row')).toHaveCount(drawn + 1);
      }
    }
    await expect(facts.getByText(/two corners of a part say where it stood|two corners of the box/)).toBeVisible();
    const focal = number(await facts.textContent(), /Focal length ([\d\s\u202f]+) px/);
    expect(Math.abs(focal / cameraTaken(TAKEN_RIGHT).focalPx - 1)).toBeLessThan(0.015);
  });

  await test.step('corners of the box say where the camera stood, and the box how large it is', async () => {
    await plate.getByRole('button', { name: 'Corner' }).click();
    for (const { corner, at } of seen.corners) {
      await page.getByLabel('which corner').selectOption(String(corner));
      const [x, y] = await onScreen(at);
      await page.mouse.move(x, y);
      await page.mouse.down();
      await page.mouse.up();
      await expect(facts.getByRole('table', { name: 'corners' }).getByRole('row', { name: /corner/ })).not.toHaveCount(0);
    }
    await expect(facts.getByRole('table', { name: 'corners' }).getByRole('row')).toHaveCount(seen.corners.length + 1);
    await facts.getByLabel('Corners are of').selectOption({ label: 'Box' });
    await facts.getByLabel('Size that is known').selectOption({ label: 'height, y' });
    await expect(facts.getByText(/The camera is known/)).toBeVisible({ timeout: 20_000 });
    const text = await facts.textContent();
    const focal = number(text, /Focal length ([\d\s\u202f]+) px/);
    expect(Math.abs(focal / cameraTaken(TAKEN_RIGHT).focalPx - 1)).toBeLessThan(0.005);
    const sizes = facts.getByRole('table', { name: 'sizes the picture says' });
    for (const [k, name] of [
      [0, /width/],
      [2, /depth/],
    ] as const) {
      const found = number(await sizes.getByRole('row', { name }).textContent(), /([\d.]+)\smm/);
      expect(Math.abs(found / NOTICE_BOX[k] - 1)).toBeLessThan(0.01);
    }
    await shot(page, 'photo-match');
  });

  await test.step('its sizes are taken, and given back by an undo', async () => {
    await facts.getByRole('button', { name: 'Take these sizes' }).click();
    await expect(controls.getByText(/box 6[34]\d(\.\d)? × 480 × 2[12]\d(\.\d)?/)).toBeVisible();
    await page.getByRole('button', { name: 'Back to the piece' }).click();
    await page.keyboard.press('Control+z');
    await expect(controls.getByText('box 640 × 480 × 220')).toBeVisible();
    await saved(page);
  });

  await test.step('laid on: what it saw, how finely, and where to stand for the rest', async () => {
    await station(page, 'Bake');
    const panel = controls.getByRole('region', { name: 'photographs laid on' });
    await expect(panel.getByText('One photograph, its camera known.')).toBeVisible();
    await panel.getByLabel('The set').selectOption('2048');
    await panel.getByRole('button', { name: 'Lay them on' }).click();
    await settled(page, 'Laying photographs on');
    const made = aside.getByRole('region', { name: 'photographs on the piece' });
    await expect(made.getByText(/% of the surface is seen/)).toBeVisible({ timeout: 60_000 });
    // Front and right side of the box whole; of its top, seen at 80° and more, what is not too flat to say anything.
    const [w, h, d] = NOTICE_BOX;
    const whole = 2 * (w * h + d * h + w * d);
    const found = number(await made.textContent(), /([\d.]+)\s?% of the surface is seen/) / 100;
    expect(found).toBeGreaterThan((w * h + d * h) / whole - 0.01);
    expect(found).toBeLessThan((w * h + d * h + w * d) / whole + 0.01);
    await expect(made.getByText(/Stand behind/)).toBeVisible();
    await shot(page, 'photo-laid');
  });

  await test.step('exported: valid, unlit, and what the photograph shows stands where the camera saw it', async () => {
    const files = await downloads(page, () => controls.getByRole('button', { name: 'Export GLB' }).click(), 3);
    const document = await validGlb([...files].find(([name]) => name.endsWith('.glb'))?.[1] as Buffer);
    const [material] = document.getRoot().listMaterials();
    expect(material.getExtension('KHR_materials_unlit')).not.toBeNull();
    const set = decodePng(material.getBaseColorTexture()?.getImage() as Uint8Array);
    expect([set.width, set.height]).toEqual([2048, 2048]);
    const photo = decodeTexture(TAKEN_RIGHT.file, JPEG);
    const camera = cameraTaken(TAKEN_RIGHT);
    const mean = (p: { width: number; channels: number; data: ArrayLike<number> }, x: number, y: number, r: number): number[] =>
      [0, 1, 2].map((k) => {
        let [sum, n] = [0, 0];
        for (let j = -r; j <= r; j++)
          for (let i = -r; i <= r; i++) {
            sum += p.data[p.channels * ((Math.floor(y) + j) * p.width + Math.floor(x) + i) + k];
            n++;
          }
        return sum / n;
      });
    const [primitive] = document.getRoot().listMeshes()[0].listPrimitives();
    const [index, position, uv] = [primitive.getIndices(), primitive.getAttribute('POSITION'), primitive.getAttribute('TEXCOORD_0')];
    const off: number[] = [];
    for (let t = 0; t < (index?.getCount() ?? 0); t += 3) {
      const at = (a: typeof position, n: number) =>
        [0, 1, 2]
          .map((i) => a?.getElement(index?.getScalar(t + i) as number, []) as number[])
          .reduce((s, p) => s.map((v, k) => v + p[k] / 3), new Array(n).fill(0));
      const p = at(position, 3).map((x) => 1000 * x) as unknown as [number, number, number];
      const isSeen = p[2] > 109 || p[0] > 319 || p[1] > 479;
      const px = seenFrom(camera, p);
      if (!isSeen || !px) continue;
      const [u, v] = at(uv, 2);
      const [a, b] = [mean(set, u * 2048, v * 2048, 4), mean(photo, px[0], px[1], 4)];
      off.push(Math.max(...a.map((x, k) => Math.abs(x - b[k]))));
    }
    expect(off).toHaveLength(6);
    expect(off.reduce((s, x) => s + x, 0) / off.length).toBeLessThan(12);
  });

  await test.step('the shot is seen through the photograph, the piece where it stood', async () => {
    await station(page, 'Light');
    await controls.getByLabel('Seen').selectOption({ label: 'notice-box' });
    await expect(controls.getByText('as photographed', { exact: true })).toBeVisible();
    // The box as its true camera has it: from its leftmost corner to its rightmost.
    const xs = seen.corners.map(({ at }) => at[0]);
    const wide = (100 * (Math.max(...xs) - Math.min(...xs))) / PHOTO_SIZE.width;
    const fills = page.getByText(/the piece fills/);
    await expect.poll(async () => Math.abs(number(await fills.textContent(), /fills (\d+)/) - wide)).toBeLessThan(2);
    await controls.getByLabel('Seen').selectOption({ label: 'framed for the piece' });
    await expect(controls.getByText('framed for the piece', { exact: true }).first()).toBeVisible();
  });
});
