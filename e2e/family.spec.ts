import { expect, test } from './fixtures';
import { openSheet, saved } from './helpers';

test('a family: triangles go from one piece to the other, and nothing else of its brief is put back', async ({ page, context }) => {
  await openSheet(page, 'Storm lantern', 'Brief');
  await page.getByRole('button', { name: 'Begin a family' }).click();
  await saved(page);

  const other = await context.newPage();
  await openSheet(other, 'Biscuit tin', 'Brief');
  await other.getByLabel('Belongs to').selectOption({ label: 'Family 1' });
  await saved(other);
  const limit = (p: typeof page) => p.getByRole('textbox', { name: 'Triangles', exact: true });
  const had = Number(await limit(other).inputValue());

  await page.reload();
  const family = page.locator('[data-family="Family 1"]');
  await expect(family).toContainText('2 pieces');
  await expect(family.getByRole('row', { name: /^Biscuit tin/ })).toContainText(String(had).slice(-3));

  // Meanwhile its texture becomes a smaller one, of which the lantern's sheet was told nothing.
  await other.getByLabel('Texture size').selectOption('512');
  await saved(other);
  const own = Number(await limit(page).inputValue());
  const takes = family.getByRole('textbox', { name: /^This piece may take/ });
  await takes.fill(String(own - 100));
  await takes.press('Enter');
  await expect(limit(page)).toHaveValue(String(own - 100));
  await expect
    .poll(async () => {
      await other.reload();
      return [Number(await limit(other).inputValue()), await other.getByLabel('Texture size').inputValue()];
    })
    .toEqual([had + 100, '512']);
});
