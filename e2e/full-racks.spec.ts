import { execFileSync } from 'node:child_process';
import { rmSync, statfsSync, writeFileSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import mysql from 'mysql2/promise';
import { expect, test } from './counter.js';
import { openOwned, OWNED, PASSWORD } from './product.js';

test('racks without room: said before the start, and when one fills up in the middle nothing is lost', async ({
  product,
  technician,
}) => {
  const { main } = technician;
  const racks = ['alder', 'birch'].map((name) => join(product.data, 'racks', name));
  const filler = (rack: string) => join(rack, '.filler');
  /** Leaves so many bytes free, or none. */
  const fill = (rack: string, leave: number) => {
    const { bavail, bsize } = statfsSync(rack);
    writeFileSync(filler(rack), Buffer.alloc(Math.max(0, bavail * bsize - leave)));
  };
  const db = await mysql.createConnection(product.databaseSetupUrl);
  await db.query('update racks set reserve = 100000');
  await db.end();
  for (const rack of racks) {
    // Another, small drive in its place, which says that it is the same rack.
    const marker = readFileSync(join(rack, '.bright-cellar-rack'));
    execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=40m', 'tmpfs', rack]);
    writeFileSync(join(rack, '.bright-cellar-rack'), marker);
  }
  try {
    for (const rack of racks) fill(rack, 300_000);
    await openOwned(product);
    await technician.signIn(product.address);
    await technician.openTicket();
    await expect(main.getByText(/Make room on a rack, or take less/)).toBeVisible();
    await expect(
      main.getByText('No rack has room for this: make room, or take less.'),
    ).toBeVisible();
    await main.getByLabel('Password of the backup').fill(PASSWORD);
    await main.getByLabel('The same again').fill(PASSWORD);
    await expect(main.getByRole('button', { name: 'Take the full backup' })).toBeDisabled();
    await technician.looksSound('no rack has room');

    for (const rack of racks) rmSync(filler(rack));
    await technician.page.reload();
    await expect(main.getByText('as measured')).toBeVisible();
    await product.press(OWNED, { do: 'faults', faults: { rate: 200_000 } });
    await technician.startBackup();
    await expect(main.getByText(/^[1-9]\d? %$/)).toBeVisible();
    for (const rack of racks) fill(rack, 0);
    const alert = main.getByRole('alert');
    await expect(alert).toContainText('The rack filled up before all of it was taken');
    await expect(main.getByText('are safe on the rack and are not sent again')).toBeVisible();
    await technician.looksSound('a rack that filled up');

    for (const rack of racks) rmSync(filler(rack));
    await product.press(OWNED, { do: 'faults', faults: { rate: null } });
    await main.getByLabel('Password of the backup').fill(PASSWORD);
    await main.getByRole('button', { name: 'Let it go on' }).click();
    await expect(main.getByRole('button', { name: 'Prove it' })).toBeVisible();
    await technician.prove(PASSWORD);
    await expect(main.getByRole('listitem', { name: 'Prove it' })).toContainText(
      'every item read back',
    );
    technician.expectQuiet();
  } finally {
    for (const rack of racks) execFileSync('umount', ['-l', rack]);
  }
});
