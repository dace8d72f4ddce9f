import { mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { randomBytes } from 'node:crypto';
import { join } from 'node:path';
import { Api } from './api.js';
import { expect, sharedProduct, test } from './counter.js';
import { openOwned, OWNED, PASSWORD, SIGN_IN, JOSS } from './product.js';

/** One shop for all: escrow, which asks something more at every intake, comes last. */
test.describe('taking over, taking out, and escrow', () => {
  const shop = sharedProduct();

  test('what somebody recovered from a dead phone: put on a rack, taken over, proven, ready to restore', async ({
    technician,
  }) => {
    const product = shop();
    const { page, main } = technician;
    await technician.signIn(product.address);
    await page.goto(`${product.address}/tickets/new`);
    await main.getByLabel('Name').fill('Odette Marrow');
    await main.getByLabel('Make').fill('Marl');
    await main.getByLabel('Model').fill('Fell 2');
    await main.getByLabel('The customer agreed').click();
    await main.getByRole('button', { name: 'Open the ticket' }).click();
    await expect(main.getByText(/No folder waits on any rack/)).toBeVisible();
    await technician.looksSound('no recovered folder');

    // Somebody copies it there, while the page is open.
    const incoming = join(product.data, 'racks/birch/incoming');
    mkdirSync(join(incoming, 'b2f1-00003/photographs'), { recursive: true });
    for (let n = 0; n < 40; n++)
      writeFileSync(join(incoming, `b2f1-00003/photographs/${n}.jpg`), randomBytes(20_000));
    await expect(main.getByLabel('The folder that was recovered')).toContainText(
      'b2f1-00003, on Birch',
    );
    await expect(main.getByText('41 items, 800 kB')).toBeVisible();
    // What came on one rack is not proposed to stay there.
    await expect(main.getByRole('radio', { name: /^Alder/ })).toBeChecked();
    await main.getByLabel('Password of the backup').fill(PASSWORD);
    await main.getByLabel('The same again').fill(PASSWORD);
    await technician.looksSound('recovered folder');
    await page.keyboard.press('Enter');
    const step = main.getByRole('listitem', { name: 'Take it over' });
    await expect(step).toContainText(
      '41 items taken, 0 failed, 800 kB, as far as it was recovered.',
    );
    await technician.prove(PASSWORD);
    await expect(main.getByRole('listitem', { name: 'Prove it' })).toContainText('read back');
    await expect(main.getByRole('link', { name: 'Open the restore' })).toBeVisible();
    await page.getByRole('link', { name: 'Open its archive' }).click();
    await expect(main.getByText('What could not be recovered')).toBeVisible();
    await technician.looksSound('recovered archive');
    technician.expectQuiet();
  });

  test('an open file of the calls, regularly, and a game by itself: without a password, and where the customer agreed', async ({
    technician,
  }) => {
    const product = shop();
    const { page, main } = technician;
    const dialog = page.getByRole('dialog');
    await openOwned(product);
    await technician.signIn(product.address);
    const number = await technician.openTicket();
    const schedule = async () => {
      await main.getByRole('button', { name: 'Take it regularly' }).click();
      await dialog.getByLabel('What').click();
      await page.getByRole('option', { name: 'Call log' }).click();
      await dialog.getByLabel('As', { exact: true }).click();
      await page.getByRole('option', { name: /^CSV/ }).click();
      await dialog.getByLabel('How often').click();
      await page.getByRole('option', { name: /^Whenever/ }).click();
      await dialog.getByRole('button', { name: 'Keep it so' }).click();
    };
    await schedule();
    await expect(dialog.getByRole('alert')).toContainText(
      'has not agreed that the shop looks inside',
    );
    technician.refusalsExpected += 1;
    await technician.looksSound('refused schedule');
    await page.keyboard.press('Escape');

    await (await Api.signedIn(product)).agree(number, 'look-in');
    await page.reload();
    await schedule();
    await expect(technician.heading('Taken regularly')).toBeVisible();
    const row = main.getByRole('row', { name: /Call log, as CSV/ });
    await expect(row).toContainText('Whenever it is connected and has changed');
    await expect(row.getByRole('button', { name: 'Type its password' })).toBeHidden();
    await expect(row).toContainText(/\d\d:\d\d/);
    await technician.looksSound('a regular open file');
    const place = join(product.data, 'racks/alder/extracts', number);
    const [file = ''] = readdirSync(place).filter((name) => name.endsWith('.csv'));
    expect(readFileSync(join(place, file), 'utf8')).toMatch(
      /^key,at,thread,from,to,text,attachment\r\n/,
    );

    await page.goto(`${product.address}/tickets/${number}`);
    await main.getByRole('button', { name: 'Take only a part out' }).click();
    await dialog.getByLabel('What').click();
    await expect(page.getByRole('option', { name: 'Chats of Corbel' })).toBeVisible();
    await page.getByRole('option', { name: 'Single applications' }).click();
    await dialog.getByLabel(/^Pocket garden/).click();
    await technician.looksSound('single applications');
    await dialog.getByRole('button', { name: 'Take it out' }).click();
    // Refused, it says so here; anything else than the file would be told by name.
    const outcome = dialog.getByText('pocket-garden.application.zip').or(dialog.getByRole('alert'));
    await expect(outcome).toHaveText(/pocket-garden/);
    expect(readdirSync(place)).toContain('pocket-garden.application.zip');
    technician.expectQuiet();
  });

  test('escrow: two people set it up, and together open an archive whose password is lost', async ({
    technician,
  }) => {
    const product = shop();
    const { page, main } = technician;
    const dialog = page.getByRole('dialog');
    const people = [
      { ...SIGN_IN, phrase: 'copper anvil rising' },
      { ...JOSS, phrase: 'seven herons wading' },
    ];
    const fillPeople = async (phrases = people.map((p) => p.phrase)) => {
      for (const [i, { login, password }] of people.entries()) {
        const person = dialog.getByRole('group', {
          name: i === 0 ? 'First person' : 'Second person',
        });
        await person.getByLabel('Name to sign in with').fill(login);
        await person.getByLabel('Their sign-in password').fill(password);
        await person.getByLabel('Their own phrase').fill(phrases[i] ?? '');
      }
    };
    await openOwned(product);
    await technician.signIn(product.address);
    await page.getByRole('link', { name: 'House rules' }).click();
    await main.getByRole('button', { name: 'Set it up' }).click();
    await fillPeople();
    await technician.looksSound('escrow set-up');
    await dialog.getByRole('button', { name: 'Set it up' }).click();
    await expect(dialog).toBeHidden();

    const api = await Api.signedIn(product);
    const ticket = await api.openTicket(OWNED, {
      agreed: { backup: true, lookIn: false, escrow: true, keepDays: 30 },
    });
    const ended = await api.ended((await api.startBackup(ticket)).body.id);
    await page.goto(`${product.address}/archives/${ended.archiveId}`);
    const lost = async () => {
      await main.getByRole('button', { name: 'More to do with this archive' }).click();
      await page.getByRole('menuitem', { name: 'The password is lost' }).click();
      await fillPeople();
    };
    await lost();
    await dialog.getByLabel('New password').fill('orchard tin mile dune');
    await dialog.getByLabel('The same again').fill('orchard tin mile dune');
    await technician.looksSound('a lost password');
    await dialog.getByRole('button', { name: 'Give it another password' }).click();
    await expect(dialog).toBeHidden();
    await technician.prove(PASSWORD);
    await expect(main.getByRole('alert')).toContainText('does not open this backup');
    technician.refusalsExpected += 1;
    await technician.prove('orchard tin mile dune');
    await expect(technician.now(/Proven on/)).toBeVisible();
    technician.expectQuiet();
  });
});
