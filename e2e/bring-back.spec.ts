import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Rack } from '@bright-cellar/contract';
import { Api } from './api.js';
import { expect, sharedProduct, test } from './counter.js';
import { MARL, openMarl } from './product.js';

const OTHER = 'marl-fell-5';
const shop = sharedProduct({ only: [MARL, OTHER] });

/** The phone lies on the bench, unlocked and approved, with a ticket. */
async function ticketOfMarl() {
  const product = shop();
  await openMarl(product);
  const api = await Api.signedIn(product);
  return { product, api, ticket: await api.openTicket(MARL) };
}

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
  const { product, ticket } = await ticketOfMarl();
  const { page, main } = technician;
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
});

test('packages dragged onto a berth, and chosen for another device: what becomes of each is said before', async ({
  technician,
}) => {
  const { product, api, ticket } = await ticketOfMarl();
  const { page, main } = technician;
  await api.agree(ticket, 'look-in');
  const [rack] = (await api.get<Rack[]>('/api/racks')).body;
  const what = { kind: 'applications', applications: ['crossword', 'tide-table'] };
  const taking = { rackId: rack?.id, what };
  await api.ended((await api.post(`/api/tickets/${ticket}/extracts`, taking)).body.id);
  const name = 'crossword.application.zip';
  const bytes = readFileSync(join(product.data, 'racks/alder/extracts', ticket, name));
  await technician.signIn(product.address);

  const files = await page.evaluateHandle(
    ([base64, called]) => {
      const transfer = new DataTransfer();
      const contents = Uint8Array.from(atob(base64 ?? ''), (c) => c.charCodeAt(0));
      transfer.items.add(new File([contents], called ?? '', { type: 'application/zip' }));
      return transfer;
    },
    [bytes.toString('base64'), name],
  );
  await page.dispatchEvent('[data-berth="3"]', 'drop', { dataTransfer: files });
  await expect(main.getByRole('heading', { name: /^Applications back/ })).toBeVisible();
  await expect(main.getByRole('row', { name: /^Crossword/ })).toHaveCount(2);
  await expect(main.getByRole('row', { name: /^Tide/ })).toContainText(
    'does not offer it any more',
  );
  await technician.looksSound('packages for a device');

  // Onto the empty one instead, with the keyboard.
  await product.press(OTHER, { do: 'plug', berth: 2 });
  await product.press(OTHER, { do: 'charge', percent: 90 });
  await product.press(OTHER, { do: 'workshop-port', state: 'on' });
  await product.press(OTHER, { do: 'approve', passcode: '' });
  await main.getByRole('combobox', { name: 'Device' }).press('Enter');
  await page.getByRole('option', { name: /Berth 2/ }).press('Enter');
  await main
    .getByRole('row', { name: /^Crossword/ })
    .last()
    .getByRole('checkbox')
    .focus();
  await page.keyboard.press('Space');
  await main.getByLabel('Serial, last 4').fill('7-BN');
  await page.keyboard.press('Enter');
  await expect(main.getByText('Applications, whole')).toBeVisible();
  await technician.looksSound('applications that are back');
  await main.getByRole('link', { name: /^Go on with ticket/ }).click();
  await expect(main.getByText(/2 applications brought back/)).toBeVisible();
  technician.expectQuiet();
});
