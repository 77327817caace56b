import { execFile } from 'node:child_process';
import { mkdtemp, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { SALVAGED_MTL, salvagedGoods } from '../demo/src/salvage';
import { expect, test } from './fixtures';
import { bringIn, downloads, openSheet, saved, settled, station } from './helpers';

const file = (name: string, content: string) => ({ name, mimeType: 'application/octet-stream', buffer: Buffer.from(content) });
const BIN = resolve(import.meta.dirname, '../cli/bin/wellmorph.mjs');
const wellmorph = (...args: string[]) =>
  new Promise<{ code: number; out: string }>((ok) => {
    execFile(process.execPath, [BIN, ...args], { maxBuffer: 1e8 }, (error, out) => ok({ code: error ? Number(error.code ?? 1) : 0, out }));
  });

test('a faulty model is read, mended, waived, brought under its limit and reported', async ({ page }) => {
  const findings = page.getByRole('region', { name: 'Findings', exact: true });
  const row = (words: RegExp) => findings.getByRole('button', { name: words });
  const mend = async (words: RegExp, fix: string) => {
    const found = row(words).first();
    await expect(found).toBeVisible();
    await found.click();
    await found.locator('xpath=..').getByRole('button', { name: fix, exact: true }).click();
    await settled(page, 'Mending');
  };

  await test.step('its findings are there, those that take a longer look too', async () => {
    await page.goto('/');
    await page.getByLabel('Model file').setInputFiles([file('deck-goods.obj', salvagedGoods()), file('salvaged-goods.mtl', SALVAGED_MTL)]);
    const dialog = page.getByRole('dialog');
    await dialog.getByLabel('One unit is').selectOption('mm');
    await bringIn(page);
    await expect(page.getByRole('heading', { name: 'Deck goods' })).toBeVisible();
    await expect(row(/Crate: .* run opposite ways/)).toBeVisible();
    await expect(row(/Crate: .* not joined to it/)).toBeVisible();
    await expect(row(/2 parts: open rims, .* most on Crate/).or(row(/2 parts: open rims, .* on each/))).toBeVisible();
    await expect(row(/lie in one plane/)).toBeVisible();
    await expect(row(/3 parts: faces never seen from outside, .* most on Ballast: 224/)).toBeVisible({ timeout: 60_000 });
  });

  await test.step('views measure the surface', async () => {
    await page.getByRole('button', { name: 'view on the piece' }).click();
    await page.getByRole('menuitem', { name: 'Facing' }).click();
    await expect(page.getByRole('note', { name: 'what the view shows' })).toContainText('backs are red');
    await page.getByRole('button', { name: 'view on the piece' }).click();
    await page.getByRole('menuitem', { name: 'Thickness' }).click();
    await expect(page.getByRole('note', { name: 'what the view shows' })).toContainText('thin is red', { timeout: 60_000 });
    await page.getByRole('button', { name: 'view on the piece' }).click();
    await page.getByRole('menuitem', { name: 'Materials' }).click();
  });

  await test.step('fixes', async () => {
    await mend(/Crate: .* run opposite ways/, 'Turn outward');
    await expect(row(/run opposite ways/)).toHaveCount(0);
    await mend(/Crate: .* not joined to it/, 'Close up');
    await expect(row(/Crate: .* not joined to it/)).toHaveCount(0);
    await expect(row(/Crate: .* open rim/)).toHaveCount(0);
    await mend(/lie in one plane/, 'Leave a gap');
    await expect(row(/lie in one plane/)).toHaveCount(0);
    // Taken back and brought again: a fix is a change like any other.
    await page.getByRole('button', { name: 'Undo' }).click();
    await expect(row(/lie in one plane/)).toBeVisible();
    await page.getByRole('button', { name: 'Redo' }).click();
    await expect(row(/lie in one plane/)).toHaveCount(0);
  });

  await test.step('a waiver, with its reason', async () => {
    const rim = row(/Bucket: 1 open rim/);
    await rim.locator('xpath=..').getByRole('button', { name: 'It is meant …' }).click();
    await findings.getByLabel('Why it is meant').fill('it is a bucket');
    await findings.getByRole('button', { name: 'Waive' }).click();
    await expect(findings.getByText('Meant: it is a bucket')).toBeVisible();
    await saved(page);
  });

  await test.step('under its limit', async () => {
    await station(page, 'Brief');
    const limit = page.getByLabel('Triangles', { exact: true });
    await limit.fill('3000');
    await limit.press('Enter');
    await saved(page);
    await station(page, 'Form');
    await expect(page.getByText(/triangles over the limit\./)).toBeVisible();
    await page.getByRole('button', { name: /^Simplify to 3.000/ }).click();
    await settled(page, 'Simplifying');
    await expect(page.getByText('Within the limit.')).toBeVisible({ timeout: 60_000 });
    await expect(row(/Over the triangle limit/)).toHaveCount(0);
    // The waived rim is where it was.
    await expect(findings.getByText('Meant: it is a bucket')).toBeVisible();
    await saved(page);
  });

  await test.step('the report is the one of the command line', async () => {
    await expect(row(/never seen from outside/).first()).toBeVisible({ timeout: 60_000 });
    const report = [...(await downloads(page, () => findings.getByRole('button', { name: 'as JSON' }).click(), 1))];
    expect(report[0][0]).toBe('deck-goods_report.json');
    await settled(page, 'Writing the report');
    const packed = [...(await downloads(page, () => findings.getByRole('button', { name: 'Save asset file' }).click(), 1))];
    const dir = await mkdtemp(join(tmpdir(), 'wellmorph-e2e-'));
    const path = join(dir, packed[0][0]);
    await writeFile(path, packed[0][1]);
    const { out } = await wellmorph('check', path, '--json');
    const ours = JSON.parse(report[0][1].toString());
    expect(JSON.parse(out)).toEqual(ours);
    expect(ours.triangles).toBeLessThanOrEqual(3000);
    expect(ours.findings.filter((f: { severity: string; waived?: string }) => f.severity !== 'information' && !f.waived)).toEqual([]);
    expect(ours.findings.some((f: { waived?: string }) => f.waived === 'it is a bucket')).toBe(true);
    const text = (await wellmorph('check', path)).out;
    expect(text).toContain('(meant: it is a bucket)');
  });
});

test('the budget is tried, shared out and brought down in levels', async ({ page }) => {
  await openSheet(page, 'Octagonal ventilator', 'Form');
  const facts = page.getByRole('region', { name: 'findings and advice' });

  await test.step('a limit that is dragged says what it would come to, and is formed when it is let go', async () => {
    const slider = facts.getByRole('slider', { name: 'What if the limit were' });
    await slider.focus();
    await page.keyboard.press('Home');
    // Let go: solved, formed and offered.
    await expect(facts.getByText(/triangles (are enough|can’t be kept)\./)).toBeVisible({ timeout: 30_000 });
    await facts.getByRole('button', { name: /^(Keep|Close)/ }).click();
    await expect(facts.getByText(/Full dot: now/)).toBeVisible();
  });

  await test.step('a part’s triangles are pinned', async () => {
    await facts.getByRole('button', { name: /^By part and step/ }).click();
    const table = facts.getByRole('table', { name: 'triangles by part' });
    await table.getByRole('rowheader', { name: /^Finial/ }).click();
    await facts.getByRole('button', { name: /^Pin .* triangles to Finial/ }).click();
    const share = facts.getByLabel('Finial may take');
    await share.fill('400');
    await share.press('Enter');
    await expect(table.getByRole('rowheader', { name: 'Finial · pinned' })).toBeVisible();
    await facts.getByRole('button', { name: /^Solve/ }).click();
    await facts.getByRole('button', { name: 'Use these counts' }).click();
    const drawn = table
      .getByRole('row', { name: /^Finial/ })
      .getByRole('cell')
      .first();
    await expect.poll(async () => Number(((await drawn.textContent()) ?? '').replace(/\D/g, ''))).toBeLessThanOrEqual(400);
    // More than there is in all is refused in a sentence.
    await share.fill('5000');
    await share.press('Enter');
    await expect(facts.getByRole('alert')).toContainText('come to 5');
    await facts.getByRole('button', { name: 'Let go' }).click();
    await expect(facts.getByRole('alert')).toHaveCount(0);
    await saved(page);
  });

  await test.step('further levels keep within what may show', async () => {
    await facts.getByRole('button', { name: /^Further levels/ }).click();
    await facts.getByRole('button', { name: 'Make levels' }).click();
    await settled(page, 'Making levels');
    const rows = facts.getByRole('table', { name: 'further levels' }).getByRole('row');
    await expect(rows).toHaveCount(4);
    for (const share of ['50 %', '25 %', '12.5 %']) await expect(rows.filter({ hasText: share })).toHaveCount(1);
    await facts.getByRole('button', { name: /^Texture memory/ }).click();
    await expect(facts.getByRole('table', { name: 'texture memory by format' })).toContainText('BC7');
  });
});

/** Open boxes in a row. */
function buckets(n: number): string {
  const corners = [0, 20].flatMap((y) => [
    [0, y, 0],
    [20, y, 0],
    [20, y, 20],
    [0, y, 20],
  ]);
  const sides = ['1 2 3 4', '1 5 6 2', '2 6 7 3', '3 7 8 4', '4 8 5 1'];
  return Array.from({ length: n }, (_, i) =>
    [
      `o Bucket ${i + 1}`,
      ...corners.map(([x, y, z]) => `v ${x + 40 * i} ${y} ${z}`),
      ...sides.map(
        (f) =>
          `f ${f
            .split(' ')
            .map((v) => Number(v) + 8 * i)
            .join(' ')}`,
      ),
      '',
    ].join('\n'),
  ).join('');
}

test('one kind of finding over many parts is one entry: mended on all at once, taken back at once, meant for one reason', async ({
  page,
}) => {
  await page.goto('/');
  await page.getByLabel('Model file').setInputFiles([file('buckets.obj', buckets(4))]);
  await page.getByRole('dialog').getByLabel('One unit is').selectOption('mm');
  await bringIn(page);
  const findings = page.getByRole('region', { name: 'Findings', exact: true });
  const rims = findings.getByRole('button', { name: '4 parts: open rims, 4 rims in all, 1 on each.' });
  await expect(rims).toBeVisible();
  await expect(findings).toContainText('2 to mend');
  const entry = rims.locator('xpath=..');
  await entry.getByRole('button', { name: 'Show the 4 parts' }).click();
  for (const n of [1, 2, 3, 4]) await expect(entry.getByRole('button', { name: `Bucket ${n}: 1 open rim of 4 edges.` })).toBeVisible();

  await entry.getByRole('button', { name: 'Fill the rims on all 4' }).click();
  await settled(page, 'Mending');
  await expect(findings.getByText(/open rim/)).toHaveCount(0);
  await saved(page);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(rims).toBeVisible();
  await saved(page);

  await rims.locator('xpath=..').getByRole('button', { name: 'They are meant …' }).first().click();
  await findings.getByLabel('Why it is meant').fill('they hang open');
  await page.keyboard.press('Enter');
  await expect(findings.getByText('Meant: they hang open')).toHaveCount(1);
  await expect(findings).toContainText('1 waived');
  await saved(page);
  await page.reload();
  await expect(findings.getByText('Meant: they hang open')).toHaveCount(1);
  await findings.getByRole('button', { name: 'Take the waivers back' }).click();
  await expect(rims).toBeVisible();
});
