import { existsSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { pathToFileURL } from 'node:url';
import { join } from 'node:path';
import type { Rack } from '@bright-cellar/contract';
import { expect, Technician, test } from './counter.js';
import { inkOf } from './ink.js';
import { PASSWORD } from './product.js';

test('a stick is written, and opens itself: offline, in a browser that knows nothing of the shop', async ({
  product,
  technician,
  browser,
}) => {
  const { page: counter, main: desk } = technician;
  const { api } = await technician.openProvenArchive(product);
  await desk.getByRole('button', { name: 'More' }).press('Enter');
  await counter.getByRole('menuitem', { name: 'Write a package to take along' }).press('Enter');
  const dialog = counter.getByRole('dialog', { name: 'Write a package to take along' });
  await expect(dialog.getByRole('combobox', { name: 'As what' })).toContainText('A stick');
  await dialog.getByLabel('Password of the archive').fill(PASSWORD);
  await technician.looksSound('writing a stick');
  await dialog.getByRole('button', { name: 'Write the package' }).press('Enter');
  const saidWhere = desk.getByText(/Written as the folder/);
  await expect(saidWhere).toBeVisible();
  technician.expectQuiet();
  const [, name = ''] = /folder (\S+) into/.exec(await saidWhere.innerText()) ?? [];
  const racks = (await api.get<Rack[]>('/api/racks')).body;
  const folder =
    racks.map(({ mounted }) => join(mounted ?? '', 'packages', name)).find(existsSync) ?? '';
  const context = await browser.newContext({ offline: true, acceptDownloads: true });
  // A window of the browser’s own, in which one chooses where to save, opens where there is a screen only.
  await context.addInitScript(() => Object.assign(window, { showSaveFilePicker: undefined }));
  const customer = new Technician(await context.newPage());
  const { page, main } = customer;
  await page.goto(pathToFileURL(join(folder, 'open-this-page.html')).href);
  await expect(customer.now('Choose the folder')).toBeVisible();
  await customer.looksSound('a stick before it is open');
  await main.getByLabel('Folder of the stick').setInputFiles(folder);
  await main.getByLabel('Password').fill('another password');
  await page.keyboard.press('Enter');
  await expect(main.getByRole('alert')).toBeVisible();
  await main.getByLabel('Password').fill(PASSWORD);
  await page.keyboard.press('Enter');

  await expect(customer.now(/holds [\d,]+ messages in \d+ conversations/)).toBeVisible();
  const list = main.getByRole('region', { name: 'Conversations' });
  await list.getByRole('button').first().press('Enter');
  const said = main.getByRole('region', { name: 'What was said' });
  await expect(said.getByRole('article').first()).toBeVisible();
  await customer.looksSound('a conversation on a stick');
  await main.getByLabel('Find in all of it').fill('the bus');
  await expect(
    main.getByRole('list', { name: 'Messages found' }).getByRole('button').first(),
  ).toContainText(/bus/);

  await main.getByRole('button', { name: /^Photographs/ }).press('Enter');
  await main
    .getByRole('button', { name: /^Look at / })
    .first()
    .press('Enter');
  const picture = main.getByRole('img', { name: /^Picture photographs/ });
  await expect
    .poll(() => picture.evaluate((one: HTMLImageElement) => one.naturalWidth))
    .toBeGreaterThan(100);
  const [saved] = await Promise.all([
    page.waitForEvent('download'),
    main.getByRole('button', { name: /^Save photographs/ }).press('Enter'),
  ]);
  expect(saved.suggestedFilename()).toMatch(/\.(?:jpe?g|png|webp)$/);
  expect((await readFile(await saved.path())).length).toBeGreaterThan(1000);
  await main.getByRole('button', { name: /^Contacts/ }).press('Enter');
  await expect(main.getByRole('cell').first()).toBeVisible();
  await main.getByRole('row', { name: /^Anouk/ }).press('Enter');
  await expect(main.getByRole('img', { name: 'Picture of Anouk Mossholt' })).toBeVisible();
  await main.getByRole('button', { name: /^Documents/ }).press('Enter');
  await main
    .getByRole('button', { name: /boats-01\.pdf/ })
    .first()
    .press('Enter');
  await expect.poll(() => inkOf(main.getByRole('img', { name: /^Page 1/ }))).toBeGreaterThan(500);
  // Which hardly a browser draws by itself.
  await main.getByRole('button', { name: 'documents/scan-01.tif', exact: true }).press('Enter');
  const scanned = main.getByRole('img', { name: /scan-01\.tif/ });
  await expect.poll(() => scanned.evaluate((one: HTMLImageElement) => one.naturalWidth)).toBe(620);
  await main.getByRole('button', { name: /^Calendar/ }).press('Enter');
  await expect(main.getByRole('article').first()).toBeVisible();
  await main.getByRole('button', { name: /^Videos/ }).press('Enter');
  const still = main.locator('video').first();
  await expect
    .poll(() => still.evaluate((one: HTMLVideoElement) => one.readyState))
    .toBeGreaterThanOrEqual(2);
  await main.getByRole('button', { name: /clip-/ }).press('Enter');
  const video = main.getByLabel(/^Video /);
  await expect
    .poll(() => video.evaluate((one: HTMLVideoElement) => [one.videoWidth, one.error]))
    .toEqual([480, null]);

  await list.getByRole('button').first().press('Enter');
  await main.getByRole('button', { name: 'Take it in hand' }).press('Enter');
  await main.getByRole('button', { name: 'Take out …' }).press('Enter');
  const taking = page.getByRole('dialog', { name: 'Take out what is in hand' });
  const [packed] = await Promise.all([
    page.waitForEvent('download'),
    taking.getByRole('button', { name: 'Take it out' }).press('Enter'),
  ]);
  expect((await readFile(await packed.path())).subarray(0, 2).toString()).toBe('PK');
  await expect(taking.getByRole('status')).toContainText('0 failed');
  await page.evaluate(writtenWhereChosen);
  await taking.getByRole('button', { name: 'Take it out again' }).press('Enter');
  await expect.poll(() => page.evaluate(() => window.written?.name)).toMatch(/^taken-out-.*zip$/);
  await expect(taking.getByRole('status')).toContainText('The package is here.');
  const written = await page.evaluate(() => window.written);
  // Both say in it when they were made.
  const { length } = await readFile(await packed.path());
  expect(Math.abs((written?.bytes ?? 0) - length)).toBeLessThan(99);
  expect(written?.first).toBe('PK');
  customer.expectQuiet();
  await context.close();
});

declare global {
  interface Window {
    /** What was written where somebody chose to, once it is whole. */
    written?: { name: string; bytes: number; first: string };
  }
}

/** In the place of a browser that lets one choose. */
function writtenWhereChosen(): void {
  const choose = async ({ suggestedName: name }: { suggestedName: string }) => {
    const written = { name, bytes: 0, first: '' };
    const createWritable = async () =>
      new WritableStream<Uint8Array>({
        write: (piece) => {
          if (written.bytes === 0) written.first = String.fromCharCode(...piece.subarray(0, 2));
          written.bytes += piece.length;
        },
        close: () => void Object.assign(window, { written }),
      });
    return { createWritable };
  };
  Object.assign(window, { showSaveFilePicker: choose });
}
