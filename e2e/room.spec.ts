import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import type { Archive, BenchView } from '@bright-cellar/contract';
import { fitOf, totalOf } from '@bright-cellar/core';
import { Api } from './api.js';
import { expect, test } from './counter.js';
import { openOwned, OWNED, PASSWORD, startTestProduct } from './product.js';

test('a device with too little room: how much is too much, what to leave out, and the rest arrives, with the keyboard', async ({
  technician,
}) => {
  const product = await startTestProduct({ only: [OWNED] });
  try {
    const { page, main } = technician;
    await openOwned(product);
    const api = await Api.signedIn(product);
    const { archiveId, backupId } = await api.provenBackup(OWNED);
    const { body: bench } = await api.get<BenchView>('/api/bench');
    const { body: archive } = await api.get<Archive>(`/api/archives/${archiveId}`);
    const [full] = bench.berths.flatMap(({ device }) => device ?? []);
    const [backup] = archive.backups;
    if (!full || !backup) throw new Error('nothing was taken');
    // As much as its OS takes, and a little less than all of it needs.
    const os = full.used - totalOf(full.content ?? []).bytes;
    const { need } = fitOf({ ...full, osUpdate: null }, backup.bytes);
    const small = join(product.data, 'small');
    const { facts } = await product.plugFolder(small, 2, os + need - 20_000);

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
  } finally {
    await product.stop();
  }
});
