import { Api } from './api.js';
import { expect, sharedProduct, test, Technician } from './counter.js';
import { openOwned, OWNED, PASSWORD } from './product.js';

/** The first leave nothing behind that the next would see; then work begins, and ends with a device that is erased. */
test.describe('a new shop', () => {
  const shop = sharedProduct();

  test('a session that ends in one browser shows nothing of the shop in its other tabs', async ({
    technician,
  }) => {
    await technician.signIn(shop().address);
    const tab = new Technician(await technician.page.context().newPage());
    await tab.page.goto(shop().address);
    await expect(tab.heading('Counter')).toBeVisible();
    await technician.page.getByRole('button', { name: 'Sign out' }).click();
    await expect(tab.page.getByRole('button', { name: 'Sign in' })).toBeVisible();
    await expect(tab.page.getByText('Tamsin')).toBeHidden();
  });

  test('a browser that was never here fetches little for the counter, and nothing of it again', async ({
    technician,
  }) => {
    const { page } = technician;
    const fetched = () =>
      page.evaluate(() =>
        (performance.getEntriesByType('resource') as PerformanceResourceTiming[])
          .filter(({ name }) => name.includes('/assets/'))
          .reduce((sum, { transferSize }) => sum + transferSize, 0),
      );
    await technician.signIn(shop().address);
    const cold = await fetched();
    expect(cold).toBeGreaterThan(100_000);
    expect(cold).toBeLessThanOrEqual(350_000);
    await page.reload();
    await expect(technician.heading('Counter')).toBeVisible();
    expect(await fetched()).toBe(0);
    technician.expectQuiet();
  });

  test('a server that goes away is said to be away, and everything is true again when it is back', async ({
    technician,
  }) => {
    const { page, main } = technician;
    await technician.signIn(shop().address);
    await expect(technician.berth(1)).toContainText('Unlock the phone');
    process.kill(shop().serverPid() ?? 0, 'SIGKILL');
    await expect(page.getByText('The connection to the server is lost.')).toBeVisible();
    await openOwned(shop());
    await expect(page.getByText('The connection to the server is lost.')).toBeHidden();
    await expect(technician.berth(1)).toContainText('Open a ticket for it.');
    await expect(main.getByRole('link', { name: 'Open a ticket' })).toBeVisible();
  });

  test('nothing connected, nothing kept: every empty place says how to fill it', async ({
    technician,
  }) => {
    const { page, main } = technician;
    await shop().press(OWNED, { do: 'pull-cable' });
    await technician.signIn(shop().address);
    await expect(
      technician.now('Nothing needs you. Connect a device to a free berth to begin.'),
    ).toBeVisible();
    await expect(main.getByText('No device is connected. Plug one into any berth.')).toBeVisible();
    await expect(main.getByText('No ticket is open.')).toBeVisible();
    await technician.looksSound('empty counter');
    await page.goto(`${shop().address}/tickets/99999999`);
    await expect(main.getByRole('alert')).toContainText('There is no ticket 99999999.');
    technician.refusalsExpected += 2;
    await page.goto(`${shop().address}/nowhere`);
    await expect(technician.heading('Nothing here')).toBeVisible();
    await technician.looksSound('nowhere');
    technician.expectQuiet();
  });

  test('what is regular, the day and the house rules: empty at first, and sound in both themes', async ({
    technician,
  }) => {
    const product = shop();
    const { page, main } = technician;
    await technician.signIn(product.address);
    await page.getByRole('link', { name: 'Regular' }).click();
    await expect(main.getByText('Nothing is taken regularly.')).toBeVisible();
    await technician.looksSound('nothing regular');
    await page.getByRole('link', { name: 'Today' }).click();
    await expect(main.getByText('Nothing ran on this day.')).toBeVisible();
    await technician.looksSound('an empty day');
    await page.getByRole('link', { name: 'House rules' }).click();
    await main.getByLabel('Pattern').fill('{ticket}_{moon}');
    await expect(main.getByText('There is no part called {moon}.')).toBeVisible();
    await main.getByLabel('Pattern').fill('{date}_{ticket}_{device}');
    await expect(main.getByText('2026-11-25_26110007_tamsins-phone')).toBeVisible();
    await technician.looksSound('house rules');
    await main.getByRole('button', { name: 'Save the house rules' }).click();
    await expect(main.getByText('Saved.')).toBeVisible();
    await page.goto(`${product.address}/tickets/new`);
    await main.getByLabel('Name').fill('Bram Saltgate');
    await main.getByLabel('The customer agreed').click();
    await main.getByLabel('Make').fill('Marl');
    await page.keyboard.press('Enter');
    await expect(main.getByText('Type the model.')).toBeVisible();
    await technician.looksSound('described device');
    await main.getByLabel('Model').fill('Fell 2');
    await page.keyboard.press('Enter');
    await expect(technician.heading(/^Ticket/)).toBeVisible();
    await expect(technician.now(/put what was recovered into “incoming” on a rack/)).toBeVisible();
    technician.expectQuiet();
  });

  test('the whole way to a running backup with the keyboard alone', async ({ technician }) => {
    const product = shop();
    const { page, main } = technician;
    await product.press(OWNED, { do: 'plug', berth: 1 });
    await openOwned(product);
    await technician.signIn(product.address);
    await expect(technician.berth(1)).toContainText('Open a ticket');
    await page.keyboard.press('Alt+1');
    await expect(technician.heading('New ticket')).toBeVisible();
    await expect(main.getByLabel('Name')).toBeFocused();
    await page.keyboard.type('Orla Wickbank');
    for (let i = 0; i < 4; i++) await page.keyboard.press('Tab');
    await page.keyboard.press('Enter');
    await page
      .getByRole('option', { name: /^(Mon|Tue|Wed|Thu|Fri|Sat|Sun) \d+ \w+ \d{4}, 12:00/ })
      .first()
      .focus();
    await page.keyboard.press('Enter');
    // No hands are quicker than the list closes.
    await expect(page.locator(':focus')).toHaveRole('combobox');
    await page.keyboard.press('Tab');
    await expect(main.getByLabel('The customer agreed')).toBeFocused();
    await page.keyboard.press('Space');
    // No escrow is set up in this shop: it is not offered.
    for (let i = 0; i < 2; i++) await page.keyboard.press('Tab');
    await expect(main.getByLabel('Keep it for')).toBeFocused();
    await technician.looksSound('intake');
    await page.keyboard.press('Enter');
    await expect(technician.heading(/^Ticket/)).toBeVisible();
    await expect(main.getByText(/Ready by \d+ \w+ \d{4}, 12:00/)).toBeVisible();

    // The rack with most room is chosen already; an arrow takes the other.
    const racks = main.getByRole('radiogroup', { name: 'Rack' });
    await racks.getByRole('radio', { checked: true }).focus();
    // Held until the other has the focus: a key that is let go before a slow page heard it moves the focus and chooses nothing.
    const other = racks.getByRole('radio', { name: /Birch/ });
    await page.keyboard.down('ArrowRight');
    await expect(other).toBeFocused();
    await page.keyboard.up('ArrowRight');
    await expect(other).toBeChecked();
    await page.keyboard.press('Tab');
    await expect(main.getByLabel('The password is')).toBeFocused();
    await page.keyboard.press('Tab');
    await expect(main.getByLabel('Password of the backup')).toBeFocused();
    await page.keyboard.type('402917');
    await expect(main.getByText('A PIN of 6 digits is not a password')).toBeVisible();
    await expect(main.getByRole('button', { name: 'Take the full backup' })).toBeDisabled();
    await main.getByLabel('Password of the backup').fill('');
    await page.keyboard.type(PASSWORD);
    await page.keyboard.press('Tab');
    await page.keyboard.type('something else');
    await expect(main.getByText('The two are not the same.')).toBeVisible();
    await main.getByLabel('The same again').fill('');
    await page.keyboard.type(PASSWORD);
    await page.keyboard.press('Enter');
    await expect(main.getByRole('button', { name: 'Prove it' })).toBeVisible();
    await page.getByRole('link', { name: 'Archives' }).click();
    await expect(main.getByRole('row', { name: /Orla Wickbank .* Birch/ })).toBeVisible();

    await page.keyboard.press('?');
    await expect(page.getByRole('dialog', { name: 'Keys' })).toContainText('Scan a label');
    await technician.looksSound('keys');
    await page.keyboard.press('Escape');
    await page.keyboard.press('g');
    await page.keyboard.press('c');
    await expect(technician.heading('Counter')).toBeVisible();
  });

  test('erasing is refused without a proof, and asks for the serial with one', async ({
    technician,
  }) => {
    const product = shop();
    const { page, main } = technician;
    await technician.signIn(product.address);
    const openDialogue = async () => {
      await main.getByRole('button', { name: 'More for berth 1' }).click();
      await page.getByRole('menuitem', { name: 'Erase this device …' }).click();
      return page.getByRole('dialog', { name: 'Erase this device' });
    };
    const refused = await openDialogue();
    await expect(refused.getByRole('alert')).toContainText('has not been proven');
    await technician.looksSound('erase refused');
    await page.keyboard.press('Escape');

    const api = await Api.signedIn(product);
    await api.provenBackup(OWNED);
    const allowed = await openDialogue();
    await expect(allowed).toContainText(/Everything on Tamsin’s phone is lost: \d+ items/);
    const button = allowed.getByRole('button', { name: 'Erase everything on it' });
    await expect(button).toBeDisabled();
    await allowed.getByLabel('Last four characters').fill('0000');
    await button.click();
    await expect(allowed.getByRole('alert')).toContainText('not the last characters');
    technician.refusalsExpected += 1;
    await allowed.getByLabel('Last four characters').fill('4q81');
    await technician.looksSound('erase');
    await button.click();
    await expect(allowed).toBeHidden();
    await expect(main.getByRole('row', { name: /VA7K2204Q81/ })).toContainText('empty');
    technician.expectQuiet();
  });
});
