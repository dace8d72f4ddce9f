import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { freePort } from '../scripts/lib/ports.mjs';
import { startProduct } from '../scripts/lib/product.mjs';
import { newSetUpCode } from '../scripts/lib/set-up-code.mjs';
import { expect, test } from './counter.js';
import { Api } from './api.js';
import { SIGN_IN, type Product, JOSS } from './product.js';

/** A picture of one colour. */
const DOT =
  'iVBORw0KGgoAAAANSUhEUgAAAAwAAAAGCAIAAAB4jOjWAAAAEUlEQVR42mM4UaFBEDEMVUUAFzJlQewByPMAAAAASUVORK5CYII=';

test('a new shop, with the keyboard alone: its keeper, what comes first, and somebody who learns', async ({
  technician,
}) => {
  const data = mkdtempSync(join(tmpdir(), 'cellar-shop-'));
  const setUpCode = newSetUpCode();
  const shop = await startProduct({
    ...{ data, port: await freePort(), benchPort: await freePort(), setUpCode },
    ...{ demo: 'none', quiet: true },
  });
  const { page, main } = technician;
  const { keyboard } = page;
  try {
    await page.goto(shop.address);
    await expect(page.getByLabel('Code')).toBeFocused();
    await technician.looksSound('first visit');
    for (const typed of [
      ...[setUpCode.toUpperCase(), 'Quayside Repairs', '2 Quay, Netherby'],
      ...['Orla Wickbank', 'orla', 'lantern moths ferry nine', 'lantern moths ferry nine'],
    ]) {
      await keyboard.type(typed);
      await keyboard.press('Tab');
    }
    await keyboard.press('Enter');
    await expect(technician.heading('First steps')).toBeVisible();
    await expect(technician.now('Add the first rack')).toBeVisible();
    await expect(page.getByText('Quayside Repairs')).toBeVisible();

    await main.getByRole('listitem', { name: 'Logo' }).getByRole('link').press('Enter');
    const picture = Buffer.from(DOT, 'base64');
    await page
      .getByLabel('Picture for the papers')
      .setInputFiles({ name: 'lamp.png', mimeType: 'image/png', buffer: picture });
    await expect(main.getByRole('img', { name: 'The logo, as it stands on papers' })).toBeVisible();
    await technician.looksSound('house rules with a logo');

    await page.getByRole('link', { name: 'People' }).press('Enter');
    await expect(main.getByText('One person keeps this shop.')).toBeVisible();
    await technician.looksSound('people');
    await main.getByRole('button', { name: 'Add somebody' }).press('Enter');
    for (const typed of ['Joss Kelholt', 'joss', 'copper boats under snow']) {
      await keyboard.type(typed);
      await keyboard.press('Tab');
    }
    await page.getByLabel('Works as').click();
    await page.getByRole('option', { name: 'Trainee' }).press('Enter');
    await technician.looksSound('somebody new');
    await page.getByRole('button', { name: 'Add them' }).press('Enter');
    await expect(main.getByRole('cell', { name: 'Trainee' })).toBeVisible();

    await page.getByRole('button', { name: 'Sign out' }).press('Enter');
    await page.getByLabel('Name').fill('joss');
    await page.getByLabel('Password').fill('copper boats under snow');
    await keyboard.press('Enter');
    await expect(technician.heading('Counter')).toBeVisible();
    // Nothing is offered that is not theirs.
    await expect(page.getByRole('link', { name: 'House rules' })).toBeVisible();
    await expect(page.getByRole('link', { name: 'People' })).toHaveCount(0);
    await keyboard.press('/');
    await keyboard.type('first steps');
    await expect(page.getByText('Nothing by that name.')).toBeVisible();
    await keyboard.press('Escape');
    await page.getByRole('link', { name: 'House rules' }).press('Enter');
    await expect(main.getByText('Only keepers may change this.')).toBeVisible();
    technician.expectQuiet();
  } finally {
    await shop.stop();
    rmSync(data, { recursive: true, force: true });
  }
});

test('how the shop is, who did what, a locked screen and a passkey, by keyboard', async ({
  product,
  technician,
}) => {
  const { page, main } = technician;
  const { keyboard } = page;
  // A passkey is for a name.
  const address = product.address.replace('127.0.0.1', 'localhost');
  await technician.signIn(address);

  await page.getByRole('link', { name: 'Condition' }).press('Enter');
  await expect(main.getByText('nobody made the recovery key')).toBeVisible();
  await technician.looksSound('condition');
  await main.getByRole('button', { name: 'Make the recovery key' }).press('Enter');
  await page.getByRole('button', { name: 'Make it and show it' }).press('Enter');
  const key = (await page.locator('[data-recovery-key]').innerText()).replaceAll(' ', '');
  await technician.looksSound('recovery key');
  await page.getByLabel(/^Its last 6 signs/).fill(key.slice(-6));
  await keyboard.press('Enter');
  await expect(main.getByText(/^Sealed to the recovery key/)).toBeVisible();
  await main.getByRole('button', { name: 'Save it now' }).press('Enter');
  await expect(main.getByRole('cell', { name: 'read back, whole' }).first()).toBeVisible();

  await main.getByRole('link', { name: 'Other computers and phones' }).press('Enter');
  await expect(technician.now('Only this computer reaches the program.')).toBeVisible();
  await technician.looksSound('network');
  await page.getByRole('link', { name: 'Record' }).press('Enter');
  await expect(main.getByText('The catalogue was saved onto')).toBeVisible();
  await main.getByRole('button', { name: 'Check the record' }).press('Enter');
  await expect(main.getByText(/entries follow each other/)).toBeVisible();
  await technician.looksSound('record');
  await page.goto(`${address}/day?sheet=closing`);
  await expect(main.getByText('Nothing runs: devices can be handed out')).toBeVisible();
  await technician.looksSound('closing sheet');

  await page.goto(`${address}/account`);
  await main.getByLabel('Present password, for the PIN').fill(SIGN_IN.password);
  await main.getByLabel('PIN', { exact: true }).fill('493027');
  await keyboard.press('Enter');
  await expect(main.getByText('It holds from now on.')).toBeVisible();
  const devices = await page.context().newCDPSession(page);
  await devices.send('WebAuthn.enable');
  await devices.send('WebAuthn.addVirtualAuthenticator', {
    options: {
      ...{ protocol: 'ctap2', transport: 'internal', hasResidentKey: true },
      ...{ hasUserVerification: true, isUserVerified: true, automaticPresenceSimulation: true },
    },
  });
  await main.getByLabel('Present password, for these').fill(SIGN_IN.password);
  await main.getByLabel('Name of a passkey').fill('Counter');
  await main.getByRole('button', { name: 'Add a passkey' }).press('Enter');
  await expect(main.getByText(/^Counter, since/)).toBeVisible();
  await technician.looksSound('account');

  // What is typed is there again behind the lock, and nobody sees it meanwhile.
  await page.getByRole('link', { name: 'House rules' }).press('Enter');
  await main.getByLabel('Pattern').fill('{ticket} half typed');
  await keyboard.press('Control+Shift+L');
  await expect(page.getByRole('heading', { name: SIGN_IN_NAME })).toBeVisible();
  await expect(page.getByLabel('Pattern')).toBeHidden();
  await technician.looksSound('locked');
  await expect(page.getByLabel('PIN or password')).toBeFocused();
  await keyboard.type('493027');
  await keyboard.press('Enter');
  await expect(main.getByLabel('Pattern')).toBeFocused();
  await expect(main.getByLabel('Pattern')).toHaveValue('{ticket} half typed');

  // Also what is open over the page, which no key or press closes meanwhile.
  await page.getByRole('link', { name: 'People' }).press('Enter');
  await main.getByRole('button', { name: 'Make a role' }).press('Enter');
  await page.getByLabel('What it is called').fill('Half a role');
  await keyboard.press('Control+Shift+L');
  await expect(page.getByLabel('PIN or password')).toBeFocused();
  await technician.looksSound('locked over something open');
  const onTop = await page.evaluate(
    () => document.elementFromPoint(640, 300)?.closest('[role=dialog]')?.textContent,
  );
  expect(onTop).toContain('This screen is locked.');
  await keyboard.press('Escape');
  await page.mouse.click(60, 60);
  await page.getByLabel('PIN or password').fill('493027');
  await keyboard.press('Enter');
  await expect(page.getByLabel('PIN or password')).toHaveCount(0);
  await expect(page.getByLabel('What it is called')).toBeFocused();
  await expect(page.getByLabel('What it is called')).toHaveValue('Half a role');
  await keyboard.press('Escape');

  // Whoever takes the counter over finds nothing of who was there before.
  await page.getByRole('link', { name: 'House rules' }).press('Enter');
  await main.getByLabel('Pattern').fill('{ticket} of Wren');
  await setPinOf(product, JOSS, '820514');
  await keyboard.press('Control+Shift+L');
  await page.getByRole('combobox', { name: 'Take the counter over' }).click();
  await page.getByRole('option', { name: 'Joss Kelholt' }).click();
  await page.getByLabel('PIN', { exact: true }).fill('820514');
  await keyboard.press('Enter');
  await expect(page.getByRole('link', { name: 'Joss Kelholt' })).toBeVisible();
  await expect(main.getByLabel('Pattern')).not.toHaveValue('{ticket} of Wren');

  await page.getByRole('button', { name: 'Sign out' }).press('Enter');
  await page.getByRole('button', { name: 'With a passkey' }).press('Enter');
  await expect(technician.heading('Counter')).toBeVisible();
  technician.expectQuiet();
});

/** Somebody else of the shop chose a PIN, elsewhere. */
async function setPinOf(product: Product, who: { login: string; password: string }, pin: string) {
  const theirs = new Api(product);
  await theirs.signIn(who);
  await theirs.send('PUT', '/api/account/pin', { password: who.password, pin });
}

const SIGN_IN_NAME = 'Wren Gorsegate';
