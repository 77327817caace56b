import { unzipSync } from 'fflate';
import { decodePng } from '../core/src/image/png';
import { expect, test } from './fixtures';
import { downloads, openSheet, saved, station, validGlb } from './helpers';

test('layers on a chest: the section through its wood, one added, copied to another material, composed, standing out of the delivered maps', async ({
  page,
}) => {
  test.setTimeout(240_000);
  const controls = page.getByRole('region', { name: 'controls' });
  const aside = page.getByRole('region', { name: 'findings and advice' });
  await page.goto('/');
  await openSheet(page, 'Keeper’s chest', 'Surface');
  const bench = controls.getByRole('group', { name: 'materials' });
  const layers = controls.getByRole('region', { name: 'layers' });
  const names = () => layers.getByRole('checkbox').evaluateAll((all) => all.map((a) => a.getAttribute('aria-label')));

  await test.step('wood is grown: its layers are a section, topmost first', async () => {
    await bench.getByRole('button', { name: 'Oiled wood' }).click();
    await expect.poll(names).toEqual(['Worn edges is on', 'Dirt is on', 'Fibres is on', 'Late wood is on', 'Tone of each board is on']);
    await expect(layers.getByText(/3.2 rings a cm/)).toBeVisible();
  });

  await test.step('a layer is added, set in figures, moved below another by keyboard, and wrong ones are refused', async () => {
    await layers.getByRole('button', { name: 'Add a layer' }).click();
    await page.getByRole('menuitem', { name: /^Hammered/ }).click();
    await expect.poll(async () => (await names())[0]).toBe('Bowls is on');
    const bowls = layers.getByRole('group', { name: 'hammered bowls' });
    await bowls.getByLabel('Across').fill('25');
    await page.keyboard.press('Enter');
    await expect(layers.getByText(/bowls of 25 mm · 350 µm deep/)).toBeVisible();
    await bowls.getByLabel('Across').fill('9000');
    await page.keyboard.press('Enter');
    await expect(layers.getByRole('alert')).toBeVisible();
    await page.keyboard.press('Escape');
    await layers.getByRole('button', { name: 'Move Bowls down' }).click();
    await expect.poll(async () => (await names()).slice(0, 2)).toEqual(['Worn edges is on', 'Bowls is on']);
    await saved(page);
  });

  await test.step('the same wear on another material; one switched off; an undo brings it back', async () => {
    await layers.getByRole('button', { name: /^Worn edges/ }).click();
    await layers.getByLabel('Lay it on another material too').selectOption({ label: 'Blackened iron' });
    await layers.getByRole('checkbox', { name: 'Dirt is on' }).click();
    await expect(layers.getByRole('checkbox', { name: 'Dirt is on' })).not.toBeChecked();
    await page.keyboard.press('Control+z');
    await expect(layers.getByRole('checkbox', { name: 'Dirt is on' })).toBeChecked();
    await bench.getByRole('button', { name: 'Blackened iron', exact: true }).click();
    await expect.poll(async () => (await names())[0]).toBe('Worn edges is on');
  });

  await test.step('a material is copied, named and taken away again', async () => {
    await controls.getByRole('button', { name: 'Copy Blackened iron' }).click();
    await expect(bench.getByRole('button', { name: 'Blackened iron, copy' })).toHaveAttribute('aria-pressed', 'true');
    await controls.getByLabel('Name', { exact: true }).first().fill('Old iron');
    await page.keyboard.press('Enter');
    await expect(bench.getByRole('button', { name: 'Old iron' })).toBeVisible();
    // Saved as a file it is opened again as another one; what is no material is said.
    const [kept] = [...(await downloads(page, () => controls.getByRole('button', { name: 'Save it as a file' }).click(), 1))];
    expect(kept[0]).toBe('old-iron_material.json');
    const input = page.getByLabel('Material file');
    await input.setInputFiles([{ name: 'words.json', mimeType: 'application/json', buffer: Buffer.from('{"kind":"recipe"}') }]);
    await expect(page.getByText('“words.json” is no file of a material, or not a whole one.')).toBeVisible();
    await page.getByRole('alert').getByRole('button', { name: 'Close' }).first().click();
    await input.setInputFiles([{ name: kept[0], mimeType: 'application/json', buffer: kept[1] }]);
    await expect(bench.getByRole('button', { name: 'Old iron 2' })).toHaveAttribute('aria-pressed', 'true');
    await expect.poll(async () => (await names())[0]).toBe('Worn edges is on');
    await controls.getByRole('button', { name: 'Remove it' }).click();
    await expect(bench.getByRole('button', { name: 'Old iron 2' })).toHaveCount(0);
    await bench.getByRole('button', { name: 'Old iron' }).click();
    await controls.getByRole('button', { name: 'Remove it' }).click();
    await expect(bench.getByRole('button', { name: 'Old iron' })).toHaveCount(0);
    await saved(page);
  });

  await test.step('composed: what each layer touches, and nothing that real surfaces don’t do', async () => {
    await controls.getByRole('button', { name: 'Compose the set' }).click();
    await expect(page.getByText(/px, composed in/)).toBeVisible({ timeout: 240_000 });
    await expect(aside.getByText('What layers touch')).toBeVisible();
    await expect(aside.getByText('Every judged texel is within what real surfaces reflect.')).toBeVisible();
    if (process.env.SHOTS) await page.screenshot({ path: `${process.env.SHOTS}/surface.png` });
  });

  await test.step('handed over: the normal map has the bowls in it', async () => {
    await station(page, 'Hand-off');
    const files = await downloads(page, () => page.getByRole('button', { name: 'Pack and download' }).click(), 1);
    const archive = unzipSync(new Uint8Array([...files.values()][0]));
    const name = (ending: string) => Object.keys(archive).find((n) => n.endsWith(ending)) as string;
    const document = await validGlb(Buffer.from(archive[name('.glb')]));
    expect(
      document
        .getRoot()
        .listMaterials()
        .some((m) => m.getNormalTexture()),
    ).toBe(true);
    const normal = decodePng(archive[name('_normal.png')]);
    let leaning = 0;
    for (let i = 0; i < normal.width * normal.height; i++) {
      const [x, y] = [normal.data[normal.channels * i] / 127.5 - 1, normal.data[normal.channels * i + 1] / 127.5 - 1];
      if (Math.hypot(x, y) > 0.03) leaning++;
    }
    // Bowls lie side by side all over the wood, which is most of the chest.
    expect(leaning / (normal.width * normal.height)).toBeGreaterThan(0.3);
    const roughness = decodePng(archive[name('_roughness.png')]);
    expect(new Set(roughness.data).size).toBeGreaterThan(20);
  });
});
