import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import { expect, test } from './counter.js';
import { openOwned, OWNED, PASSWORD } from './product.js';

test('a cable pulled in the middle of a backup: a clear error, no half archive, and it goes on', async ({
  product,
  technician,
}) => {
  const { page, main } = technician;
  await openOwned(product);
  await technician.signIn(product.address);
  await technician.openTicket();
  // Only now: what is read for the estimate passes over the same cable.
  await expect(main.getByText('as measured')).toBeVisible();
  await product.press(OWNED, { do: 'faults', faults: { rate: 100_000 } });
  await technician.startBackup();
  await expect(technician.berth(1)).toContainText('Taking items');
  // Not before it was seen at work, and with the greater part of it still to come.
  await product.press(OWNED, { do: 'faults', faults: { cutAfterBytes: 900_000, rate: 1_000_000 } });

  const alert = main.getByRole('alert');
  await expect(alert).toContainText('left the bench before all of it was taken');
  await expect(alert).toContainText('What was taken is kept on the rack.');
  await expect(alert).toContainText('Check the cable');
  await expect(technician.berth(1)).toContainText('Free');
  await technician.looksSound('cut backup');

  await page.getByRole('link', { name: 'Archives' }).click();
  await expect(main.getByText('Nothing is kept yet.').first()).toBeVisible();
  for (const rack of ['alder', 'birch']) {
    const named = readdirSync(join(product.data, 'racks', rack)).filter((n) => !n.startsWith('.'));
    expect(named).toEqual([]);
  }

  // The device comes back, and the same backup goes on.
  await product.press(OWNED, { do: 'plug', berth: 3 });
  await openOwned(product);
  await page.goBack();
  await product.press(OWNED, { do: 'faults', faults: { rate: null } });
  await expect(main.getByText('are safe on the rack and are not sent again')).toBeVisible();
  await main.getByLabel('Password of the backup').fill(PASSWORD);
  await main.getByRole('button', { name: 'Let it go on' }).click();
  await expect(main.getByRole('button', { name: 'Prove it' })).toBeVisible();
  technician.expectQuiet();
});
