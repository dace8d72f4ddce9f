import { Api } from './api.js';
import { expect, test } from './counter.js';
import { OWNED, openOwned, PASSWORD, startTestProduct, WIPED } from './product.js';

test('old to new in one run, with the keyboard: taken, sent meanwhile, proven, compared', async ({
  technician,
}) => {
  const rate = 15e6;
  const product = await startTestProduct({ rate });
  try {
    const { page, main } = technician;
    await openOwned(product);
    await product.press(WIPED, { do: 'plug', berth: 2 });
    const api = await Api.signedIn(product);
    const ticket = await api.openTicket(OWNED);
    await technician.signIn(product.address);
    await page.goto(`${product.address}/tickets/${ticket}`);
    await main.getByLabel('Password of the backup').fill(PASSWORD);
    await main.getByLabel('The same again').fill(PASSWORD);
    await main.getByLabel(/^Old to new/).focus();
    await page.keyboard.press('Space');
    // What stands in the way on the new device is said, and goes as it is done there.
    await expect(main.getByText(/berth 2, approve this bench/)).toBeVisible();
    await technician.looksSound('a new device that is not ready');
    await product.press(WIPED, { do: 'charge', percent: 90 });
    await product.press(WIPED, { do: 'owner-lock-off' });
    await product.press(WIPED, { do: 'approve', passcode: '' });
    const start = main.getByRole('button', { name: /send it onto berth 2$/ });
    await expect(start).toBeDisabled();
    await main.getByLabel('Its serial, last 4').fill('0T57');
    await technician.looksSound('old to new');
    // Slow until both were seen at work: at the cable's own pace that is over between two looks.
    await product.press(OWNED, { do: 'faults', faults: { rate: 200_000 } });
    await page.keyboard.press('Enter');
    const step = (name: string) => main.getByRole('listitem', { name });
    await expect(step('Take the backup')).toContainText('Taking items');
    await expect(step('Restore')).toContainText('First pass: sending');
    await product.press(OWNED, { do: 'faults', faults: { rate } });
    await expect(step('Prove it')).toContainText('Done');
    await expect(step('Restore')).toContainText('each compared with the backup');
    await expect(technician.now(/^Look with the customer|^On the phone/)).toBeVisible();
    await technician.looksSound('old to new, over');
    technician.expectQuiet();
  } finally {
    await product.stop();
  }
});
