import type { Ticket } from '@bright-cellar/contract';
import { Api } from './api.js';
import { expect, test } from './counter.js';
import {
  PASSWORD,
  startTestProduct,
  MARL as PHONE,
  QUILLON as HANDSET,
  openMarl,
} from './product.js';

test('a phone, the same customer’s handset and a backup of it: what one lacks comes from the other, with the keyboard', async ({
  technician,
}) => {
  const product = await startTestProduct({ only: [PHONE, HANDSET] });
  try {
    const { page, main } = technician;
    await openMarl(product);
    const api = await Api.signedIn(product);
    const ticket = await api.openTicket(PHONE);
    const { body } = await api.get<Ticket>(`/api/tickets/${ticket}`);
    const handsets = await api.openTicket(HANDSET, { customer: { id: body.customer.id } });
    for (const number of [ticket, handsets]) await api.agree(number, 'look-in');
    const taken = await api.ended((await api.startBackup(handsets)).body.id);

    /** Looked at, and then written, with the keyboard. */
    const written = async (table: string, screen: string) => {
      await main.getByRole('button', { name: 'See what would change' }).focus();
      await page.keyboard.press('Enter');
      await expect(main.getByRole('table', { name: table })).toBeVisible();
      await technician.looksSound(screen);
      await main.getByLabel('Serial, last 4').fill('4-KX');
      await page.keyboard.press('Enter');
      await expect(main.getByText('Written on the other side')).toBeVisible();
    };

    await technician.signIn(product.address);
    await page.goto(`${product.address}/tickets/${ticket}`);
    await main.getByRole('link', { name: 'In step with their own books …' }).click();
    await expect(main.getByText('Look into one first')).toBeVisible();
    // What is looked into is offered; it only gives.
    await api.post(`/api/backups/${taken.backupId}/look-ins`, {
      ...{ password: PASSWORD, reason: 'memos onto the phone' },
    });
    await main.getByRole('button', { name: new RegExp(`ticket ${handsets}$`) }).focus();
    await page.keyboard.press('Enter');
    await expect(main.getByLabel('Contacts: which way')).toContainText('Only onto the device');
    await main.getByRole('checkbox', { name: /memo/i }).check();
    await written('Memos on both sides', 'a device and a backup');
    await main.getByRole('button', { name: 'Choose another side' }).click();

    // By itself, from now on, with the handset.
    await main.getByRole('button', { name: /berth 4$/ }).focus();
    await page.keyboard.press('Enter');
    await written('Contacts on both sides', 'two devices in step');
    await main.getByRole('button', { name: 'Keep it in step by itself' }).focus();
    await page.keyboard.press('Enter');
    await expect(main.getByText(/whenever both are connected/)).toBeVisible();
    await main.getByRole('link', { name: 'Regular' }).last().click();
    await expect(main.getByRole('cell', { name: /^Kept in step with Ferry office/ })).toBeVisible();
    technician.expectQuiet();
  } finally {
    await product.stop();
  }
});
