import { readFile } from 'node:fs/promises';
import { type Document, WebIO } from '@gltf-transform/core';
import type { Download, Page } from '@playwright/test';
import { expect } from '@playwright/test';
import validator from 'gltf-validator';

/** Opens a workshop card's sheet at a stage. */
export async function openSheet(page: Page, name: string, stage: string): Promise<void> {
  await page.goto('/');
  await page.getByRole('link', { name, exact: true }).click();
  await page.getByRole('navigation', { name: 'stages' }).getByText(stage, { exact: true }).click();
  await expect(page.getByRole('navigation', { name: 'stages' }).locator('[aria-current=page]')).toContainText(stage);
}

export async function saved(page: Page): Promise<void> {
  await expect(page.locator('header').getByRole('status')).toHaveText('saved');
}

/** Waits for a computation to have come and gone. */
export async function settled(page: Page, name: string): Promise<void> {
  await expect(page.getByRole('status', { name })).toHaveCount(0, { timeout: 400_000 });
}

/** Clicks and collects everything that is downloaded, by name. */
export async function downloads(page: Page, click: () => Promise<void>, count: number): Promise<Map<string, Buffer>> {
  const got: Download[] = [];
  page.on('download', (d) => got.push(d));
  await click();
  await expect.poll(() => got.length, { timeout: 120_000 }).toBe(count);
  const out = new Map<string, Buffer>();
  for (const d of got) out.set(d.suggestedFilename(), await readFile(await d.path()));
  return out;
}

/** Reads a GLB with nothing of ours, after the open standard's own validator has found nothing. */
export async function validGlb(bytes: Buffer): Promise<Document> {
  const report = await validator.validateBytes(new Uint8Array(bytes));
  expect(report.issues.messages.filter((m: { severity: number }) => m.severity <= 1)).toEqual([]);
  return new WebIO().readBinary(new Uint8Array(bytes));
}
