import { join } from 'node:path';
import { RADICALE_PASSWORD, RADICALE_USER, startRadicale } from '@bright-cellar/rack-stand-ins';
import { expect, test } from './counter.js';
import { startTestProduct } from './product.js';
import { notesIn, writeNotes } from './two-sides.js';

const HANDSET = 'quillon-q40';

test('a handset and the customer’s own books: looked at, decided by keyboard, written, taken back; then by itself, once they want it', async ({
  technician,
}) => {
  const product = await startTestProduct({ only: [HANDSET] });
  const radicale = await startRadicale();
  try {
    const { page, main } = technician;
    await technician.goesInStep(product, HANDSET);

    await expect(technician.now(/^Choose whom/)).toBeVisible();
    await technician.looksSound('a server to be opened');
    const signIn = async (password: string) => {
      await main.getByLabel('Address').fill(radicale.address);
      await main.getByLabel('Name they sign in with').fill(RADICALE_USER);
      await main.getByLabel('Password').fill(password);
      await page.keyboard.press('Enter');
    };
    technician.refusalsExpected = 1;
    await signIn('another');
    await expect(main.getByText(/does not let one in/)).toBeVisible();
    await signIn(RADICALE_PASSWORD);

    const see = () => main.getByRole('button', { name: 'See what would change' }).click();
    const write = async () => {
      await main.getByLabel('Serial, last 4').fill('8822');
      await page.keyboard.press('Enter');
      await expect(main.getByText('Written on the other side')).toBeVisible();
    };
    const comesBack = async () => {
      await product.press(HANDSET, { do: 'pull-cable' });
      await product.press(HANDSET, { do: 'plug', berth: 1 });
    };
    await see();
    const contacts = main.getByRole('table', { name: 'Contacts on both sides' });
    await expect(contacts.getByRole('row')).toHaveCount(13);
    await technician.looksSound('what would change');
    await write();

    // Two people are changed on both sides.
    const cards = {
      device: join(product.data, 'bench/devices', HANDSET, 'contents/contacts/NamesDB'),
      server: radicale.folderOf('people'),
    };
    writeNotes(cards.device, { Dunholt: 'Met at the ferry', Fernholt: 'Met at the ferry' });
    writeNotes(cards.server, { Dunholt: 'Sings alto', Fernholt: 'Sings alto' });
    await comesBack();
    await expect(page.getByRole('link', { name: /Berth 1/ })).toContainText('Open and readable');
    await see();
    await expect(contacts.getByText('They differ')).toHaveCount(2);
    await technician.looksSound('what both changed');
    await contacts
      .getByRole('button', { name: /^As on the device: / })
      .first()
      .focus();
    await page.keyboard.press('Enter');
    await expect(contacts.getByText('They differ')).toHaveCount(1);
    // The next one that waits has the keyboard.
    await page.keyboard.press('Tab');
    await page.keyboard.press('Tab');
    await page.keyboard.press('Enter');
    await expect(contacts.getByText('They differ')).toHaveCount(0);
    await write();
    const notes = () =>
      notesIn(cards.server).filter((note) => ['Met at the ferry', 'Sings alto'].includes(note));
    expect(notes()).toEqual(['Met at the ferry', 'Sings alto']);

    await main.getByLabel('Serial, last 4').fill('8822');
    await main.getByRole('button', { name: 'Take it back' }).click();
    await expect(technician.now(/^Both are as they were/)).toBeVisible();
    expect(notes()).toEqual(['Sings alto', 'Sings alto']);
    await main.getByRole('button', { name: 'Close their books' }).click();
    await expect(main.getByLabel('Address')).toHaveValue('');

    await signIn(RADICALE_PASSWORD);
    await see();
    await write();
    await technician.looksSound('what was written, and by itself');
    await main.getByRole('button', { name: 'Keep it in step by itself' }).focus();
    await page.keyboard.press('Enter');
    await expect(main.getByText(/^From now on/)).toBeVisible();
    await main.getByRole('button', { name: 'Close their books' }).click();
    // What they write on the handset is in their books after it came; what both changed is left to people.
    writeNotes(cards.device, { Oakdale: 'Moved inland' });
    await comesBack();
    await expect.poll(() => notesIn(cards.server)).toContain('Moved inland');
    expect(notes()).toEqual(['Sings alto', 'Sings alto']);
    await page.goto(`${product.address}/regular`);
    await expect(main.getByText(/In step/i).first()).toBeVisible();
    await technician.looksSound('what is regular');
    technician.expectQuiet();
  } finally {
    await product.stop();
    await radicale.stop();
  }
});
