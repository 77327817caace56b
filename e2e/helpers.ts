import { readFile } from 'node:fs/promises';
import { type Document, WebIO } from '@gltf-transform/core';
import { KHRONOS_EXTENSIONS } from '@gltf-transform/extensions';
import type { Download, Page } from '@playwright/test';
import { expect } from '@playwright/test';
import { unzipSync } from 'fflate';
import validator from 'gltf-validator';

/** Opens a workshop card's sheet at a stage. */
export async function openSheet(page: Page, name: string, stage: string): Promise<void> {
  await page.goto('/');
  await page.getByRole('article').getByRole('link', { name, exact: true }).click();
  await page.getByRole('navigation', { name: 'stages' }).getByText(stage, { exact: true }).click();
  await expect(page.getByRole('navigation', { name: 'stages' }).locator('[aria-current=page]')).toContainText(stage);
}

export async function saved(page: Page): Promise<void> {
  await expect(page.locator('header').getByRole('status')).toHaveText('saved');
}

/** Begins an empty Form with a part of one step, a turned profile unless another kind is wanted. */
export async function firstPart(page: Page, kind = 'turned profile'): Promise<void> {
  await page.getByRole('button', { name: 'Make the first part' }).click();
  await page.getByLabel('Search kinds of step').fill(kind);
  await page.keyboard.press('Enter');
}

/** Begins an import, and opens what was brought: at once, or after what isn’t carried on was read. */
export async function bringIn(page: Page): Promise<void> {
  await page.getByRole('dialog').getByRole('button', { name: 'Import' }).click();
  const open = page.getByRole('button', { name: 'Open it' });
  await expect(open.or(page.getByRole('navigation', { name: 'stages' }))).toBeVisible({ timeout: 90_000 });
  if (await open.isVisible()) await open.click();
  await expect(page.getByRole('dialog')).toHaveCount(0);
}

/** Waits for a computation to have come and gone. */
export async function settled(page: Page, name: string): Promise<void> {
  await expect(page.getByRole('status', { name })).toHaveCount(0, { timeout: 400_000 });
}

/** Clicks and collects everything that is downloaded, by name; files come one after another, so it stays for one too many. */
export async function downloads(page: Page, click: () => Promise<void>, count: number): Promise<Map<string, Buffer>> {
  const got: Download[] = [];
  page.on('download', (d) => got.push(d));
  await click();
  await expect.poll(() => got.length, { timeout: 120_000 }).toBeGreaterThanOrEqual(count);
  await page.waitForTimeout(1500);
  expect(got.map((d) => d.suggestedFilename())).toHaveLength(count);
  const out = new Map<string, Buffer>();
  for (const d of got) out.set(d.suggestedFilename(), await readFile(await d.path()));
  return out;
}

/** Reads a GLB with nothing of ours, after the open standard's own validator has found nothing. */
export async function validGlb(bytes: Buffer): Promise<Document> {
  const report = await validator.validateBytes(new Uint8Array(bytes));
  expect(report.issues.messages.filter((m: { severity: number }) => m.severity <= 1)).toEqual([]);
  return new WebIO().registerExtensions(KHRONOS_EXTENSIONS).readBinary(new Uint8Array(bytes));
}

export async function station(page: Page, name: string): Promise<void> {
  await page.getByRole('navigation', { name: 'stages' }).getByText(name, { exact: true }).click();
  await expect(page.getByRole('navigation', { name: 'stages' }).locator('[aria-current=page]')).toContainText(name);
}

/** Composes the texture set and waits for it. */
export async function compose(page: Page): Promise<void> {
  await page
    .getByRole('button', { name: /^Compose/ })
    .first()
    .click();
  await expect(page.getByText(/px, composed in/)).toBeVisible({ timeout: 300_000 });
  await settled(page, 'Composing');
}

/** Renders the picture with so many samples and waits for it. */
export async function picture(page: Page, samples: number): Promise<void> {
  const field = page.getByLabel('Samples a pixel');
  await field.fill(String(samples));
  await page.keyboard.press('Enter');
  await saved(page);
  const before = await page.getByRole('button', { name: /to compare/ }).count();
  await page
    .getByRole('region', { name: 'controls' })
    .getByRole('button', { name: /^Render/ })
    .click();
  await expect(page.getByRole('button', { name: /to compare/ })).toHaveCount(before + 1, { timeout: 400_000 });
  await settled(page, 'Rendering');
}

/** Packs everything, checks that all of it is in the archive, and hands its files back. */
export async function archiveOf(page: Page, base: string): Promise<Record<string, Buffer>> {
  await page.getByRole('button', { name: /^Everything/ }).click();
  await saved(page);
  const got = await downloads(page, () => page.getByRole('button', { name: 'Pack and download' }).click(), 1);
  const zip = got.get(`${base}.zip`);
  expect(zip).toBeDefined();
  const files = unzipSync(new Uint8Array(zip as Buffer));
  const wanted = [
    ...['.glb', '.obj', '.mtl', '_layout.png', '_layout.svg', '_picture.png', '_spec-sheet.html'].map((e) => `${base}${e}`),
    ...['basecolor', 'normal', 'orm', 'roughness', 'metallic', 'occlusion'].map((c) => `textures/${base}_${c}.png`),
  ];
  for (const name of wanted) expect(Object.keys(files)).toContain(name);
  await expect(page.getByText(`${base}.zip`, { exact: false }).first()).toBeVisible();
  return Object.fromEntries(Object.entries(files).map(([name, bytes]) => [name, Buffer.from(bytes)]));
}
