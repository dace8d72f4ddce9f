import type { Locator, Page } from '@playwright/test';
import type { Listing } from '@bright-cellar/contract';
import { dataClassIds } from '@bright-cellar/core';
import mysql from 'mysql2/promise';
import { Api } from './api.js';
import { expect, sharedProduct, test } from './counter.js';
import { fillCatalogue } from './full-catalogue.js';
import { openOwned, OWNED, MARL } from './product.js';

/** Nothing is backed up in it. */
const shop = sharedProduct({ only: [MARL, OWNED] });

test('what is taken is chosen with the keyboard alone, and what that leaves out is seen at once', async ({
  technician,
}) => {
  const product = shop();
  const { page, main } = technician;
  await product.press(MARL, { do: 'unlock', passcode: '7351' });
  const api = await Api.signedIn(product);
  const number = await api.openTicket(MARL, {
    agreed: { backup: true, lookIn: true, escrow: false, keepDays: 0 },
  });
  await technician.signIn(product.address);

  // The hidden setting: told step by step, until it is on.
  await page.goto(`${product.address}/tickets/${number}`);
  await expect(technician.now(/Switch on the workshop port/)).toBeVisible();
  await expect(main.getByRole('list', { name: 'Workshop port on' })).toContainText('Ledger');
  await technician.looksSound('port off');
  await product.press(MARL, { do: 'workshop-port', state: 'on' });
  await product.press(MARL, { do: 'approve', passcode: '7351' });
  await main.getByRole('link', { name: 'See and choose …' }).click();

  const tree = main.getByRole('tree', { name: 'What is taken' });
  await expect(tree.getByRole('treeitem', { name: /^Photographs/ })).toHaveAttribute(
    'aria-checked',
    'true',
  );
  const coverage = main.getByRole('list', { name: 'Coverage' });
  await expect(coverage).toContainText('Tansy keep');
  await expect(coverage).toContainText('Payment cards not inside');
  await technician.looksSound('plan');

  await tree.focus();
  await page.keyboard.type('ph');
  await page.keyboard.press('Space');
  await expect(tree.getByRole('treeitem', { name: /^Photographs/ })).toHaveAttribute(
    'aria-checked',
    'false',
  );
  await expect(coverage).toContainText('Photographs not inside');
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Space');
  await expect(tree.getByRole('treeitem', { name: /^Photographs/ })).toHaveAttribute(
    'aria-checked',
    'mixed',
  );
  await expect(coverage).toContainText('Photographs partly');
  await expect(main.getByRole('radio', { name: /^Chosen/ })).toBeChecked();
  await page.keyboard.press('Control+a');
  await page.keyboard.press('Space');
  await expect(tree.getByRole('treeitem', { name: /^Photographs/ })).toHaveAttribute(
    'aria-checked',
    'true',
  );

  await main.getByLabel('Encrypted').click();
  await expect(main.getByText('Not encrypted:')).toBeVisible();
  await main.getByLabel('Encrypted').click();
  await main.getByRole('radio', { name: /^Quick set/ }).click();
  await expect(coverage).toContainText('Music not inside');
  await main.getByRole('button', { name: 'Save as …' }).click();
  await page.getByLabel('Name of the plan').fill('Before a battery');
  await page.getByRole('button', { name: 'Save the plan' }).click();
  await main.getByRole('radio', { name: /^Everything/ }).click();
  await main.getByLabel('Take a plan from before').click();
  await page.getByRole('option', { name: 'Before a battery' }).click();
  await expect(main.getByRole('radio', { name: /^Quick set/ })).toBeChecked();
  await main.getByRole('button', { name: 'Use this for the backup' }).click();
  await expect(main.getByRole('button', { name: 'Take the quick set' })).toBeVisible();
  technician.expectQuiet();
});

/** A listing of very many photographs, as a browser gets it. */
function veryMany(count: number): Listing {
  const photographs = dataClassIds.indexOf('photographs');
  const range = Array.from({ length: count }, (_, i) => i);
  return {
    revision: 'many',
    groups: ['2024', '2025', '2026'].map((id) => ({
      class: 'photographs',
      id,
      name: id,
      kind: 'album',
      items: Math.floor(count / 3),
      bytes: count * 1000,
      sealed: false,
      offered: null,
    })),
    ids: range.map((i) => `id-${i}`),
    classes: range.map(() => photographs),
    inGroups: range.map((i) => i % 3),
    groupIds: ['2024', '2025', '2026'],
    names: range.map((i) => `picture-${i}.jpg`),
    bytes: range.map((i) => 1000 + i),
    modified: range.map((i) => 1.7e12 + i),
  };
}

/** `npm run bench:plan`: nothing else is running then. */
const MEASURES = process.env.MEASURES_PLAN === 'yes';

/** Notes when the first rows of a tree are drawn. */
const marksFirstRows = (page: Page) =>
  page.evaluate(() => {
    new MutationObserver(() => {
      if (
        document.querySelector('[role="treeitem"]') &&
        performance.getEntriesByName('rows').length === 0
      )
        requestAnimationFrame(() => performance.mark('rows'));
    }).observe(document.body, { childList: true, subtree: true });
  });

/** How long the first rows took to be there, and what a frame takes while they are scrolled. */
async function speedsOf(tree: Locator): Promise<string> {
  const openMs = await tree.page().evaluate(() => {
    const listed = performance
      .getEntriesByType('resource')
      .find((e) => e.name.endsWith('/listing'));
    return (
      (performance.getEntriesByName('rows')[0]?.startTime ?? 0) -
      (listed as PerformanceResourceTiming).responseEnd
    );
  });
  const scrolled = await tree.evaluate(scrollSpeeds);
  return `opened ${Math.round(openMs)} ms after the listing; a frame while scrolling, against the same scrolling over plain text: ${scrolled.join('; ')}`;
}

test('two hundred thousand items: opened, walked and chosen, and only what is in sight exists', async ({
  technician,
}) => {
  const product = shop();
  const { page, main } = technician;
  await openOwned(product);
  const api = await Api.signedIn(product);
  const number = await api.openTicket(OWNED);
  // The choice of single items is what a family must allow for.
  await page.route('**/api/bench', async (route) => {
    const response = await route.fetch();
    await route.fulfill({
      body: (await response.text()).replaceAll('"choose":"groups"', '"choose":"items"'),
    });
  });
  await page.route('**/api/events', (route) => route.abort());
  await page.route('**/listing', (route) => route.fulfill({ json: veryMany(200_000) }));
  await technician.signIn(product.address);
  if (MEASURES) await marksFirstRows(page);
  await page.evaluate((path) => {
    history.pushState(null, '', path);
    dispatchEvent(new PopStateEvent('popstate'));
  }, `/tickets/${number}/plan`);
  const tree = main.getByRole('tree', { name: 'What is taken' });
  await expect(tree.getByRole('treeitem', { name: /^Photographs/ })).toBeVisible();
  await tree.focus();
  await page.keyboard.press('Home');
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('End');
  await expect(tree.getByRole('treeitem', { name: /^2026/ })).toBeVisible();
  expect(await tree.getByRole('treeitem').count()).toBeLessThan(80);
  if (MEASURES) process.stdout.write(`${await speedsOf(tree)}\n`);

  // A range of many thousand rows is one press.
  await page.keyboard.press('Home');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('Shift+End');
  await page.keyboard.press('Space');
  await page.keyboard.press('Home');
  await expect(tree.getByRole('treeitem', { name: /^Photographs/ })).toHaveAttribute(
    'aria-checked',
    'false',
  );
  await technician.looksSound('very full plan');
});

/** Enough that no screen may hold all of them. */
const MANY = 4_000;

test('thousands of archives: only what is in sight exists, the rest comes as it is looked for', async ({
  technician,
}) => {
  const product = shop();
  const db = await mysql.createConnection(product.databaseSetupUrl);
  await fillCatalogue(db, { tickets: MANY, archives: MANY });
  await db.end();
  const { page, main } = technician;
  await technician.signIn(product.address);
  await page.getByRole('link', { name: 'Archives' }).click();
  await expect(main.getByText('4,000 archives, 1.20 TB on racks')).toBeVisible();
  const rows = main.locator('tbody tr:not([aria-hidden])');
  expect(await rows.count()).toBeLessThan(80);
  await expect(rows.first()).toContainText('Phone 1,');
  await technician.looksSound('very full archives');

  const ledger = main.getByRole('region', { name: 'Archives' });
  for (const last of [60, 120, 180]) {
    // Its end moves away while the next rows come.
    await expect(async () => {
      await ledger.evaluate((element) => element.scrollTo(0, element.scrollHeight));
      await expect(main.getByText(`Phone ${last},`)).toBeVisible({ timeout: 1_000 });
    }).toPass({ timeout: 30_000, intervals: [100] });
  }
  expect(await rows.count()).toBeLessThan(80);

  // Sorted and searched where all of them are: the other end is one press away.
  const byTicket = main.getByRole('columnheader', { name: 'Ticket' });
  await byTicket.getByRole('button').click();
  await expect(byTicket).toHaveAttribute('aria-sort', 'ascending');
  await byTicket.getByRole('button').click();
  await ledger.evaluate((element) => element.scrollTo(0, 0));
  await expect(rows.first()).toContainText('Phone 4000,');
  await main.getByLabel('Show only').fill('VA7K00003777');
  await expect(rows).toHaveCount(1);
  await expect(rows.first()).toContainText('Phone 3777,');
  await main.getByLabel('Show only').fill('nobody by that name');
  await expect(main.getByText('Nothing matches “nobody by that name”.')).toBeVisible();
});

/**
 * Scrolls the table, and beside it a page of nothing but as many lines of plain text, at two speeds: what a frame takes,
 * and how many took longer than two of a screen's.
 */
async function scrollSpeeds(table: HTMLElement): Promise<string[]> {
  const plain = document.createElement('div');
  plain.style.cssText =
    'position:fixed;top:0;left:0;width:700px;height:352px;overflow-y:auto;z-index:99';
  for (let i = 0; i < 2000; i++) {
    const line = document.createElement('p');
    line.style.height = '30px';
    line.textContent = `A line of plain text, the ${i}th of many, about as long as one of the table`;
    plain.append(line);
  }
  document.body.append(plain);
  const framesOf = async (element: HTMLElement, px: number) => {
    const times: number[] = [];
    element.scrollTop = 0;
    await new Promise((done) => setTimeout(done, 300));
    let last = performance.now();
    for (let i = 1; i <= 120; i++) {
      element.scrollTop = i * px;
      await new Promise((done) => requestAnimationFrame(done));
      const now = performance.now();
      times.push(now - last);
      last = now;
    }
    return times.sort((a, b) => a - b);
  };
  const words: string[] = [];
  for (const px of [90, 450]) {
    const [ours, theirs] = [await framesOf(table, px), await framesOf(plain, px)];
    const median = (times: number[]) => times[60] ?? 0;
    const late = (times: number[]) => times.filter((t) => t > 2 * (1000 / 60)).length;
    words.push(
      `${px} px a frame ${median(ours).toFixed(1)} ms beside ${median(theirs).toFixed(1)} ms, late ${late(ours)} beside ${late(theirs)} of 120`,
    );
  }
  plain.remove();
  return words;
}
