import AxeBuilder from '@axe-core/playwright';
import { expect, type Page } from '@playwright/test';
import { query } from './helpers';

/**
 * Faults against WCAG 2.2 A and AA that a machine can find, as "rule: element".
 * With `colours` only those that a theme decides: all else is the same in both.
 * No page has frames, which the legacy mode leaves out.
 */
async function faults(page: Page, colours: boolean): Promise<string[]> {
  const builder = new AxeBuilder({ page }).setLegacyMode(true);
  const { violations } = await (
    colours
      ? builder.withRules(['color-contrast', 'link-in-text-block'])
      : builder.withTags(['wcag2a', 'wcag2aa', 'wcag21a', 'wcag21aa', 'wcag22aa'])
  ).analyze();
  return violations.flatMap(({ id, nodes }) =>
    nodes.map(
      ({ html, failureSummary }) =>
        `${id}: ${html.slice(0, 160)} ${failureSummary?.split('\n').at(1)?.trim() ?? ''}`,
    ),
  );
}

/** What the page shows now has no fault, in the theme it is in. */
export async function expectNoFaults(page: Page, what: string): Promise<void> {
  expect(await faults(page, false), what).toEqual([]);
}

/** Pages have no fault, in either theme: each is read whole in one and for its colours in the other, in turn. */
export async function expectAccessible(page: Page, paths: readonly string[]): Promise<void> {
  for (const path of paths) {
    await page.goto(path);
    await expect(page.getByRole('heading', { level: 1 }).first()).toBeVisible();
    await expect(page.locator('[aria-busy=true]')).toHaveCount(0); // a chart whose data is on its way
    await expectNoFaults(page, path);
    await changeTheme(page);
    expect(await faults(page, true), `${path}, the other theme`).toEqual([]);
  }
}

/** Changes from the dark to the light theme or back, by its button. */
export async function changeTheme(page: Page): Promise<void> {
  const root = page.locator('html');
  const other = (await root.getAttribute('data-theme')) === 'dark' ? 'light' : 'dark';
  await page.getByRole('button', { name: 'Light or dark' }).click();
  await expect(root).toHaveAttribute('data-theme', other);
}

/** The id of a row that an earlier test of the file has made, as "table where ...". @throws when there is none */
export async function idOf(rows: string): Promise<string> {
  const [row] = await query<{ id: string }>(`select id from ${rows} limit 1`);
  if (!row) throw new Error(`No earlier test of this file left a row in ${rows}. Run the whole file.`);
  return row.id;
}
