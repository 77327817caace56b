import { execFile } from 'node:child_process';
import { mkdtemp, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { expect, test } from '@playwright/test';
import { downloads, saved, settled, station } from './helpers';

/**
 * A model with what goes wrong on the way from another program: a drum of many sides with an inner one nobody sees, a crate with a
 * face turned over and points that only look joined, an open cup, a lid in the plane of the crate's top. Millimetres.
 */
function faultyModel(): string {
  const lines = ['mtllib deck-goods.mtl'];
  let base = 1;
  const object = (name: string, points: number[][], faces: number[][]) => {
    lines.push(`o ${name}`, 'usemtl Grey_paint', ...points.map((p) => `v ${p.map((x) => x.toFixed(4)).join(' ')}`));
    for (const f of faces) lines.push(`f ${f.map((i) => i + base).join(' ')}`);
    base += points.length;
  };
  const cube = (s: number, x: number, y: number, height = s) => [
    [x - s, y, -s],
    [x + s, y, -s],
    [x + s, y, s],
    [x - s, y, s],
    [x - s, y + height, -s],
    [x + s, y + height, -s],
    [x + s, y + height, s],
    [x - s, y + height, s],
  ];
  const SIDES = [
    [0, 1, 2, 3],
    [4, 7, 6, 5],
    [0, 4, 5, 1],
    [1, 5, 6, 2],
    [2, 6, 7, 3],
    [3, 7, 4, 0],
  ];
  // A ball of 96 × 48, with a smaller one inside.
  const ball = (r: number, n: number, m: number): [number[][], number[][]] => {
    const points = [[0, 60 - r, 0]];
    for (let j = 1; j < m; j++)
      for (let i = 0; i < n; i++) {
        const [a, b] = [(2 * Math.PI * i) / n, -Math.PI / 2 + (Math.PI * j) / m];
        points.push([r * Math.cos(b) * Math.cos(a), 60 + r * Math.sin(b), -r * Math.cos(b) * Math.sin(a)]);
      }
    points.push([0, 60 + r, 0]);
    const at = (i: number, j: number) => 1 + (j - 1) * n + (i % n);
    const faces: number[][] = [];
    for (let i = 0; i < n; i++) {
      faces.push([0, at(i + 1, 1), at(i, 1)], [points.length - 1, at(i, m - 1), at(i + 1, m - 1)]);
      for (let j = 1; j < m - 1; j++) faces.push([at(i, j), at(i + 1, j), at(i + 1, j + 1), at(i, j + 1)]);
    }
    return [points, faces];
  };
  object('Drum', ...ball(40, 96, 48));
  object('Kernel', ...ball(12, 16, 8));
  // One face turned over, and one on points of its own.
  const crate = cube(20, 120, 0, 40);
  const own = [4, 5, 6, 7].map((i) => [crate[i][0], crate[i][1] + 0.001, crate[i][2]]);
  object('Crate', [...crate, ...own], [[3, 2, 1, 0], [8, 11, 10, 9], ...SIDES.slice(2)]);
  object(
    'Cup',
    cube(12, 190, 0, 30),
    SIDES.filter((_, i) => i !== 1),
  );
  object('Lid', cube(8, 120, 40.001, 4), SIDES);
  return `${lines.join('\n')}\n`;
}

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
    await page
      .getByLabel('Model file')
      .setInputFiles([file('deck-goods.obj', faultyModel()), file('deck-goods.mtl', 'newmtl Grey_paint\nKd 0.4 0.42 0.44\n')]);
    const dialog = page.getByRole('dialog');
    await dialog.getByLabel('One unit is').selectOption('mm');
    await dialog.getByRole('button', { name: 'Import' }).click();
    await expect(page.getByRole('heading', { name: 'Deck goods' })).toBeVisible();
    await expect(row(/Crate: .* run opposite ways/)).toBeVisible();
    await expect(row(/Crate: .* not joined to it/)).toBeVisible();
    await expect(row(/Cup: 1 open rim/)).toBeVisible();
    await expect(row(/Crate and Lid lie in one plane|Lid and Crate lie in one plane/)).toBeVisible();
    await expect(row(/Kernel: .* never seen from outside, 100 %/)).toBeVisible({ timeout: 60_000 });
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
    await mend(/Crate: .* not joined to it/, 'Weld');
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
    const rim = row(/Cup: 1 open rim/);
    await rim.locator('xpath=..').getByRole('button', { name: 'It is meant …' }).click();
    await findings.getByLabel('Why it is meant').fill('it is drunk from');
    await findings.getByRole('button', { name: 'Waive' }).click();
    await expect(findings.getByText('Meant: it is drunk from')).toBeVisible();
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
    await expect(findings.getByText('Meant: it is drunk from')).toBeVisible();
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
    expect(ours.findings.some((f: { waived?: string }) => f.waived === 'it is drunk from')).toBe(true);
    const text = (await wellmorph('check', path)).out;
    expect(text).toContain('(meant: it is drunk from)');
  });
});
