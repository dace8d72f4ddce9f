import { execFileSync, spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import type { Page } from '@playwright/test';
import type { Archive, Rack } from '@bright-cellar/contract';
import { expect, Technician, test } from '../counter.js';
import { inkOf } from '../ink.js';
import { PASSWORD, type Product } from '../product.js';

const NEW_PASSWORD = 'a lamp for the ferry';

async function choose(page: Page, name: string): Promise<void> {
  await page.getByRole('button', { name: 'More to do with this archive' }).click();
  await page.getByRole('menuitem', { name }).click();
}

/** Packages and sticks, in a shop that wrote none before. */
export const takenAlong = (shop: () => Product) =>
  test.describe('taken along', () => {
    test('a package is written, opens with ordinary tools and comes back in; another password takes over', async ({
      technician,
    }) => {
      const product = shop();
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
      await expect(
        page.getByRole('button', { name: 'More to do with this archive' }),
      ).toBeEnabled();
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

    test('a stick is written, and opens itself: offline, in a browser that knows nothing of the shop', async ({
      technician,
      browser,
    }) => {
      const product = shop();
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

      await customer.looksAtPhotograph();
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
      await expect
        .poll(() => inkOf(main.getByRole('img', { name: /^Page 1/ })))
        .toBeGreaterThan(500);
      // Which hardly a browser draws by itself.
      await main.getByRole('button', { name: 'documents/scan-01.tif', exact: true }).press('Enter');
      const scanned = main.getByRole('img', { name: /scan-01\.tif/ });
      await expect
        .poll(() => scanned.evaluate((one: HTMLImageElement) => one.naturalWidth))
        .toBe(620);
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
      await expect
        .poll(() => page.evaluate(() => window.written?.name))
        .toMatch(/^taken-out-.*zip$/);
      await expect(taking.getByRole('status')).toContainText('The package is here.');
      const written = await page.evaluate(() => window.written);
      // Both say in it when they were made.
      const { length } = await readFile(await packed.path());
      expect(Math.abs((written?.bytes ?? 0) - length)).toBeLessThan(99);
      expect(written?.first).toBe('PK');
      customer.expectQuiet();
      await context.close();
    });
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
