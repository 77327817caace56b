import { WebIO } from '@gltf-transform/core';
import { KHRONOS_EXTENSIONS } from '@gltf-transform/extensions';
import type { Page } from '@playwright/test';
import { unzipSync } from 'fflate';
import { hashBytes } from '../core/src/hash';
import { packedCrate } from '../core/test/packed';
import { crate, patchwork, texturedGlb, threeTextured } from '../core/test/textured';
import { expect, test } from './fixtures';
import { bringIn, downloads, saved, settled, station, validGlb } from './helpers';

const glb = (name: string, bytes: Uint8Array) => ({ name, mimeType: 'model/gltf-binary', buffer: Buffer.from(bytes) });
const shot = async (page: Page, name: string) => {
  if (process.env.SHOTS) await page.screenshot({ path: `${process.env.SHOTS}/${name}.png` });
};
/** The pictures inside a file, by what is in them. */
const imagesOf = async (bytes: Uint8Array): Promise<string[]> =>
  (await new WebIO().registerExtensions(KHRONOS_EXTENSIONS).readBinary(bytes))
    .getRoot()
    .listTextures()
    .map((t) => hashBytes(t.getImage() as Uint8Array))
    .sort();

test('three textured models: kept byte for byte, measured, gathered on one set of two draws, handed over', async ({ page }) => {
  test.setTimeout(600_000);
  const controls = page.getByRole('region', { name: 'controls' });
  const aside = page.getByRole('region', { name: 'findings and advice' });
  const [first, second, third] = await Promise.all(threeTextured());
  await page.goto('/');
  await page.getByLabel('Model file').setInputFiles([glb('crate.glb', first)]);
  await bringIn(page);
  for (const [name, bytes] of [
    ['drum', second],
    ['pane', third],
  ] as const) {
    await page.getByLabel('Model to bring in').setInputFiles([glb(`${name}.glb`, bytes)]);
    await page.getByRole('dialog').getByRole('button', { name: 'Bring it in' }).click();
    await expect(page.getByRole('dialog')).toHaveCount(0, { timeout: 60_000 });
    await expect(controls.getByText(name, { exact: false }).first()).toBeVisible();
  }
  await saved(page);
  await shot(page, 'textured-form');

  await test.step('unchanged, they go out with the very pictures they came with', async () => {
    await station(page, 'Bake');
    const files = await downloads(page, () => controls.getByRole('button', { name: 'Export GLB' }).click(), 1);
    const came = (await Promise.all([first, second, third].map(imagesOf))).flat();
    const again = files.get('crate.glb') as Buffer;
    await validGlb(again);
    expect(await imagesOf(new Uint8Array(again))).toEqual([...new Set(came)].sort());
  });

  await test.step('each picture is listed with its size, what it holds and px/cm', async () => {
    await station(page, 'Unwrap');
    const list = controls.getByRole('region', { name: 'pictures it came with' });
    // Crate and drum share one: it is stored once.
    await expect(list.getByRole('listitem')).toHaveCount(5, { timeout: 60_000 });
    await expect(list.getByText(/256 × 256 · linear · normal of Crate paint/)).toBeVisible();
    await expect(list.getByText(/\d px\/cm/).first()).toBeVisible();
    await shot(page, 'textured-unwrap');
  });

  await test.step('a missing layout is named before anything is drawn, and mended by a click', async () => {
    await station(page, 'Bake');
    const panel = controls.getByRole('region', { name: 'many into one' });
    await expect(panel.getByText('There is no second layout to draw to yet.')).toBeVisible();
    await expect(panel.getByRole('button', { name: 'Gather', exact: true })).toBeDisabled();
    await panel.getByLabel('The set').selectOption('2048');
    await panel.getByRole('button', { name: 'Lay one for this size' }).click();
    await expect(panel.getByText('All 3 parts are gathered.')).toBeVisible();
    await panel.getByRole('button', { name: 'Gather', exact: true }).click();
    await settled(page, 'Gathering');
    const made = aside.getByRole('region', { name: 'gathered set' });
    await expect(made.getByText(/3 parts on one set of 2\s?048 px, 2 draws/)).toBeVisible({ timeout: 60_000 });
    const off = Number(/mean colour is ([\d.]+) off/.exec((await made.textContent()) ?? '')?.[1]);
    expect(off).toBeLessThanOrEqual(2);
    const normal = await made
      .getByRole('table', { name: 'off its source' })
      .getByRole('row', { name: /normal/ })
      .textContent();
    expect(Number(/([\d.]+)°([\d.]+)°/.exec(normal ?? '')?.[2])).toBeLessThanOrEqual(1);
    await shot(page, 'textured-gathered');
  });

  await test.step('a change after it is told, an undo brings it back', async () => {
    const made = aside.getByRole('region', { name: 'gathered set' });
    await controls.getByRole('region', { name: 'many into one' }).getByLabel('The set').selectOption('1024');
    await expect(made.getByText('of an older state')).toBeVisible();
    await page.keyboard.press('Control+z');
    await expect(made.getByText('of an older state')).toHaveCount(0);
  });

  await test.step('handed over: two draws, valid, its own pictures and none of the old ones', async () => {
    await saved(page);
    await station(page, 'Hand-off');
    const files = await downloads(
      page,
      () =>
        page
          .getByRole('button', { name: /^(Hand over|Pack|Make the archive)/ })
          .first()
          .click(),
      1,
    );
    const archive = unzipSync(new Uint8Array([...files.values()][0]));
    const names = Object.keys(archive);
    expect(names).toEqual(
      expect.arrayContaining(['crate.glb', 'textures/crate_basecolor.png', 'textures/crate_orm.png', 'textures/crate_normal.png']),
    );
    expect(names.some((n) => n.startsWith('textures/came/'))).toBe(false);
    const document = await validGlb(Buffer.from(archive['crate.glb']));
    const primitives = document
      .getRoot()
      .listMeshes()
      .flatMap((m) => m.listPrimitives());
    expect(primitives).toHaveLength(2);
    expect(
      document
        .getRoot()
        .listMaterials()
        .map((m) => m.getAlphaMode())
        .sort(),
    ).toEqual(['BLEND', 'OPAQUE']);
    expect(document.getRoot().listTextures()).toHaveLength(3);
  });
});

test('a file that names a picture it hasn’t, and one that is none: a sentence each, and the rest is taken', async ({ page }) => {
  const file = await texturedGlb({
    name: 'Box',
    mesh: crate(80),
    material: (d, picture) =>
      d
        .createMaterial('Paint')
        .setBaseColorTexture(picture('colour', patchwork(64)))
        .setNormalTexture(picture('normal', new TextEncoder().encode('no picture at all, only words, and some more of them'))),
  });
  await page.goto('/');
  await page.getByLabel('Model file').setInputFiles([glb('box.glb', file)]);
  await bringIn(page);
  await station(page, 'Unwrap');
  const list = page.getByRole('region', { name: 'pictures it came with' });
  await expect(list.getByText(/is not a PNG, JPEG, WebP or KTX2 picture/)).toBeVisible({ timeout: 60_000 });
  await expect(list.getByText(/64 × 64 · sRGB · base colour of Paint/)).toBeVisible();
});

test('WebP and KTX2 pictures are measured, drawn and gathered like any other', async ({ page }) => {
  const { file } = await packedCrate('Box', 80, 64);
  const controls = page.getByRole('region', { name: 'controls' });
  await page.goto('/');
  await page.getByLabel('Model file').setInputFiles([glb('box.glb', file)]);
  await bringIn(page);
  await station(page, 'Unwrap');
  const list = page.getByRole('region', { name: 'pictures it came with' });
  await expect(list.getByText(/128 × 128 · sRGB · base colour of Paint/)).toBeVisible({ timeout: 60_000 });
  await expect(list.getByText(/64 × 64 · linear · normal of Paint/)).toBeVisible();
  await shot(page, 'packed-unwrap');
  await station(page, 'Bake');
  const panel = controls.getByRole('region', { name: 'many into one' });
  await panel.getByLabel('The set').selectOption('512');
  await panel.getByRole('button', { name: 'Lay one for this size' }).click();
  await panel.getByRole('button', { name: 'Gather', exact: true }).click();
  await settled(page, 'Gathering');
  const made = page.getByRole('region', { name: 'gathered set' });
  await expect(made.getByText(/1 part on one set of 512 px/)).toBeVisible({ timeout: 60_000 });
  expect(Number(/mean colour is ([\d.]+) off/.exec((await made.textContent()) ?? '')?.[1])).toBeLessThanOrEqual(2);
  await shot(page, 'packed-gathered');
});
