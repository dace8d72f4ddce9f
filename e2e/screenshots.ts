import { fileURLToPath } from 'node:url';
import { expect, test as base } from '@playwright/test';
import { Technician } from './counter.js';
import { openOwned, OWNED, PASSWORD, startTestProduct, WIPED } from './product.js';

const FOLDER = fileURLToPath(new URL('../docs/screenshots/', import.meta.url));

/** Not a test: walks through the demo and takes one picture of each main view. */
base('pictures of every main view', async ({ page }) => {
  const product = await startTestProduct({ demo: 'full', rate: 28_000_000, installMs: 6000 });
  try {
    const technician = new Technician(page);
    const { main } = technician;
    const picture = async (name: string) => {
      await page.waitForTimeout(500);
      await page.screenshot({ path: `${FOLDER}${name}.png` });
    };
    await page.goto(product.address);
    await expect(page.getByLabel('Name')).toBeFocused();
    await picture('sign-in');
    await technician.signIn(product.address);
    await picture('counter');
    await openOwned(product);
    await main.getByRole('link', { name: 'Open a ticket' }).click();
    await main.getByLabel('Name').fill('Tamsin Orchardgate');
    await main.getByLabel('Phone').fill('+44 7700 900219');
    await main.getByLabel('The customer agreed').click();
    await picture('intake');
    await main.getByRole('button', { name: 'Open the ticket' }).click();
    await main.getByLabel('Password of the backup').fill(PASSWORD);
    await main.getByLabel('The same again').fill(PASSWORD);
    await main.getByLabel('Reminder').fill('Hums in the kitchen');
    await expect(main.getByText('Strong: would hold')).toBeVisible();
    await picture('ticket');
    await product.press(OWNED, { do: 'faults', faults: { cutAfterBytes: 90_000_000 } });
    await main.getByRole('button', { name: 'Take the full backup' }).click();
    await expect(main.getByText('are safe on the rack')).toBeVisible({ timeout: 60_000 });
    await picture('backup-cut');
    await product.press(OWNED, { do: 'faults', faults: { cutAfterBytes: null } });
    await product.press(OWNED, { do: 'plug', berth: 1 });
    await openOwned(product);
    await main.getByRole('button', { name: 'Give it up and free the space' }).click();
    await main.getByLabel('The same again').fill(PASSWORD);
    await main.getByLabel('Password of the backup').fill(PASSWORD);
    await main.getByLabel('Reminder').fill('Hums in the kitchen');
    await main.getByRole('button', { name: 'Take the full backup' }).click();
    await page.waitForTimeout(7_000);
    await picture('backup-running');
    await expect(main.getByRole('button', { name: 'Prove it' })).toBeVisible({ timeout: 60_000 });
    await technician.prove(PASSWORD);
    const restore = main.getByRole('link', { name: 'Open the restore' });
    await expect(restore).toBeVisible({ timeout: 60_000 });
    await picture('ticket-proven');
    await restore.click();
    await product.press(WIPED, { do: 'plug', berth: 2 });
    await product.press(WIPED, { do: 'approve', passcode: '' });
    await product.press(WIPED, { do: 'owner-lock-off' });
    await expect(technician.now(/Charge the phone/)).toBeVisible();
    await picture('restore-blocked');
    await product.press(WIPED, { do: 'charge', percent: 81 });
    await main.getByLabel('Serial, last 4').fill('0T57');
    await main.getByLabel('Password of the backup').fill(PASSWORD);
    await page.keyboard.press('Enter');
    await page.waitForTimeout(17_000);
    await picture('restore-running');
    await expect(main.getByText('Same as the backup', { exact: true })).toBeVisible({
      timeout: 90_000,
    });
    await picture('restore-done');
    await page.goBack();
    await product.press(OWNED, { do: 'write-note', text: 'Call back about the case' });
    await main.getByLabel('Password of the archive').fill(PASSWORD);
    await main.getByRole('button', { name: 'Show what will be sent' }).click();
    await expect(main.getByText('Will be sent', { exact: true })).toBeVisible();
    await picture('backup-known');
    await main.getByRole('button', { name: 'Take the full backup' }).click();
    await expect(main.getByRole('button', { name: 'Prove it' })).toBeVisible({ timeout: 60_000 });
    await page.getByRole('button', { name: 'Dim the screen' }).click();
    await page.getByRole('link', { name: 'Archives' }).click();
    await picture('archives-dim');
    await page.getByRole('button', { name: 'Daylight' }).click();
    await main.getByText('Tamsin’s phone').first().click();
    await expect(technician.heading(/Archive of/)).toBeVisible();
    await picture('archive');
    await page.goto(product.benchAddress);
    await expect(page.locator(`[data-device="${OWNED}"]`)).toBeVisible();
    await picture('stand-in-tray');
  } finally {
    await product.stop();
  }
});
