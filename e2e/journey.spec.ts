import { expect, test, Technician } from './counter.js';
import { OWNED, PASSCODE, PASSWORD, WIPED } from './product.js';

test.use({ lightPasswords: false });

test('from a locked phone on the counter to a replacement that holds everything', async ({
  product,
  technician,
  browser,
}) => {
  const { page, main } = technician;

  await page.goto(product.address);
  await expect(page.getByLabel('Name')).toBeFocused();
  await technician.looksSound('sign-in');
  await page.keyboard.type('wren');
  await page.keyboard.press('Tab');
  await page.keyboard.type('not the password');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('alert')).toContainText('do not belong together');
  technician.refusalsExpected += 1;
  await technician.signIn(product.address);

  // A second technician looks on from another browser.
  const other = new Technician(await (await browser.newContext()).newPage());
  await other.signIn(product.address);

  // The bench says what to do on the device, and follows what is done there.
  await expect(technician.now('Unlock the phone on berth 1 with its passcode.')).toBeVisible();
  await expect(technician.berth(1)).toContainText('Unlock the phone');
  await technician.looksSound('counter');
  const tray = await page.context().newPage();
  await tray.goto(product.benchAddress);
  const phone = tray.locator(`[data-device="${OWNED}"]`);
  await phone.getByRole('form', { name: 'Unlock' }).getByRole('button').click();
  await expect(technician.now(/approve this bench and confirm with the passcode/)).toBeVisible();
  await phone.getByRole('form', { name: 'Approve' }).getByLabel('Passcode').fill(PASSCODE);
  await phone.getByRole('form', { name: 'Approve' }).getByRole('button').click();
  await expect(technician.now('Berth 1: Open a ticket for it.')).toBeVisible();

  const number = await technician.openTicket();
  await expect(other.main.getByRole('row', { name: new RegExp(`^${number} `) })).toBeVisible();
  await expect(main.getByRole('listitem', { name: 'Take the backup' })).toContainText(
    /On the device.* MBin \d+ items/,
  );
  await technician.looksSound('ticket');

  // The backup: figures while it runs, in both browsers, and a result.
  await product.press(OWNED, { do: 'faults', faults: { rate: 200_000 } });
  await technician.startBackup();
  await expect(main.getByText('Taking items').first()).toBeVisible();
  await expect(main.getByText(/of [\d.]+ MB/)).toBeVisible();
  await expect(other.berth(1)).toContainText(/\d+ %/);
  await expect(main.getByText(/\d+ s$/).first()).toBeVisible();
  await technician.looksSound('running backup');
  await product.press(OWNED, { do: 'faults', faults: { rate: null } });
  const backupStep = main.getByRole('listitem', { name: 'Take the backup' });
  await expect(backupStep).toContainText('0 failed');
  await expect(backupStep).toContainText(/[0-9a-f]{128}/);

  // The proof: a wrong password is said within three seconds, and nothing else happens.
  await technician.prove('something else entirely');
  await expect(main.getByRole('alert')).toContainText('does not open this backup');
  technician.refusalsExpected += 1;
  await technician.prove(PASSWORD);
  await expect(main.getByRole('listitem', { name: 'Prove it' })).toContainText(
    'every item read back',
  );
  await technician.looksSound('proven ticket');

  // Down to the archives and into this one, with the keyboard alone.
  await page.keyboard.press('/');
  await page.keyboard.type('archives');
  await page.keyboard.press('Enter');
  await expect(technician.heading('Archives')).toBeVisible();
  await technician.looksSound('archives');
  await main.getByRole('row').nth(1).focus();
  await page.keyboard.press('Enter');
  await expect(technician.heading('Archive of Tamsin’s phone')).toBeVisible();
  await expect(main.getByRole('row', { name: /Photographs 8 / })).toBeVisible();
  await expect(main.getByText('there now')).toBeVisible();
  await technician.looksSound('archive');

  // The restore: each condition blocks until it is met on the device.
  await main.getByRole('link', { name: 'Restore it' }).click();
  await expect(technician.now('Connect the device it goes onto to a free berth.')).toBeVisible();
  await product.press(WIPED, { do: 'plug', berth: 2 });
  await expect(technician.now('On the phone on berth 2, approve this bench.')).toBeVisible();
  await product.press(WIPED, { do: 'approve', passcode: '' });
  await expect(technician.now(/Have the owner switch off the owner lock/)).toBeVisible();
  await expect(main.getByRole('button', { name: /^Restore onto/ })).toBeHidden();
  await technician.looksSound('blocked restore');
  await product.press(WIPED, { do: 'owner-lock-off' });
  await expect(technician.now(/Charge the phone on berth 2 to 50 %/)).toBeVisible();
  await product.press(WIPED, { do: 'charge', percent: 77 });
  await main.getByLabel('Serial, last 4').fill('4Q81');
  await expect(main.getByText('Not this device.')).toBeVisible();
  await main.getByLabel('Serial, last 4').fill('0t57');
  await main.getByLabel('Password of the backup').fill(PASSWORD);
  await technician.looksSound('ready restore');
  await page.keyboard.press('Enter');
  await expect(main.getByText('away, comes back by itself')).toBeVisible();
  await expect(other.berth(2)).toContainText('Second pass');
  await expect(main.getByText('Same as the backup', { exact: true })).toBeVisible();
  await expect(technician.now('Check with the customer')).toBeVisible();
  await technician.looksSound('restored');

  // A scanned label opens the ticket: everything on its run sheet is done.
  await page.locator('body').focus();
  await page.keyboard.type(number);
  await page.keyboard.press('Enter');
  await expect(technician.heading(`Ticket ${number}`)).toBeVisible();
  await expect(main.getByRole('listitem', { name: 'Restore' })).toContainText(
    'each compared with the backup',
  );
  // What the device asks of its owner comes first, as it reports it; applications download by themselves.
  for (const [step, sentence] of [
    ['passcode', /set their passcode/],
    ['account', /sign in to their account/],
    ['code', /type the code/],
    ['wifi', /join the shop’s Wi-Fi/],
    ['places', /place services/],
  ] as const) {
    await expect(technician.now(sentence)).toBeVisible();
    await product.press(WIPED, { do: 'settle', step });
  }
  await expect(main.getByText('It is ready to be handed over.')).toBeVisible();
  await expect(technician.now(/Look with the customer/)).toBeVisible();
  const counts = main.getByRole('region', { name: 'Backup beside device' });
  await expect(counts.getByRole('row', { name: /^Photographs/ })).toContainText('the same');
  await technician.looksSound('check with the customer');
  await main.getByLabel('What was found').fill('All photographs are there.');
  await main.getByRole('button', { name: 'Check with the customer: done' }).click();
  await expect(technician.now(/Give the device back/)).toBeVisible();
  await main.getByRole('button', { name: 'Hand over: done' }).click();
  await expect(technician.now('Nothing is left to do on this ticket.')).toBeVisible();
  await technician.looksSound('settled ticket');
  await main.getByRole('button', { name: 'Close the ticket' }).click();
  await expect(technician.heading('Counter')).toBeVisible();
  await expect(main.getByText('No ticket is open.')).toBeVisible();

  await page.getByRole('button', { name: 'Sign out' }).click();
  await expect(page.getByRole('button', { name: 'Sign in' })).toBeVisible();
  await expect(other.heading('Counter')).toBeVisible();
  technician.expectQuiet();
  other.expectQuiet();
});
