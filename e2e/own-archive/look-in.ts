import { readFile } from 'node:fs/promises';
import type { Locator } from '@playwright/test';
import { expect, test } from '../counter.js';
import { inkOf } from '../ink.js';
import { PASSWORD, type Product } from '../product.js';

/** A backup that is looked into. */
export const lookedInto = (shop: () => Product) =>
  test('a backup is looked into by keyboard: asked for, read, searched, and closed by one key', async ({
    technician,
  }) => {
    const product = shop();
    const { page, main } = technician;
    const { keyboard } = page;
    const { api, ticket } = await technician.openProvenArchive(product);
    const dialog = page.getByRole('dialog', { name: 'Look inside' });
    const ask = async () => {
      await main.getByRole('button', { name: 'Look inside …' }).press('Enter');
      await dialog.getByLabel('What for').fill('Are the messages of the summer in it?');
      await dialog.getByLabel('Password of the backup').fill(PASSWORD);
      await keyboard.press('Enter');
    };
    await ask();
    await expect(dialog.getByRole('alert')).toContainText('has not agreed');
    technician.refusalsExpected += 1;
    await technician.looksSound('look inside');
    await keyboard.press('Escape');
    const agreed = { kind: 'look-in', given: true, days: null };
    expect((await api.post(`/api/tickets/${ticket}/agreements`, agreed)).status).toBe(200);
    await ask();

    await expect(technician.now(/holds [\d,]+ messages in \d+ conversations/)).toBeVisible();
    const sign = page.getByText(/is open to be read, for ticket/);
    await expect(sign).toBeVisible();
    const list = main.getByRole('region', { name: 'Conversations' });
    await list.getByRole('button').first().press('Enter');
    const said = main.getByRole('region', { name: 'What was said' });
    await expect(said.getByRole('article').first()).toBeVisible();
    await technician.looksSound('the reading desk');
    await page.emulateMedia({ colorScheme: 'dark' });
    await main.getByLabel('Find in all of it').fill('the bus');
    const found = main.getByRole('list', { name: 'Messages found' });
    await expect(found.getByRole('button').first()).toContainText(/bus/);
    await technician.looksSound('what was found');
    await found.getByRole('button').first().press('Enter');
    const sought = said.locator('[aria-current="true"]');
    await expect(sought).toBeInViewport();
    await expect(sought).toContainText(/bus/);

    await technician.looksAtPhotograph();
    await expect(main.getByRole('button', { name: /counted, never shown/ })).toBeDisabled();
    await technician.looksSound('photographs day by day');
    await main.getByText('On the map').press('Enter');
    await expect(main.getByRole('img', { name: /were taken/ })).toBeVisible();
    const shown = async (name: RegExp, seen: Locator) => {
      await main.getByRole('button', { name }).press('Enter');
      await expect(seen.first()).toBeVisible();
      await technician.looksSound(`${name.source} of a backup`);
    };
    const cells = main.getByRole('cell');
    await shown(/^Calendar/, main.getByRole('article'));
    await main.getByRole('button', { name: 'A month at a glance' }).press('Enter');
    await expect(main.getByRole('columnheader', { name: 'Wed' })).toBeVisible();
    await shown(/^Notes/, main.getByRole('article'));
    await shown(/^Health/, main.getByRole('img', { name: /^steps/ }));
    await shown(/^Settings/, main.getByRole('region', { name: 'On every page' }));
    await shown(/^Web history/, cells);
    await shown(/^Videos/, main.getByRole('article'));
    await main.getByRole('button', { name: /clip-/ }).press('Enter');
    const video = main.locator('video');
    await expect
      .poll(() => video.evaluate((one: HTMLVideoElement) => [one.videoWidth, one.error]))
      .toEqual([480, null]);
    await shown(/^Contacts/, cells);
    await main.getByRole('row', { name: /^Anouk/ }).press('Enter');
    await expect(main.getByRole('img', { name: 'Picture of Anouk Mossholt' })).toBeVisible();
    await shown(/^Documents/, main.getByRole('article'));
    await main.getByRole('button', { name: /boats-01\.pdf/ }).press('Enter');
    await expect.poll(() => inkOf(main.getByRole('img', { name: /^Page 1/ }))).toBeGreaterThan(500);
    await main.getByRole('button', { name: 'Next page' }).press('Enter');
    await expect.poll(() => inkOf(main.getByRole('img', { name: /^Page 2/ }))).toBeGreaterThan(500);
    await technician.looksSound('pages of a document');

    await main.getByRole('button', { name: 'Is it all there?' }).press('Enter');
    await main.getByRole('combobox', { name: 'Compare this backup with' }).press('Enter');
    await page.getByRole('option', { name: /as it is now/ }).press('Enter');
    await main.getByRole('button', { name: 'Compare' }).press('Enter');
    await expect(main.getByText(/^It is all there: \d+ items on the device/)).toBeVisible();
    await main.getByRole('button', { name: /^Notes, the same/ }).press('Enter');
    await expect(main.getByRole('table', { name: 'Notes: the same' })).toBeVisible();
    await technician.looksSound('a backup beside a device');

    // What was read is taken in hand by the way, and out as a package.
    await list.getByRole('button').first().press('Enter');
    await main.getByRole('button', { name: 'Take it in hand' }).press('Enter');
    await main.getByRole('button', { name: /^Photographs/ }).press('Enter');
    await main.getByRole('button', { name: 'Take all of it in hand' }).press('Enter');
    const hand = main.getByRole('list', { name: 'In hand' });
    await expect(hand.getByRole('listitem')).toHaveCount(2);
    await main.getByRole('button', { name: 'Take out …' }).press('Enter');
    const taking = page.getByRole('dialog', { name: 'Take out what is in hand' });
    await technician.looksSound('taking out');
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      taking.getByRole('button', { name: 'Take it out' }).press('Enter'),
    ]);
    expect(download.suggestedFilename()).toMatch(/^taken-out-.*\.zip$/);
    expect((await readFile(await download.path())).subarray(0, 2).toString()).toBe('PK');
    await expect(taking.getByRole('status')).toContainText('The package is here.');
    await expect(taking.getByRole('status')).toContainText('0 failed');
    await keyboard.press('Escape');

    const address = page.url();
    // The sign is on every screen; the key works wherever one is.
    await page.getByRole('link', { name: 'Counter' }).press('Enter');
    await expect(sign).toBeVisible();
    await keyboard.press('F9');
    await expect(sign).toHaveCount(0);
    await page.goto(address);
    await expect(main.getByText(/^This look-in is over/)).toBeVisible();
    technician.expectQuiet();
  });
