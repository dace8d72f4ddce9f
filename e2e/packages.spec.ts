import { execFileSync, spawnSync } from 'node:child_process';
import { mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import type { Archive } from '@bright-cellar/contract';
import { expect, test } from './counter.js';
import { PASSWORD } from './product.js';

const NEW_PASSWORD = 'a lamp for the ferry';

async function choose(page: Page, name: string): Promise<void> {
  await page.getByRole('button', { name: 'More to do with this archive' }).click();
  await page.getByRole('menuitem', { name }).click();
}

test('a package is written, opens with ordinary tools and comes back in; another password takes over', async ({
  product,
  technician,
}) => {
  const { page, main } = technician;
  const { api, archiveId } = await technician.openProvenArchive(product);
  await choose(page, 'Write a package to take along');
  const write = page.getByRole('dialog', { name: 'Write a package to take along' });
  await expect(write.getByRole('button', { name: 'Write the package' })).toBeDisabled();
  await write.getByRole('combobox', { name: 'As what' }).press('Enter');
  await page.getByRole('option', { name: /^One sealed file/ }).press('Enter');
  await write.getByLabel('Password of the archive').fill('not this one at all');
  await write.getByRole('button', { name: 'Write the package' }).click();
  await expect(write.getByRole('alert')).toContainText('does not open this backup');
  technician.refusalsExpected += 1;
  await technician.looksSound('write a package');
  await write.getByLabel('Password of the archive').fill(PASSWORD);
  await page.keyboard.press('Enter');
  await expect(main.getByText(/\.tar\.age/).first()).toBeVisible();

  // What lies there is one age file with a tree in it; age asks for the password at a terminal.
  const racks = ['alder', 'birch'].map((rack) => join(product.data, 'racks', rack, 'packages'));
  const found = racks.flatMap((rack) => {
    try {
      return readdirSync(rack).map((name) => join(rack, name));
    } catch {
      return [];
    }
  });
  expect(found).toHaveLength(1);
  const opened = mkdtempSync(join(tmpdir(), 'cellar-opened-'));
  try {
    const line = `age -d '${found[0] ?? ''}' > '${opened}/package.tar'`;
    const typed = spawnSync('script', ['-qec', line, '/dev/null'], { input: `${PASSWORD}\n` });
    expect(typed.status).toBe(0);
    execFileSync('tar', [
      'x',
      '--warning=no-timestamp',
      '-C',
      opened,
      '-f',
      join(opened, 'package.tar'),
    ]);
    const [top = ''] = readdirSync(opened).filter((name) => name !== 'package.tar');
    execFileSync('b2sum', ['-c', '--quiet', 'checksums.b2'], { cwd: join(opened, top) });
  } finally {
    rmSync(opened, { recursive: true, force: true });
  }

  await choose(page, 'Take a package in');
  const takeIn = page.getByRole('dialog', { name: 'Take a package in' });
  await expect(takeIn.getByLabel('Which package')).toContainText('.tar.age');
  await technician.looksSound('take a package in');
  await takeIn.getByLabel('Password of the archive').fill(PASSWORD);
  await takeIn.getByRole('button', { name: 'Take it in' }).click();
  const backups = async () =>
    (await api.get<Archive>(`/api/archives/${archiveId}`)).body.backups.length;
  await expect.poll(backups).toBe(2);

  // One that was changed on its way is refused, and the archive is as it was.
  execFileSync('bash', [
    '-c',
    `printf '\\x00\\x01' | dd of='${found[0] ?? ''}' bs=1 seek=90000 conv=notrunc status=none`,
  ]);
  await expect(page.getByRole('button', { name: 'More to do with this archive' })).toBeEnabled();
  await choose(page, 'Take a package in');
  await takeIn.getByLabel('Password of the archive').fill(PASSWORD);
  await takeIn.getByRole('button', { name: 'Take it in' }).click();
  await expect(main.getByRole('alert')).toContainText(/package/i);
  expect(await backups()).toBe(2);

  await choose(page, 'Change the password');
  const overlay = page.getByRole('dialog', { name: 'Change the password' });
  await overlay.getByLabel('Password now').fill(PASSWORD);
  await overlay.getByLabel('New password').fill(NEW_PASSWORD);
  await overlay.getByLabel('The same again').fill('a lamp for the fairy');
  await expect(overlay.getByText('The two are not the same.')).toBeVisible();
  await expect(overlay.getByRole('button', { name: 'Change it' })).toBeDisabled();
  await technician.looksSound('change the password');
  await overlay.getByLabel('The same again').fill(NEW_PASSWORD);
  await overlay.getByLabel('Reminder').fill('What we carry to the boat');
  await overlay.getByRole('button', { name: 'Change it' }).click();
  await expect(overlay).toBeHidden();
  await expect(main.getByText('What we carry to the boat').first()).toBeVisible();

  await technician.prove(PASSWORD);
  const proof = main.getByRole('form', { name: 'Prove the backup' });
  await expect(proof.getByRole('alert')).toContainText('does not open this backup');
  technician.refusalsExpected += 1;
  await technician.prove(NEW_PASSWORD);
  await expect(main.getByText('every item read back').first()).toBeVisible();
  technician.expectQuiet();
});
