import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { freePort } from '../scripts/lib/ports.mjs';
import { startProduct } from '../scripts/lib/product.mjs';
import { newSetUpCode } from '../scripts/lib/set-up-code.mjs';
import { expect, test } from './counter.js';
import { PASSWORD } from './product.js';

test('a shop of its own: a first rack, a device whose storage is mounted, its backup, and back onto another', async ({
  technician,
}) => {
  const home = mkdtempSync(join(tmpdir(), 'cellar-shop-'));
  const media = join(home, 'media');
  const card = join(media, 'CARD');
  mkdirSync(join(card, 'DCIM/Camera'), { recursive: true });
  writeFileSync(join(card, 'DCIM/Camera/quay.jpg'), 'a picture of the quay');
  writeFileSync(join(card, 'letter.txt'), 'a letter');
  mkdirSync(join(media, 'NEW/DCIM'), { recursive: true });
  mkdirSync(join(home, 'rack'));
  const setUpCode = newSetUpCode();
  const shop = await startProduct({
    ...{ data: join(home, 'shop'), port: await freePort(), benchPort: await freePort() },
    ...{ demo: 'none', quiet: true, setUpCode },
  });
  const { page, main } = technician;
  const { keyboard } = page;
  const dialog = page.getByRole('dialog');
  try {
    const begun = await page.request.post(`${shop.address}/api/set-up`, {
      data: {
        code: setUpCode,
        shop: { name: 'Quayside Repairs', address: '2 Quay' },
        keeper: { name: 'Orla Wickbank', login: 'orla', password: 'lantern moths ferry nine' },
      },
    });
    expect(begun.status(), await begun.text()).toBe(200);
    await page.goto(shop.address);
    await main.getByRole('link', { name: 'Go to the first steps' }).press('Enter');
    await expect(technician.now('Add the first rack')).toBeVisible();
    await technician.looksSound('first steps');
    await main.getByRole('link', { name: 'Racks' }).press('Enter');
    await main.getByRole('button', { name: 'Add a rack' }).press('Enter');
    await dialog.getByRole('radio', { name: /Another folder/ }).click();
    await dialog.getByLabel('Path of the folder').fill(join(home, 'rack'));
    await dialog.getByRole('button', { name: 'Try it' }).press('Enter');
    await dialog.getByLabel('Name').fill('Alder');
    await dialog.getByLabel('Reserve, in GB').fill('0');
    await keyboard.press('Enter');
    await expect(technician.heading('Rack Alder')).toBeVisible();

    await page.getByRole('link', { name: 'House rules' }).press('Enter');
    await main.getByLabel('Where drives and storage appear').fill(`${media}/*`);
    await main.getByRole('button', { name: 'Save the house rules' }).press('Enter');
    await expect(main.getByText('Saved.')).toBeVisible();
    await page.getByRole('link', { name: 'Counter' }).press('Enter');
    const connect = async (medium: string, serial: string) => {
      await main.getByRole('button', { name: 'Connect mounted storage …' }).press('Enter');
      await dialog.getByRole('button', { name: new RegExp(`media/${medium} `) }).press('Enter');
      await expect(dialog.getByRole('button', { name: 'DCIM' })).toBeVisible();
      await dialog.getByLabel('Model').fill('Slate 4');
      await dialog.getByLabel('Serial').fill(serial);
      await technician.looksSound('connect mounted storage');
      await keyboard.press('Enter');
      await expect(dialog).toHaveCount(0);
    };
    await connect('CARD', 'sl4-0011-aa');
    await expect(technician.now('Berth 1: Open a ticket for it.')).toBeVisible();
    await expect(
      main.getByRole('row', { name: /Mounted storage Slate 4.*SL4-0011-AA/ }),
    ).toBeVisible();
    const number = await technician.openTicket();
    // What does not come with it is said before it is taken.
    await expect(main.getByText('that lies on this storage')).toBeVisible();
    await main.getByRole('link', { name: 'See and choose …' }).press('Enter');
    await expect(main.getByText('What the device does not keep on this storage')).toBeVisible();
    await page.goBack();
    await technician.startBackup();
    const backupStep = main.getByRole('listitem', { name: 'Take the backup' });
    await expect(backupStep).toContainText('2 items taken, 0 failed');
    await technician.prove(PASSWORD);
    await expect(main.getByRole('listitem', { name: 'Prove it' })).toContainText(
      'every item read back',
    );

    // It is taken off, and what replaces it takes its place.
    await page.getByRole('link', { name: 'Counter' }).press('Enter');
    await main.getByRole('button', { name: 'More for berth 1' }).press('Enter');
    await page.getByRole('menuitem', { name: 'Take it off the bench' }).press('Enter');
    await expect(main.getByText('No device is connected.')).toBeVisible();
    await connect('NEW', 'sl4-0012-bb');
    await main.getByRole('link', { name: 'Choose a backup to restore' }).press('Enter');
    await expect(technician.heading('Archives')).toBeVisible();
    await main.getByRole('row', { name: new RegExp(number) }).click();
    await main.getByRole('link', { name: 'Restore it' }).press('Enter');
    await main.getByLabel('Serial, last 4').fill('2-bb');
    await main.getByLabel('Password of the backup').fill(PASSWORD);
    await keyboard.press('Enter');
    await expect(main.getByText('Same as the backup', { exact: true })).toBeVisible();
    expect(readFileSync(join(media, 'NEW/DCIM/Camera/quay.jpg'), 'utf8')).toBe(
      'a picture of the quay',
    );
    technician.expectQuiet();
  } finally {
    await shop.stop();
    rmSync(home, { recursive: true, force: true });
  }
});
