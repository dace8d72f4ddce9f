import { execFileSync } from 'node:child_process';
import { mkdirSync, readdirSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, test } from './counter.js';

test('a drive is added and filled; a copy is repaired, moved by a plan and the keyboard, and all of it destroyed', async ({
  product,
  technician,
}) => {
  const { page, main } = technician;
  const { api } = await technician.openProvenArchive(product);
  const drive = join(product.data, 'drives/stick');
  mkdirSync(drive);
  await expect(technician.heading(/^Archive of/)).toBeVisible();
  await page.keyboard.press('g');
  await page.keyboard.press('r');
  await expect(technician.heading('Racks')).toBeVisible();
  await expect(main.getByRole('link', { name: 'Alder' })).toBeVisible();
  await technician.looksSound('racks');

  await main.getByRole('button', { name: 'Add a rack' }).click();
  const adding = page.getByRole('dialog', { name: 'Add a rack' });
  await expect(adding.getByRole('radio', { name: /drives\/stick/, checked: true })).toBeVisible();
  await adding.getByRole('button', { name: 'Try it' }).click();
  await expect(adding.getByText(/^Good for/)).toBeVisible();
  await technician.looksSound('add a rack');
  await adding.getByLabel('Name').fill('Rowan');
  await adding.getByLabel('Reserve, in GB').fill('0');
  await adding.getByLabel('Note').fill('top shelf');
  await page.keyboard.press('Enter');
  await expect(technician.heading('Rack Rowan')).toBeVisible();
  await expect(main.getByText('No archive lies here yet.')).toBeVisible();
  const code = await main.getByText(/^9\d{4}$/).innerText();
  const href = await main.getByRole('link', { name: 'Print its label' }).getAttribute('href');
  const label = await page.request.get(`${product.address}${href}`);
  expect((await label.body()).subarray(0, 5).toString()).toBe('%PDF-');

  await page.goBack();
  await page.goBack();
  await page.getByRole('button', { name: 'More to do with this archive' }).click();
  await page.getByRole('menuitem', { name: 'Copy onto another rack' }).click();
  const copying = page.getByRole('dialog', { name: 'Copy onto another rack' });
  await copying.getByLabel('Onto which rack').click();
  await page.getByRole('option', { name: /^Rowan/ }).click();
  await technician.looksSound('copy onto another rack');
  await copying.getByRole('button', { name: 'Copy it' }).click();
  await expect(main.getByText(/It lies on Rowan/)).toBeVisible();
  await expect(main.getByText('Whole, stored bytes,')).toBeVisible();
  const [folder = ''] = readdirSync(drive).filter((name) => !name.startsWith('.'));
  const cwd = join(drive, folder);
  execFileSync('sha512sum', ['-c', '--quiet', 'manifest-sha512.txt'], { cwd });

  // Somebody pulls it and takes it away: a scan of its label opens its page all the same.
  renameSync(drive, join(product.data, 'in a bag'));
  await page.locator('body').focus();
  await page.keyboard.type(code);
  await page.keyboard.press('Enter');
  await expect(technician.heading('Rack Rowan')).toBeVisible();
  await expect(technician.now(/Rowan is away since/)).toBeVisible();
  const ledger = main.getByRole('table', { name: 'What lies on it' });
  await expect(ledger.getByRole('row', { name: /Tamsin/ })).toContainText('1 copy');
  await technician.looksSound('a rack that is away');

  // Plugged in elsewhere it is the same one.
  renameSync(join(product.data, 'in a bag'), join(product.data, 'drives/other-port'));
  await expect(main.getByText(/drives\/other-port/)).toBeVisible();
  await main.getByRole('button', { name: 'Change it' }).click();
  const change = page.getByRole('dialog', { name: 'Change Rowan' });
  await change.getByLabel('Name').fill('Rowan 2');
  await change.getByRole('button', { name: 'Save it' }).click();
  await expect(technician.heading('Rack Rowan 2')).toBeVisible();

  // The house rules ask for one more: it is owed, and made by one key.
  const { body: rules } = await api.houseRules({});
  await api.houseRules({ care: { ...rules.care, copies: '3' } });
  await page.keyboard.press('g');
  await page.keyboard.press('r');
  const owed = main.getByRole('table', { name: 'Owed copies' });
  await expect(owed.getByRole('row', { name: /Tamsin/ })).toContainText(/Alder|Birch/);
  await technician.looksSound('owed copies');
  await page.keyboard.press('p');
  await expect(main.getByText('No copy is owed.')).toBeVisible();
  await main.getByRole('link', { name: 'Rowan 2' }).click();
  const looks = main.getByRole('table', { name: 'Looks' });
  await expect(looks.getByRole('row', { name: /Stored bytes/ })).toContainText('Whole');

  // One of its copies goes bad: a look finds it, and it is repaired from another.
  await main.getByRole('table', { name: 'What lies on it' }).getByRole('row').nth(1).click();
  await expect(technician.heading(/^Archive of/)).toBeVisible();
  const birch = main.getByRole('link', { name: 'Birch' }).locator('xpath=ancestor::div[1]');
  const [pack = ''] = execFileSync(
    'find',
    [join(product.data, 'racks/birch'), '-path', '*/data/packs/*.pack'],
    { encoding: 'utf8' },
  ).split('\n');
  const bytes = readFileSync(pack);
  bytes.writeUInt8(bytes.readUInt8(100) ^ 1, 100);
  writeFileSync(pack, bytes);
  await birch.getByRole('button', { name: 'Read it back now' }).click();
  await expect(technician.now(/The copy on Birch is damaged: repair it from/)).toBeVisible();
  await technician.looksSound('a damaged copy');
  await birch.getByRole('button', { name: /^Repair it from/ }).click();
  await expect(main.getByText(/Files replaced|Replaced/).first()).toBeVisible();
  await expect(birch.getByText(/^Whole, stored bytes/)).toBeVisible();
  execFileSync('sha512sum', ['-c', '--quiet', 'manifest-sha512.txt'], {
    cwd: join(pack, '../../..'),
  });
  await page.goBack();

  // It is to be emptied: a plan is made, changed by the keyboard, and carried out.
  await main.getByRole('button', { name: 'More to do with this rack' }).click();
  await page.getByRole('menuitem', { name: 'Empty it' }).click();
  await expect(technician.heading('Move plan')).toBeVisible();
  await expect(technician.now(/Nothing does that now/)).toBeVisible();
  await expect(main.getByText(/Add a rack with .* free/)).toBeVisible();
  await technician.looksSound('a plan that cannot be');
  const spare = join(product.data, 'drives/spare');
  mkdirSync(spare);
  const room = { name: 'Sorrel', note: '', kind: 'drive', reserve: 0, offPremises: false };
  expect(
    (await api.post('/api/racks', { ...room, site: { kind: 'folder', path: spare }, secret: '' }))
      .status,
  ).toBe(200);
  await page.keyboard.press('g');
  await page.keyboard.press('r');
  await expect(main.getByRole('link', { name: 'Sorrel' })).toBeVisible();
  const held = main.getByRole('button', { name: /^Tamsin/ });
  // On Alder, on Birch, on Rowan 2.
  await expect(held).toHaveCount(3);
  await held.nth(2).focus();
  await page.keyboard.press('Space');
  await expect(page.getByText('Over Rowan 2.')).toBeAttached();
  await page.keyboard.press('ArrowRight');
  await expect(page.getByText('Over Sorrel.')).toBeAttached();
  await page.keyboard.press('Space');
  await expect(technician.heading('Move plan')).toBeVisible();
  const moves = main.getByRole('table', { name: 'Moves in their order' });
  await expect(moves.getByRole('row', { name: /Tamsin/ })).toContainText('Rowan 2');
  await technician.looksSound('a move plan');
  // Not while it is worked out anew: then there is nothing to carry out.
  const carryOut = main.getByRole('button', { name: 'Carry it out' });
  await expect(carryOut).toBeEnabled();
  await carryOut.press('Enter');
  await expect(technician.heading('Moves')).toBeVisible();
  await expect(moves.getByRole('row', { name: /Tamsin/ })).toContainText('Moved');
  await technician.looksSound('moves that were made');
  expect(readdirSync(spare).filter((name) => !name.startsWith('.'))).toHaveLength(1);
  await page.goBack();
  await page.keyboard.press('g');
  await page.keyboard.press('r');
  await main.getByRole('row', { name: /Sorrel/ }).click();

  await main.getByRole('button', { name: 'More to do with this rack' }).click();
  await page.getByRole('menuitem', { name: 'Put it out of use' }).click();
  const retire = page.getByRole('dialog', { name: 'Put Sorrel out of use' });
  const retiring = retire.getByRole('button', { name: 'Put it out of use' });
  await expect(retiring).toBeDisabled();
  await retire.getByLabel(/Type its name/).fill('Sorrel');
  await retiring.click();
  await expect(technician.heading('Racks')).toBeVisible();
  await expect(main.getByRole('row', { name: /Sorrel/ })).toHaveCount(0);

  // Kept long enough: destroyed here at once, and on the rack that is out of use when it is added again.
  await page.goto(`${product.address}/archives`);
  await main.getByRole('row', { name: /Tamsin/ }).click();
  await main.getByRole('button', { name: 'Destroy it …' }).click();
  const destroying = page.getByRole('dialog', { name: 'Destroy this archive' });
  await expect(destroying).toContainText(/What this archive keeps of Tamsin’s phone .* is lost/);
  await technician.looksSound('destroy an archive');
  const { body: archives } = await api.get<{ rows: { ticketNumber: string }[] }>('/api/archives');
  await destroying.getByLabel('Number of its ticket').fill(archives.rows[0]?.ticketNumber ?? '');
  await destroying.getByLabel('Why').fill('the days that were agreed are over');
  await page.keyboard.press('Enter');
  await destroying.getByLabel('Type the word: destroy').fill('destroy');
  await page.keyboard.press('Enter');
  await expect(technician.heading('Keeping')).toBeVisible();
  const destroyed = main.getByRole('table', { name: 'Destroyed' });
  await expect(destroyed.getByRole('row', { name: /Tamsin/ })).toContainText('Owed on Sorrel');
  await technician.looksSound('keeping');
  technician.expectQuiet();
});
