import { execFileSync } from 'node:child_process';
import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import type { Archive } from '@bright-cellar/contract';
import { expect, test } from '../counter.js';
import { openOwned, OWNED, PASSWORD, WIPED, type Product } from '../product.js';

/** What goes wrong with a backup, its archive and its target, in a shop that has none yet. */
export const trouble = (shop: () => Product) =>
  test.describe('trouble', () => {
    test('a backup that is stopped, and one in which items fail, say what became of them', async ({
      technician,
    }) => {
      const product = shop();
      const { main } = technician;
      await openOwned(product);
      await technician.signIn(product.address);
      await technician.openTicket();
      await product.press(OWNED, { do: 'faults', faults: { rate: 200_000, unreadableEntries: 2 } });
      await technician.startBackup();
      await expect(main.getByText(/^\d+ %$/)).toBeVisible();
      await main.getByRole('button', { name: 'Stop' }).click();
      await expect(main.getByRole('alert')).toContainText('What was taken is kept on the rack');
      await main.getByRole('button', { name: 'Give it up and free the space' }).click();
      await expect(main.getByRole('form', { name: 'Take the backup' })).toBeVisible();

      await product.press(OWNED, { do: 'faults', faults: { rate: null } });
      await technician.startBackup();
      const step = main.getByRole('listitem', { name: 'Take the backup' });
      await expect(step).toContainText('2 failed');
      await expect(step).toContainText(/items? not taken, the device could not read it\./);
      await main.getByRole('button', { name: 'Show each of them' }).click();
      const each = main.getByRole('table', { name: 'Items that were not taken' });
      await expect(each.getByRole('cell', { name: 'name not shown: not agreed' })).toHaveCount(2);
      await technician.looksSound('backup with failed items');

      // Such a backup is worth keeping, and never enough to erase by.
      await technician.prove(PASSWORD);
      await expect(main.getByRole('listitem', { name: 'Prove it' })).toContainText(
        'every item read back',
      );
      await technician.page.getByRole('link', { name: 'Counter' }).click();
      await main.getByRole('button', { name: 'More for berth 1' }).click();
      await technician.page.getByRole('menuitem', { name: 'Erase this device …' }).click();
      await expect(technician.page.getByRole('alert')).toContainText(
        'misses items that could not be read',
      );
      await product.press(OWNED, { do: 'faults', faults: { unreadableEntries: 0 } });
      technician.expectQuiet();
    });

    test('a damaged archive is found by the proof, and every screen that shows it says so', async ({
      technician,
    }) => {
      const product = shop();
      const { page, main } = technician;
      const { api, archiveId } = await technician.openProvenArchive(product);
      const { body: archive } = await api.get<Archive>(`/api/archives/${archiveId}`);
      const packs = join(
        product.data,
        'racks',
        archive.rackName.toLowerCase(),
        archive.copies[0]?.folder ?? '',
        'data/packs',
      );
      const pack = join(packs, readdirSync(packs)[0] ?? '');
      execFileSync('bash', [
        '-c',
        `printf '\\x00\\x01\\x02' | dd of='${pack}' bs=1 seek=4000 conv=notrunc status=none`,
      ]);

      await expect(technician.now(/Proven on/)).toBeVisible();
      await technician.prove(PASSWORD);
      await expect(technician.now(/The last proof found damage/)).toBeVisible();
      await expect(main.getByText('Damaged').first()).toBeVisible();
      await technician.looksSound('damaged archive');
      await page.getByRole('link', { name: 'Archives', exact: true }).click();
      await expect(technician.now(/is damaged: take a new backup and erase nothing/)).toBeVisible();
      await page.goto(`${product.address}/tickets/${archive.ticketNumber}`);
      await expect(technician.now(/The proof failed/)).toBeVisible();
      await expect(main.getByRole('listitem', { name: 'Prove it' })).toContainText('Blocked');
      technician.expectQuiet();
    });

    test('the wrong devices as targets: one in use is never chosen by itself, and says why it cannot be', async ({
      technician,
    }) => {
      const product = shop();
      const { page, main } = technician;
      const { archiveId, backupId } = await technician.openProvenArchive(product);
      await page.goto(`${product.address}/restore/${archiveId}/${backupId}`);
      await expect(
        technician.now('Connect the device it goes onto to a free berth.'),
      ).toBeVisible();
      const inUse = main.getByRole('radio', { name: /Berth 1/ });
      await expect(inUse).not.toBeChecked();
      await inUse.click();
      await expect(technician.now(/Everything on this phone would be lost/)).toBeVisible();
      await expect(main.getByRole('button', { name: /^Restore onto/ })).toBeHidden();

      // The device that leaves while it is looked at is not there any more, without reloading.
      await product.press(WIPED, { do: 'plug', berth: 2 });
      await main.getByRole('radio', { name: /Berth 2/ }).click();
      await expect(technician.now(/berth 2, approve this bench/)).toBeVisible();
      await technician.pulls(product, WIPED);
      await expect(main.getByRole('radio', { name: /Berth 2/ })).toBeHidden();
      await expect(
        technician.now('Connect the device it goes onto to a free berth.'),
      ).toBeVisible();
      await technician.looksSound('restore without a target');
    });
  });
