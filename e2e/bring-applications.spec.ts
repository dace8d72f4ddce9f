import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Rack } from '@bright-cellar/contract';
import { Api } from './api.js';
import { expect, test } from './counter.js';
import { startTestProduct, MARL, openMarl } from './product.js';

const OTHER = 'marl-fell-5';

test('packages dragged onto a berth, and chosen for another device: what becomes of each is said before', async ({
  technician,
}) => {
  const product = await startTestProduct({ only: [MARL, OTHER] });
  try {
    const { page, main } = technician;
    await openMarl(product);
    const api = await Api.signedIn(product);
    const ticket = await api.openTicket(MARL);
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
  } finally {
    await product.stop();
  }
});
