import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { Api } from './api.js';
import { expect, test } from './counter.js';
import { startTestProduct, MARL, openMarl } from './product.js';

/** A point. */
const KETTLE = Buffer.from(
  'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
  'base64',
);
const csv = [
  'Date;Sender;With;Message;attachment',
  '25/11/2026 14:05;Hester Quince;Hester Quince;Is the lamp still for sale?;',
  '25/11/2026 14:09;me;Hester Quince;Yes, and the kettle too.;hester/kettle.png',
  ';me;Hester Quince;When?;',
].join('\r\n');

test('messages back from a file that a spreadsheet wrote: mapped, checked, brought back with its picture', async ({
  technician,
}) => {
  const product = await startTestProduct({ only: [MARL] });
  try {
    const { page, main } = technician;
    await openMarl(product);
    const api = await Api.signedIn(product);
    const ticket = await api.openTicket(MARL);
    await technician.signIn(product.address);
    await page.goto(`${product.address}/tickets/${ticket}`);
    await main.getByRole('link', { name: 'Messages back …' }).click();
    await expect(technician.now(/^Choose the file/)).toBeVisible();
    await technician.looksSound('a file to be chosen');
    const choose = (name: string, text: string) =>
      main
        .locator('input[type=file]')
        .setInputFiles({ name, mimeType: 'text/csv', buffer: Buffer.from(text) });
    technician.refusalsExpected = 1;
    await choose('notes.csv', 'only words');
    await expect(main.getByText(/no file of messages or calls that can be read/)).toBeVisible();
    await choose('messages.csv', csv);

    // Nobody on the device is called so: their number is asked for.
    const numbers = main.getByRole('form', { name: 'Numbers of names' });
    await numbers.getByLabel('Hester Quince').fill('+44 7700 900777');
    await page.keyboard.press('Enter');
    await expect(main.getByRole('cell', { name: 'Is the lamp still for sale?' })).toBeVisible();
    await expect(main.getByText('Line 3: Nobody can tell when it was.')).toBeVisible();
    await expect(main.getByText(/^1 line came with a picture or a file/)).toBeVisible();
    await technician.looksSound('a file as it is read');
    const beside = test.info().outputPath('hester');
    mkdirSync(beside, { recursive: true });
    writeFileSync(join(beside, 'kettle.png'), KETTLE);
    writeFileSync(join(beside, 'another.png'), KETTLE);
    await main.locator('input[type=file]').setInputFiles(beside);
    await expect(main.getByText('2 files read: 1 belongs to a line of it.')).toBeVisible();
    await expect(main.getByText('1 picture or file goes back with them.')).toBeVisible();
    await main.getByRole('button', { name: 'See what would come back' }).click();
    await expect(main.getByRole('row', { name: /^Messages/ })).toContainText('3 messages');
    await main.getByLabel('Serial, last 4').fill('4-KX');
    await page.keyboard.press('Enter');
    await expect(main.getByText('Brought back')).toBeVisible();
    await technician.looksSound('messages that are back');
    await main.getByRole('link', { name: /^Go on with ticket/ }).click();
    await expect(main.getByText(/3 items brought back, each read back/)).toBeVisible();
    technician.expectQuiet();
  } finally {
    await product.stop();
  }
});
