import { expect, test, Technician } from './counter.js';
import { PASSWORD, startTestProduct, QUILLON } from './product.js';

const WORN = 'vireo-arc-6';

test('a keyboard handset and a phone with a wearable: from intake to a proven backup, mistakes included', async ({
  technician,
  browser,
}) => {
  const product = await startTestProduct({
    only: [QUILLON, WORN],
    owner: 'waits',
  });
  try {
    const { page, main } = technician;
    await technician.signIn(product.address);

    // The handset needs nothing: a ticket, a password that its customer types, and it runs.
    await expect(technician.berth(4)).toContainText('Open a ticket for it.');
    await page.goto(`${product.address}/tickets/new/${QUILLON}`);
    await main.getByLabel('Name').fill('Orla Wickbank');
    await main.getByLabel('The customer agreed').click();
    await main.getByLabel('Reason for the visit').click();
    await page.getByRole('option', { name: 'Safety copy only' }).click();
    await page.keyboard.press('Tab');
    await main.getByRole('button', { name: 'Open the ticket' }).click();
    await expect(main.getByText('as measured')).toBeVisible();
    await main.getByLabel('The password is').click();
    await page.getByRole('option', { name: /Typed by the customer/ }).click();
    await main.getByRole('button', { name: 'Show the code' }).click();
    await expect(main.getByRole('img', { name: /opens the customer’s page/ })).toBeVisible();
    await technician.looksSound('code for the customer');
    const address = (await main.locator('a[href*="/desk/"]').getAttribute('href')) ?? '';
    const customer = new Technician(await (await browser.newContext()).newPage());
    await customer.page.goto(address);
    await customer.page.getByLabel('Password', { exact: true }).fill('1234');
    await expect(customer.page.getByText('A PIN of 4 digits is not a password')).toBeVisible();
    await customer.page.getByLabel('Password', { exact: true }).fill(PASSWORD);
    await expect(customer.page.getByText('Strong: would hold')).toBeVisible();
    await customer.page.getByLabel('The same again').fill(PASSWORD);
    await customer.looksSound('customer’s own page');
    await customer.page.getByRole('button', { name: 'Use this password' }).click();
    await expect(customer.page.getByText('You can close this page')).toBeVisible();
    await expect(main.getByText('The customer has typed a password.')).toBeVisible();
    await main.getByRole('button', { name: 'Take the full backup' }).click();
    // What the customer typed is held for the proof; typed here instead, it must be right.
    await expect(main.getByText(/typed is held for this until/)).toBeVisible();
    await technician.looksSound('held password');
    await main.getByRole('button', { name: 'Type it here instead' }).click();
    await technician.prove('not it');
    await expect(main.getByRole('alert')).toContainText('does not open this backup');
    await technician.prove('not it either');
    await expect(main.getByRole('alert')).toContainText('Nobody can recover a lost one');
    technician.refusalsExpected += 2;
    await main.getByRole('button', { name: 'Let the customer type it' }).click();
    await main.getByRole('button', { name: 'Prove it' }).click();
    await expect(main.getByRole('listitem', { name: 'Prove it' })).toContainText('read back');
    await expect(technician.now(/Give the device back/)).toBeVisible();

    // The phone: its charge is low and its wearable paired; then it asks its owner once more.
    await product.press(WORN, { do: 'plug', berth: 1 });
    await product.press(WORN, { do: 'unlock', passcode: '118203' });
    await product.press(WORN, { do: 'approve', passcode: '118203' });
    await page.goto(`${product.address}/tickets/new/${WORN}`);
    await main.getByLabel('Name').fill('Fenn Mossgate');
    await main.getByLabel('The customer agreed').click();
    await main.getByRole('button', { name: 'Open the ticket' }).click();
    await expect(technician.now(/Charge the phone on berth 1/)).toBeVisible();
    await product.press(WORN, { do: 'charge', percent: 71 });
    await expect(technician.now(/Unpair Fenn’s band/)).toBeVisible();
    await expect(main.getByRole('list', { name: 'Readiness' })).toContainText('17.0 offered');
    await expect(main.getByText(/a device in use is not updated here/)).toBeVisible();
    await main.getByLabel('The password is').click();
    await page.getByRole('option', { name: /Made here/ }).click();
    await main.getByRole('button', { name: 'Make a password' }).click();
    const made = (await main.locator('[data-made-password]').innerText()).trim();
    expect(made.split(' ')).toHaveLength(5);
    const start = main.getByRole('button', { name: 'Take the full backup' });
    await start.click();
    await expect(main.getByRole('alert')).toContainText('no wearable paired is not met');
    technician.refusalsExpected += 1;
    await main.getByLabel(/^Start without it/).click();
    await technician.looksSound('accepted conditions');
    await start.click();
    await expect(technician.now(/confirm with the passcode that the backup starts/)).toBeVisible();
    await expect(technician.berth(1)).toContainText('confirm with the passcode');
    await expect(page).toHaveTitle(/^\(1\) /);
    await product.press(WORN, { do: 'confirm', passcode: '118203' });
    await technician.prove(made);
    await expect(main.getByRole('listitem', { name: 'Prove it' })).toContainText('read back');

    // Seen again, it is known, and somebody else is asked whose it is.
    await page.goto(`${product.address}/tickets/new/${WORN}`);
    await expect(main.getByLabel('Name')).toHaveValue('Fenn Mossgate');
    await main.getByLabel('Name').fill('Greta Ashlock');
    await expect(technician.now(/Ask whose this device is/)).toBeVisible();
    await expect(main.getByRole('button', { name: 'Open the ticket' })).toBeDisabled();
    await technician.looksSound('questioned device');
    technician.expectQuiet();
    customer.expectQuiet();
  } finally {
    await product.stop();
  }
});
