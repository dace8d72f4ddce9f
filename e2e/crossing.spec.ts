import { Api } from './api.js';
import { expect, test } from './counter.js';
import { OWNED, openOwned, PASSWORD, startTestProduct } from './product.js';

const MARL = 'marl-fell-5';
const QUILLON = 'quillon-q44';

test('from a phone onto another family and onto a handset, with the keyboard: what is lost is said before, and is so', async ({
  technician,
}) => {
  const product = await startTestProduct({ only: [OWNED, MARL, QUILLON] });
  try {
    const { page, main } = technician;
    await openOwned(product);
    const api = await Api.signedIn(product);
    const { archiveId, backupId, ticket } = await api.provenBackup(OWNED);
    await product.press(MARL, { do: 'plug', berth: 2 });
    await product.press(MARL, { do: 'workshop-port', state: 'on' });
    await product.press(MARL, { do: 'approve', passcode: '' });
    await technician.signIn(product.address);

    await page.goto(`${product.address}/restore/${archiveId}/${backupId}`);
    await expect(technician.now(/^Choose what shall cross/)).toBeVisible();
    await technician.looksSound('what shall cross');
    // Saved passwords stay here anyway: out.
    await main.getByLabel('Saved passwords').focus();
    await page.keyboard.press('Space');
    await main.getByLabel('Password of the backup').fill(PASSWORD);
    await page.keyboard.press('Enter');
    await expect(technician.now(/^Go through with the customer/)).toBeVisible();
    await expect(main.getByText(/application store of this family does not have/)).toBeVisible();
    await expect(main.getByRole('row', { name: /^Saved passwords/ })).toContainText('left out');
    await technician.looksSound('loss report');
    await main.getByLabel('Serial, last 4').fill('7-BN');
    await page.keyboard.press('Tab');
    await page.keyboard.press('Space');
    await page.keyboard.press('Tab');
    await page.keyboard.press('Enter');
    // The chats open once their number was confirmed there, too.
    for (const name of ['Corbel', 'Tansy']) {
      await expect(technician.now(`confirm their number in ${name}`)).toBeVisible();
      await product.press(MARL, { do: 'confirm-number', application: name.toLowerCase() });
    }
    await expect(main.getByRole('heading', { name: 'What arrived' })).toBeVisible();
    await expect(main.getByText('It came as the loss report said.')).toBeVisible();
    await technician.looksSound('what arrived');

    // A second time there is nothing to send.
    await page.goto(`${product.address}/restore/${archiveId}/${backupId}`);
    await main.getByRole('radio', { name: /Marl Fell 5/ }).check();
    await main.getByLabel('Password of the backup').fill(PASSWORD);
    await page.keyboard.press('Enter');
    await expect(main.getByText('Nothing of what was chosen would go over.')).toBeVisible();

    await technician.pulls(product, MARL);
    await product.press(QUILLON, { do: 'plug', berth: 2 });
    await main.getByRole('radio', { name: /Quillon Q44/ }).check();
    // For another device it is typed again.
    await main.getByLabel('Password of the backup').fill(PASSWORD);
    await main.getByRole('button', { name: 'See what would arrive' }).click();
    await expect(main.getByRole('heading', { name: 'What will arrive' })).toBeVisible();
    await expect(main.getByText(/^Changed: words \(/).first()).toBeVisible();
    await main.getByLabel('Serial, last 4').fill('0931');
    await main.getByLabel(/^The customer knows/).click();
    await main.getByRole('button', { name: 'Send onto berth 2' }).click();
    await expect(main.getByRole('heading', { name: 'What arrived' })).toBeVisible({
      timeout: 120_000,
    });
    await page.goto(`${product.address}/tickets/${ticket}`);
    const step = main.getByRole('listitem', { name: 'Restore' });
    await expect(step).toContainText('on Quillon Q44 Q44B200931, each compared with the backup');
    await expect(step).toContainText('stayed behind, as the customer knows');
    technician.expectQuiet();
  } finally {
    await product.stop();
  }
});
