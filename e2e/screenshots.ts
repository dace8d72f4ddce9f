import { join } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';
import type { Archive, ArchiveRow, Rack } from '@bright-cellar/contract';
import { expect, test as base } from '@playwright/test';
import { Api, resultOf } from './api.js';
import { Technician } from './counter.js';
import { RADICALE_PASSWORD, RADICALE_USER, startRadicale } from '@bright-cellar/rack-stand-ins';
import { openOwned, OWNED, PASSWORD, startTestProduct, WIPED, MARL } from './product.js';
import { writeNotes } from './two-sides.js';

const FOLDER = fileURLToPath(new URL('../docs/screenshots/', import.meta.url));

/** Messages as somebody keeps them in a spreadsheet. */
const SPREADSHEET = [
  'Date;Sender;With;Message',
  '21/11/2026 18:02;+44 7700 900141;+44 7700 900141;Is the lamp still for sale?',
  '21/11/2026 18:09;me;+44 7700 900141;Yes, and the kettle too.',
  '21/11/2026 18:11;+44 7700 900141;+44 7700 900141;Then I come on Saturday, after the market.',
  '22/11/2026 07:40;me;+44 7700 900141, +44 7700 900152;The ferry is late again, start without me.',
  '22/11/2026 07:58;+44 7700 900152;+44 7700 900141, +44 7700 900152;We keep you a bun.',
  ';me;+44 7700 900141;When was this?',
].join('\r\n');

/** Not a test: walks through the demo and takes one picture of each main view. */
base('pictures of every main view', async ({ page }) => {
  const product = await startTestProduct({
    demo: 'full',
    rate: 28_000_000,
    installMs: 6000,
    owner: 'confirms',
  });
  try {
    const technician = new Technician(page);
    const { main } = technician;
    const picture = async (name: string) => {
      await page.waitForTimeout(500);
      await page.screenshot({ path: `${FOLDER}${name}.png` });
    };
    await page.goto(product.address);
    await expect(page.getByLabel('Name')).toBeFocused();
    await technician.signIn(product.address);
    await picture('counter');
    await openOwned(product);
    await page.goto(`${product.address}/tickets/new/${OWNED}`);
    await main.getByLabel('Name').fill('Tamsin Orchardgate');
    await main.getByLabel('Phone').fill('+44 7700 900219');
    await main.getByLabel('The customer agreed').click();
    await picture('intake');
    await main.getByRole('button', { name: 'Open the ticket' }).click();
    await main.getByLabel('Password of the backup').fill(PASSWORD);
    await main.getByLabel('The same again').fill(PASSWORD);
    await main.getByLabel('Reminder').fill('Hums in the kitchen');
    await expect(main.getByText('Strong: would hold')).toBeVisible();
    await expect(main.getByText('as measured')).toBeVisible();
    await picture('ticket');
    await main.getByRole('link', { name: 'See and choose …' }).click();
    const tree = main.getByRole('tree');
    await expect(tree.getByRole('treeitem', { name: /^Photographs/ })).toBeVisible();
    await expect(main.getByText('as measured')).toBeVisible();
    await tree.focus();
    await page.keyboard.type('ph');
    for (const key of ['ArrowRight', 'ArrowDown', 'Space']) await page.keyboard.press(key);
    await expect(main.getByText('Measuring')).toBeHidden();
    await page.waitForTimeout(4000);
    await picture('plan');
    await main.getByRole('radio', { name: /^Everything/ }).click();
    await main.getByRole('button', { name: 'Use this for the backup' }).click();
    await main.getByLabel('Password of the backup').fill(PASSWORD);
    await main.getByLabel('The same again').fill(PASSWORD);
    await main.getByLabel('Reminder').fill('Hums in the kitchen');
    await expect(main.getByText('as measured')).toBeVisible();
    await product.press(OWNED, { do: 'faults', faults: { cutAfterBytes: 90_000_000 } });
    await main.getByRole('button', { name: 'Take the full backup' }).click();
    await expect(main.getByText('are safe on the rack')).toBeVisible({ timeout: 60_000 });
    await product.press(OWNED, { do: 'faults', faults: { cutAfterBytes: null } });
    await product.press(OWNED, { do: 'plug', berth: 1 });
    await openOwned(product);
    await main.getByRole('button', { name: 'Give it up and free the space' }).click();
    await main.getByLabel('The same again').fill(PASSWORD);
    await main.getByLabel('Password of the backup').fill(PASSWORD);
    await main.getByLabel('Reminder').fill('Hums in the kitchen');
    await main.getByRole('button', { name: 'Take the full backup' }).click();
    await page.waitForTimeout(7_000);
    await picture('backup-running');
    await expect(main.getByRole('button', { name: 'Prove it' })).toBeVisible({ timeout: 60_000 });
    await technician.prove(PASSWORD);
    const restore = main.getByRole('link', { name: 'Open the restore' });
    await expect(restore).toBeVisible({ timeout: 60_000 });
    await restore.click();
    await product.press(WIPED, { do: 'plug', berth: 2 });
    await product.press(WIPED, { do: 'approve', passcode: '' });
    await product.press(WIPED, { do: 'owner-lock-off' });
    await expect(technician.now(/Charge the phone/)).toBeVisible();
    await picture('restore-blocked');
    await product.press(WIPED, { do: 'charge', percent: 81 });
    await main.getByLabel('Serial, last 4').fill('0T57');
    await main.getByLabel('Password of the backup').fill(PASSWORD);
    await page.keyboard.press('Enter');
    await expect(main.getByText('Same as the backup', { exact: true })).toBeVisible({
      timeout: 240_000,
    });
    // The same backup onto a handset: what would be lost.
    await product.press(WIPED, { do: 'pull-cable' });
    await product.press('quillon-q44', { do: 'plug', berth: 2 });
    await page.reload();
    await main.getByRole('radio', { name: /Quillon Q44/ }).check();
    await main.getByLabel('Password of the backup').fill(PASSWORD);
    await page.keyboard.press('Enter');
    await expect(main.getByRole('heading', { name: 'What will arrive' })).toBeVisible({
      timeout: 240_000,
    });
    await picture('loss-report');
    await product.press('quillon-q44', { do: 'pull-cable' });
    await page.goBack();
    await product.press(OWNED, { do: 'write-note', text: 'Call back about the case' });
    await main.getByLabel('Password of the archive').fill(PASSWORD);
    await main.getByRole('button', { name: 'Show what will be sent' }).click();
    await expect(main.getByText('Will be sent', { exact: true })).toBeVisible();
    await main.getByRole('button', { name: 'Take the full backup' }).click();
    await expect(main.getByRole('button', { name: 'Prove it' })).toBeVisible({ timeout: 60_000 });
    const api = await Api.signedIn(product);
    await product.press(MARL, { do: 'unlock', passcode: '7351' });
    const marl = await api.openTicket(MARL, {
      customer: { name: 'Celyn Mossgate', phone: '', email: '' },
    });
    await product.press(MARL, { do: 'workshop-port', state: 'on' });
    await product.press(MARL, { do: 'approve', passcode: '7351' });
    await page.goto(`${product.address}/tickets/${marl}/messages-back`);
    await expect(technician.now(/^Choose the file/)).toBeVisible();
    await main.locator('input[type=file]').setInputFiles({
      name: 'messages.csv',
      mimeType: 'text/csv',
      buffer: Buffer.from(SPREADSHEET),
    });
    await expect(main.getByText('Lines that stay out')).toBeVisible();
    await picture('messages-back');
    const handset = await api.openTicket('quillon-q40', {
      customer: { name: 'Harrowmere ferry', phone: '', email: '' },
      reason: 'loaner',
    });
    await api.ended((await api.startBackup(handset)).body.id);
    await api.agree(handset, 'look-in');
    const radicale = await startRadicale();
    await page.goto(`${product.address}/tickets/${handset}/organiser`);
    await main.getByLabel('Address').fill(radicale.address);
    await main.getByLabel('Name they sign in with').fill(RADICALE_USER);
    await main.getByLabel('Password').fill(RADICALE_PASSWORD);
    await main.getByRole('button', { name: 'Sign in there' }).click();
    await main.getByRole('button', { name: 'See what would change' }).click();
    await main.getByLabel('Serial, last 4').fill('8822');
    await page.keyboard.press('Enter');
    await expect(main.getByText('Written on the other side')).toBeVisible();
    writeNotes(join(product.data, 'bench/devices/quillon-q40/contents/contacts/NamesDB'), {
      ...{ Dunholt: 'Met at the ferry', Fernholt: 'Rings on Sundays', Linsted: 'Mends sails' },
    });
    writeNotes(radicale.folderOf('people'), {
      ...{ Dunholt: 'Sings alto in the choir', Fernholt: 'Owes us a boat trip' },
      Oakfield: 'Moves house in May',
    });
    await product.press('quillon-q40', { do: 'pull-cable' });
    await product.press('quillon-q40', { do: 'plug', berth: 4 });
    await expect(page.getByRole('link', { name: /Berth 4/ })).toContainText('Open and readable');
    await main.getByRole('button', { name: 'See what would change' }).click();
    await expect(main.getByText('They differ').first()).toBeVisible();
    await picture('organiser');
    await radicale.stop();
    await api.agree(marl, 'look-in');
    const { body: racks } = await api.get<Rack[]>('/api/racks');
    const messages = {
      rackId: racks[0]?.id,
      what: {
        kind: 'records',
        set: 'messages',
        format: 'html',
        dates: 'words',
        named: true,
        media: true,
        append: true,
      },
    };
    for (const [ticket, rule, extract] of [
      [handset, 'weekly', null],
      [marl, 'fortnightly', null],
      [marl, 'on-connect', messages],
    ] as const) {
      await api.post(`/api/tickets/${ticket}/schedule`, {
        schedule: {
          rule,
          weekday: 1,
          at: 780,
          quiet: { from: 1320, to: 360 },
          catchUp: true,
          overNetwork: true,
        },
        wholeCustomer: false,
        extract,
      });
    }
    await page.goto(`${product.address}/today`);
    await expect(main.getByRole('img').first()).toBeVisible();
    await picture('today');
    await page.getByRole('button', { name: 'Dim the screen' }).click();
    await page.getByRole('link', { name: 'Archives' }).click();
    await picture('archives-dim');
    await page.getByRole('button', { name: 'Daylight' }).click();
    const { body: rules } = await api.houseRules({});
    await api.houseRules({ care: { ...rules.care, copies: '2' } });
    await page.getByRole('link', { name: 'Racks' }).click();
    const pay = main.getByRole('button', { name: 'Make what can be made' });
    await expect(pay).toBeVisible();
    await picture('racks');
    await page.goto(`${product.address}/racks/plan?wish=empty&rack=${racks[0]?.id}`);
    await expect(main.getByRole('table', { name: 'Moves in their order' })).toBeVisible();
    await picture('move-plan');
    await page.getByRole('link', { name: 'Racks' }).click();
    await pay.click();
    // What lies on drives that are away stays owed.
    await expect(pay).toBeDisabled({ timeout: 180_000 });
    await main.getByRole('link', { name: 'Alder' }).click();
    await expect(main.getByRole('img').nth(1)).toBeVisible();
    await picture('rack');
    await page.getByRole('link', { name: 'Archives' }).click();
    await main.getByText('Tamsin’s phone').first().click();
    await expect(technician.heading(/Archive of/)).toBeVisible();
    await picture('archive');
    const archiveAddress = page.url();
    const number = await main.getByRole('link', { name: /^Ticket \d/ }).textContent();
    await api.agree(number?.replace('Ticket ', '') ?? '', 'look-in');
    await main.getByRole('button', { name: 'Look inside …' }).click();
    const ask = page.getByRole('dialog', { name: 'Look inside' });
    await ask.getByLabel('What for').fill('Are the messages of the summer in it?');
    await ask.getByLabel('Password of the backup').fill(PASSWORD);
    await page.keyboard.press('Enter');
    await expect(technician.now(/messages in/)).toBeVisible();
    const joined = main.getByRole('button', { name: /Messages and / });
    await joined
      .or(main.getByRole('button', { name: /until/ }))
      .first()
      .click();
    await expect(main.getByRole('article').first()).toBeVisible();
    await picture('look-in');
    await page.keyboard.press('F9');
    const archiveId = new URL(archiveAddress).pathname.split('/').at(-1) ?? '';
    const { body: shown } = await api.get<Archive>(`/api/archives/${archiveId}`);
    const exported = await api.post(`/api/backups/${shown.backups[0]?.id}/exports`, {
      ...{ rackId: racks[0]?.id, form: 'stick', fromDesk: false, password: PASSWORD },
    });
    const { wrote } = resultOf(await api.ended(exported.body.id, 300_000), 'export');
    const stick = join(racks[0]?.mounted ?? '', 'packages', wrote);
    const elsewhere = await page.context().newPage();
    await elsewhere.goto(pathToFileURL(join(stick, 'open-this-page.html')).href);
    await elsewhere.getByLabel('Folder of the stick').setInputFiles(stick);
    await elsewhere.getByLabel('Password').fill(PASSWORD);
    await elsewhere.keyboard.press('Enter');
    await elsewhere.getByRole('button', { name: /^Photographs/ }).click({ timeout: 120_000 });
    await elsewhere
      .getByRole('button', { name: /^Look at / })
      .first()
      .click();
    const large = elsewhere.getByRole('img', { name: /^Picture/ });
    await expect
      .poll(() => large.evaluate((one: HTMLImageElement) => one.naturalWidth))
      .toBeGreaterThan(100);
    await elsewhere.waitForTimeout(2_000);
    await elsewhere.screenshot({ path: `${FOLDER}stick.png` });
    await elsewhere.close();
    const { body: kept } = await api.get<{ rows: ArchiveRow[] }>(
      '/api/archives?text=Cedar&sort=taken&order=asc',
    );
    const [oldest, next] = kept.rows;
    await api.post(`/api/archives/${next?.id}/hold`, { reason: 'An insurance case is open' });
    const destroyed = await api.post(`/api/archives/${oldest?.id}/disposals`, {
      ...{ typedTicket: oldest?.ticketNumber, typedWord: 'destroy' },
      reason: 'The days that were agreed are over; asked by phone',
    });
    await api.ended(destroyed.body.id);
    await page.getByRole('link', { name: 'Keeping' }).click();
    await expect(main.getByRole('link', { name: /^Certificate/ })).toBeVisible();
    await picture('keeping');
    const { body: key } = await api.post<{ recipient: string }>('/api/saves/key/offer');
    await api.send('PUT', '/api/saves/key', { recipient: key.recipient });
    await api.post('/api/saves');
    await page.getByRole('link', { name: 'Condition' }).click();
    await expect(main.getByText('Saved in the last day.')).toBeVisible();
    await picture('condition');
  } finally {
    await product.stop();
  }
});
