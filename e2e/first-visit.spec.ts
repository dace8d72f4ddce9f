import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { freePort } from '../scripts/lib/ports.mjs';
import { startProduct } from '../scripts/lib/product.mjs';
import { newSetUpCode } from '../scripts/lib/set-up-code.mjs';
import { expect, test } from './counter.js';

test('a new shop, with the keyboard alone: its keeper, what comes first, and somebody who learns', async ({
  technician,
}) => {
  const data = mkdtempSync(join(tmpdir(), 'cellar-shop-'));
  const setUpCode = newSetUpCode();
  const shop = await startProduct({
    ...{ data, port: await freePort(), benchPort: await freePort(), setUpCode },
    ...{ demo: 'none', quiet: true },
  });
  const { page, main } = technician;
  const { keyboard } = page;
  try {
    await page.goto(shop.address);
    await expect(page.getByLabel('Code')).toBeFocused();
    await technician.looksSound('first visit');
    for (const typed of [
      ...[setUpCode.toUpperCase(), 'Quayside Repairs', '2 Quay, Netherby'],
      ...['Orla Wickbank', 'orla', 'lantern moths ferry nine', 'lantern moths ferry nine'],
    ]) {
      await keyboard.type(typed);
      await keyboard.press('Tab');
    }
    await keyboard.press('Enter');
    await expect(technician.now('Add the first rack')).toBeVisible();
    await expect(page.getByText('Quayside Repairs')).toBeVisible();

    await page.getByRole('link', { name: 'People' }).press('Enter');
    await expect(main.getByText('One person keeps this shop.')).toBeVisible();
    await technician.looksSound('people');
    await main.getByRole('button', { name: 'Add somebody' }).press('Enter');
    for (const typed of ['Joss Kelholt', 'joss', 'copper boats under snow']) {
      await keyboard.type(typed);
      await keyboard.press('Tab');
    }
    await page.getByLabel('Works as').click();
    await page.getByRole('option', { name: 'Trainee' }).press('Enter');
    await technician.looksSound('somebody new');
    await page.getByRole('button', { name: 'Add them' }).press('Enter');
    await expect(main.getByRole('cell', { name: 'Trainee' })).toBeVisible();

    await page.getByRole('button', { name: 'Sign out' }).press('Enter');
    await page.getByLabel('Name').fill('joss');
    await page.getByLabel('Password').fill('copper boats under snow');
    await keyboard.press('Enter');
    await expect(technician.heading('Counter')).toBeVisible();
    // Nothing is offered that is not theirs.
    await expect(page.getByRole('link', { name: 'House rules' })).toBeVisible();
    await expect(page.getByRole('link', { name: 'People' })).toHaveCount(0);
    await page.getByRole('link', { name: 'House rules' }).press('Enter');
    await expect(main.getByText('Only keepers may change this.')).toBeVisible();
    technician.expectQuiet();
  } finally {
    await shop.stop();
    rmSync(data, { recursive: true, force: true });
  }
});
