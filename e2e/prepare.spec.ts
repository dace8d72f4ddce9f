import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import type { Archive, BenchView } from '@bright-cellar/contract';
import { fitOf, totalOf } from '@bright-cellar/core';
import { Api } from './api.js';
import { expect, sharedProduct, test } from './counter.js';
import { OWNED, openOwned, PASSWORD } from './product.js';

const SLATE = 'vireo-slate-11';
const shop = sharedProduct({ only: [OWNED, SLATE] });

/** The customer's phone lies on the bench, with a backup of it that is proven. */
async function provenInShop() {
  const product = shop();
  await openOwned(product);
  const api = await Api.signedIn(product);
  return { product, api, ...(await api.provenBackup(OWNED)) };
}

test('a device that is in use becomes the target: backed up, proven and erased on one page, then restored onto', async ({
  technician,
}) => {
  const { product, archiveId, backupId } = await provenInShop();
  const { page, main } = technician;
  await product.press(SLATE, { do: 'plug', berth: 2 });
  await product.press(SLATE, { do: 'approve', passcode: '' });
  await technician.signIn(product.address);
  const restore = `${product.address}/restore/${archiveId}/${backupId}`;

  await page.goto(restore);
  await main.getByRole('radio', { name: /Berth 2/ }).check();
  const steps = main.getByRole('region', { name: 'Prepare this device' });
  await expect(technician.now(/Everything on this tablet would be lost/)).toBeVisible();
  await technician.looksSound('a target in use');
  await steps.getByRole('link', { name: 'Open a ticket for it' }).click();
  await main.getByLabel('Name').fill('Orla Wickbank');
  await main.getByLabel('The customer agreed').click();
  await main.getByRole('button', { name: 'Open the ticket' }).click();
  // Back where it was asked for, with the same device.
  await expect(main.getByRole('radio', { name: /Berth 2/ })).toBeChecked();
  const step = (name: string) => steps.getByRole('listitem', { name });
  await step('Back it up').getByLabel('Password of the backup').fill(PASSWORD);
  await step('Back it up').getByLabel('The same again').fill(PASSWORD);
  await step('Back it up').getByRole('button', { name: 'Take the full backup' }).click();
  await expect(step('Back it up')).toContainText('Done');
  await technician.looksSound('a target to be proven');
  await step('Prove it').getByLabel('Password of the backup').fill(PASSWORD);
  await step('Prove it').getByRole('button', { name: 'Prove it' }).click();
  await step('Erase it')
    .getByRole('button', { name: /^Erase it/ })
    .click();
  const dialog = page.getByRole('dialog');
  await expect(dialog).toContainText('Everything on Shop loaner 2 is lost');
  await dialog.getByLabel('Last four characters of the serial').fill('8H60');
  await dialog.getByRole('button', { name: 'Erase everything on it' }).click();

  // Empty now: it asks for this bench's approval again, and takes the backup.
  await expect(steps).toBeHidden();
  await expect(technician.now(/berth 2, approve this bench/)).toBeVisible();
  await product.press(SLATE, { do: 'approve', passcode: '' });
  await main.getByLabel('Serial, last 4').fill('8H60');
  await main.getByLabel('Password of the backup').fill(PASSWORD);
  await main.getByRole('button', { name: 'Restore onto berth 2' }).click();
  await expect(technician.now(/^Check with the customer/)).toBeVisible();
  await main.getByRole('link', { name: /^Go on with ticket/ }).click();
  const counts = main.getByRole('region', { name: 'Backup beside device' });
  await expect(counts.getByRole('row', { name: /^Contacts/ })).toContainText('the same');
  await technician.looksSound('check with the customer');
  technician.expectQuiet();
});

test('a device with too little room: how much is too much, what to leave out, and the rest arrives, with the keyboard', async ({
  technician,
}) => {
  const { product, api, archiveId, backupId } = await provenInShop();
  const { page, main } = technician;
  const { body: bench } = await api.get<BenchView>('/api/bench');
  const { body: archive } = await api.get<Archive>(`/api/archives/${archiveId}`);
  const [full] = bench.berths.flatMap(({ device }) => device ?? []);
  const [backup] = archive.backups;
  if (!full || !backup) throw new Error('nothing was taken');
  // As much as its OS takes, and a little less than all of it needs.
  const os = full.used - totalOf(full.content ?? []).bytes;
  const { need } = fitOf({ ...full, osUpdate: null }, backup.bytes);
  const small = join(product.data, 'small');
  const { facts } = await product.plugFolder(small, 3, os + need - 20_000);

  await technician.signIn(product.address);
  await page.goto(`${product.address}/restore/${archiveId}/${backupId}`);
  await expect(main.getByRole('heading', { name: /too much$/ })).toBeVisible();
  await expect(main.getByText(/^It fits without music/)).toBeVisible();
  await expect(technician.now(/^Choose less, or connect a device with/)).toBeVisible();
  await technician.looksSound('what does not fit');
  await main.getByRole('button', { name: 'Leave that out' }).focus();
  await page.keyboard.press('Enter');
  await expect(main.getByRole('heading', { name: 'It fits' })).toBeVisible();
  await expect(main.getByLabel('Music')).not.toBeChecked();
  await main.getByLabel('Password of the backup').fill(PASSWORD);
  await page.keyboard.press('Enter');
  await expect(technician.now(/^Go through with the customer/)).toBeVisible();
  await main.getByLabel('Serial, last 4').fill(facts.serial.slice(-4));
  await page.keyboard.press('Tab');
  await page.keyboard.press('Space');
  await page.keyboard.press('Tab');
  await page.keyboard.press('Enter');
  await expect(main.getByRole('heading', { name: 'What arrived' })).toBeVisible();
  const arrived = readdirSync(small);
  expect(arrived).toContain('photographs');
  expect(arrived).not.toContain('music');
  technician.expectQuiet();
});
