import { unzipSync } from 'fflate';
import sharp from 'sharp';
import { bottle, bottleLabel } from '../core/test/bottle';
import { expect, test } from './fixtures';
import { bringIn, downloads, saved, settled, station, validGlb } from './helpers';

/** The oil bottle with a label on both sides, and a small picture. */
function labelled(): Buffer {
  const piece = bottle(32);
  const shot = { ...piece.shot, widthPx: 240, heightPx: 300 };
  const render = { ...piece.render, samples: 4 };
  const behind = { across: { from: 'middle' as const, mm: 110 } };
  const prints = [bottleLabel('back', 'KEEP DRY', -1, behind), bottleLabel('front', 'LAMP OIL')];
  return Buffer.from(JSON.stringify({ ...piece, shot, render, prints }));
}

test('three variants of a labelled bottle: worked on one by one, composed and rendered in one run, handed over in folders', async ({
  page,
}) => {
  test.setTimeout(500_000);
  const controls = page.getByRole('region', { name: 'controls' });
  const variants = controls.getByRole('group', { name: 'variants', exact: true });
  const prints = controls.getByRole('group', { name: 'prints' });
  const header = page.locator('header');
  const timed = async (work: () => Promise<void>) => {
    const began = Date.now();
    await work();
    return (Date.now() - began) / 1000;
  };
  const words = async (text: string) => {
    await prints.getByLabel('Text', { exact: true }).fill(text);
    await page.keyboard.press('Tab');
    await saved(page);
  };
  const another = async (name: string) => {
    await variants.getByRole('button', { name: 'New variant' }).click();
    await variants.getByLabel('Its name').fill(name);
    await page.keyboard.press('Enter');
    await expect(header.getByText(`as ${name}`, { exact: true })).toBeVisible();
  };
  await page.goto('/');
  await page.getByLabel('Model file').setInputFiles([{ name: 'bottle.json', mimeType: 'application/json', buffer: labelled() }]);
  await bringIn(page);
  await station(page, 'Surface');
  const one = await timed(async () => {
    await controls.getByRole('button', { name: 'Compose the set' }).click();
    await expect(page.getByText(/px, composed in/)).toBeVisible({ timeout: 240_000 });
    await settled(page, 'Composing');
  });

  await test.step('what is changed in one is its own; the piece stays as it is', async () => {
    await prints.getByRole('button', { name: /^Front/ }).click();
    await another('Spirit');
    await words('SPIRIT');
    await expect(variants.getByText(/^Front: .*artwork/)).toBeVisible();
    await another('Colza');
    await words('COLZA');
    await another('Matt');
    await prints.getByLabel('Front is printed').uncheck();
    await controls
      .locator('input[type=text]')
      .and(controls.getByLabel('Roughness', { exact: true }))
      .fill('0.8');
    await page.keyboard.press('Tab');
    await expect(variants.getByText(/2 things otherwise/)).toBeVisible();
    await page.keyboard.press('Control+z');
    await expect(variants.getByText('Front: left off')).toBeVisible();
    await expect(variants.getByText(/2 things otherwise/)).toHaveCount(0);
    await variants.getByRole('button', { name: /^Oil bottle/ }).click();
    await expect(header.getByText(/^as /)).toHaveCount(0);
    await expect(prints.getByLabel('Text', { exact: true })).toHaveValue('LAMP OIL');
    await expect(prints.getByLabel('Front is printed')).toBeChecked();
    await saved(page);
  });

  await test.step('their sets are there in less than one and a half times what one took', async () => {
    const all = await timed(async () => {
      await variants.getByRole('button', { name: 'Compose all 4 sets' }).click();
      await expect(page.getByText(/^4 sets are there/)).toBeVisible({ timeout: 240_000 });
    });
    console.log(`one set ${one.toFixed(1)} s, three variants ${all.toFixed(1)} s`);
    expect(all / one).toBeLessThan(1.5);
    const colours = page.locator('[data-plate=layout] image, [data-plate=layout] img').first();
    const own = await colours.getAttribute('href').catch(() => null);
    await variants.getByRole('button', { name: /^Spirit/ }).click();
    await expect(page.getByText('the set itself, 1024 px')).toBeVisible();
    // 46.2 mm of Ø 70: 75.6°.
    const figures = page.getByRole('region', { name: 'findings and advice' });
    await expect(figures.locator('[data-print="Front"] [data-figure]').filter({ hasText: 'Round' })).toContainText(/75\.\d/);
    if (own) await expect(colours).not.toHaveAttribute('href', own);
    await page.screenshot({ path: process.env.SHOTS ? `${process.env.SHOTS}/variants.png` : undefined });
  });

  await test.step('their pictures side by side, and on one sheet', async () => {
    await station(page, 'Render');
    const group = controls.getByRole('group', { name: 'pictures of the variants' });
    await group.getByRole('button', { name: 'Render all 4' }).click();
    const sides = page.getByRole('group', { name: 'variants side by side' });
    await expect(sides.getByRole('img')).toHaveCount(4, { timeout: 240_000 });
    await settled(page, 'Making the variants');
    const sources = await sides.getByRole('img').evaluateAll((list) => list.map((x) => x.getAttribute('src')));
    expect(new Set(sources).size).toBe(4);
    const files = await downloads(page, () => group.getByRole('button', { name: 'Contact sheet' }).click(), 1);
    const [[name, sheet]] = [...files];
    expect(name).toBe('oil-bottle_contact-sheet.png');
    const { width = 0, height = 0 } = await sharp(sheet).metadata();
    expect(width).toBeGreaterThan(480);
    expect(height).toBeGreaterThan(300);
    await page.screenshot({ path: process.env.SHOTS ? `${process.env.SHOTS}/variants-pictures.png` : undefined });
  });

  await test.step('all in one archive, each whole in a folder of its own, the older school’s set with them', async () => {
    await station(page, 'Hand-off');
    await controls.getByLabel('OBJ and MTL').uncheck();
    await controls.getByLabel(/^Every variant too/).selectOption({ label: 'yes' });
    await controls.getByLabel(/^Diffuse, specular, gloss too/).selectOption({ label: 'yes' });
    await saved(page);
    const zips = await downloads(page, () => page.getByRole('button', { name: 'Pack and download' }).click(), 1);
    const files = unzipSync(new Uint8Array([...zips.values()][0]));
    expect([...zips.keys()]).toEqual(['oil-bottle.zip']);
    const folders = ['oil-bottle', 'oil-bottle-spirit', 'oil-bottle-colza', 'oil-bottle-matt'];
    for (const f of folders) {
      await validGlb(Buffer.from(files[`${f}/${f}.glb`]));
      for (const map of ['basecolor', 'diffuse', 'specular', 'gloss', 'specular_lost'])
        expect(Object.keys(files)).toContain(`${f}/textures/${f}_${map}.png`);
      expect(Object.keys(files)).toContain(`${f}/${f}_picture.png`);
    }
    expect(Object.keys(files)).toContain('contact-sheet.png');
    const of = (map: string) => folders.map((f) => Buffer.from(files[`${f}/textures/${f}_${map}.png`] ?? []).toString('base64'));
    expect(new Set(of('basecolor')).size).toBe(4);
    expect(new Set(of('normal')).size).toBe(1);
    expect(Buffer.from(files['oil-bottle-colza/oil-bottle-colza_spec-sheet.html']).toString()).toContain('Oil bottle, Colza');
  });

  await test.step('they are there after a reload, and one is let go and brought back', async () => {
    await station(page, 'Surface');
    await variants.getByRole('button', { name: /^Spirit/ }).click();
    await expect(header.getByText('as Spirit')).toBeVisible();
    await page.reload();
    await station(page, 'Surface');
    // What was looked at is: a change made now is the variant’s, as before.
    await expect(header.getByText('as Spirit')).toBeVisible();
    await variants.getByRole('button', { name: /^Colza/ }).click();
    await expect(page.getByText('the set itself, 1024 px')).toBeVisible({ timeout: 60_000 });
    await variants.getByRole('button', { name: 'Remove it' }).click();
    await expect(variants.getByRole('button', { name: /^Colza/ })).toHaveCount(0);
    await expect(header.getByText(/^as /)).toHaveCount(0);
    await page.keyboard.press('Control+z');
    await expect(variants.getByRole('button', { name: /^Colza/ })).toBeVisible();
  });

  await test.step('the card shows the piece as it was composed last, not a variant', async () => {
    const card = async () => {
      const asset = page.url().split('/').at(-2);
      return ((await (await page.request.get(`/api/assets/${asset}`)).json()) as { thumbnail: string }).thumbnail;
    };
    const before = await card();
    await variants.getByRole('button', { name: /^Spirit/ }).click();
    await prints.getByRole('button', { name: /^Front/ }).click();
    await words('OTHER SPIRIT');
    await controls.getByRole('button', { name: /^Compose again/ }).click();
    await expect(page.getByText('the set itself, 1024 px')).toBeVisible({ timeout: 120_000 });
    await settled(page, 'Composing');
    expect(await card()).toBe(before);
    await variants.getByRole('button', { name: /^Oil bottle/ }).click();
    await words('WHALE OIL');
    await controls.getByRole('button', { name: /^Compose again/ }).click();
    await expect.poll(card, { timeout: 120_000 }).not.toBe(before);
  });
});
