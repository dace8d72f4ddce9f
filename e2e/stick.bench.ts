import { createCipheriv, randomBytes } from 'node:crypto';
import { copyFileSync, mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { archiveIn, BackupRun, withPassword } from '@bright-cellar/archive';
import { classOfPath } from '@bright-cellar/core';
import { mediaTypes } from '@bright-cellar/core/formats';
import { chromium, type Page } from '@playwright/test';
import sharp from 'sharp';
import { expect, test } from 'vitest';
import { Technician } from './counter.js';
import { PASSWORD } from './product.js';

/**
 * `npm run bench:stick`: a large stick in the real browser: how long until it is open and until all of it was read, what a file
 * that is saved takes, and what memory the page takes, each beside a stick with a hundredth of it. `STICK_GB`, `STICK_ITEMS`
 * and `STICK_FOLDER`, a folder with that much room, say how large and where.
 */
const BYTES = Number(process.env.STICK_GB ?? 50) * 1e9;
const ITEMS = Number(process.env.STICK_ITEMS ?? 200_000);
const FOLDER = process.env.STICK_FOLDER ?? tmpdir();
const VIDEO = 400e6;
const VIDEOS_SHARE = 0.3;
const OF_A_FILE = 500;
const PIECE = 4 * 2 ** 20;
const zeros = Buffer.alloc(PIECE);

/** Bytes that nothing makes smaller, in pieces, faster than a disk takes them. */
function* noise(length: number): Generator<Buffer> {
  const stream = createCipheriv('aes-128-ctr', randomBytes(16), randomBytes(16));
  for (let left = length; left > 0; left -= PIECE)
    yield stream.update(zeros.subarray(0, Math.min(PIECE, left)));
}

interface Made {
  folder: string;
  page: string;
  bytes: number;
}

/** A stick as the engine writes it, of a device that nobody has to wait for. */
async function makeStick(bytes: number, items: number): Promise<Made> {
  const folder = mkdtempSync(join(FOLDER, 'cellar-stick-'));
  const run = await BackupRun.begin({
    ...{ files: archiveIn(join(folder, 'sealed')), secret: withPassword(PASSWORD) },
    ...{ label: 'large', ticket: '', device: null, takenAt: new Date(), isPackage: true },
  });
  const modified = new Date().toISOString();
  const put = (path: string, format: string, length: number, contents: () => Iterable<Buffer>) =>
    run.addContents(
      {
        ...{ class: classOfPath(path), kind: 'file', path, bytes: length, modified, format },
        ...{ mode: null, mark: '' },
      },
      contents,
    );
  // One at least, as long as the others: saved in little time, nothing would be told.
  const videos = Math.max(1, Math.round((bytes * VIDEOS_SHARE) / VIDEO));
  const threads = Math.max(1, Math.round(items / 1000));
  for (let n = 0; n < threads; n++) {
    const lines = Array.from({ length: OF_A_FILE }, (_, at) =>
      JSON.stringify({
        at: new Date(1.5e12 + (n * OF_A_FILE + at) * 600_000).toISOString(),
        from: at % 2 === 0 ? 'me' : '+44 7700 900001',
        text: `the ferry at ${n}, the quay at ${at}`,
        attachment: null,
      }),
    );
    const text = Buffer.from(`${lines.join('\n')}\n`);
    const path = `messages/thread-001/${String(n).padStart(5, '0')}.jsonl`;
    await put(path, mediaTypes.thread, text.length, () => [text]);
  }
  const pixels = { width: 320, height: 240, channels: 3, background: '#557' } as const;
  const picture = await sharp({ create: pixels }).jpeg().toBuffer();
  const photographs = items - videos - threads;
  const each = Math.max(1000, Math.round((bytes - videos * VIDEO) / photographs));
  // What follows the end of a picture is nobody's.
  for (let n = 0; n < photographs; n++)
    await put(
      `photographs/${Math.floor(n / 1000)}/${n}.jpg`,
      'image/jpeg',
      picture.length + each,
      () => [picture, ...noise(each)],
    );
  for (let n = 0; n < videos; n++)
    await put(`videos/clip-${n}.mp4`, 'video/mp4', VIDEO, () => noise(VIDEO));
  await run.commit();
  const page = join(folder, 'open-this-page.html');
  copyFileSync(new URL('../packages/web/dist/stick/stick.html', import.meta.url), page);
  return { folder, page, bytes };
}

/** MB of all that draws pages and reads for them, as far as it is theirs alone (proc(5), smaps_rollup). */
function pageMemory(): number {
  const kilobytes = readdirSync('/proc').flatMap((pid) => {
    if (!/^\d+$/.test(pid)) return [];
    try {
      if (!readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes('--type=renderer')) return [];
      const said = /^Pss:\s+(\d+)/m.exec(readFileSync(`/proc/${pid}/smaps_rollup`, 'utf8'));
      return [Number(said?.[1] ?? 0)];
    } catch {
      return [];
    }
  });
  return Math.round(kilobytes.reduce((sum, some) => sum + some, 0) / 1000);
}

interface Measured {
  open: number;
  all: number;
  picture: number;
  /** MB in a second. */
  saving: number;
  memory: number;
}

/** What is saved is counted, and forgotten. */
function countedWhereChosen(): void {
  const createWritable = async () => {
    const counted = window as { saved?: number };
    let bytes = 0;
    return new WritableStream<Uint8Array>({
      write: (piece) => void (bytes += piece.length),
      close: () => void (counted.saved = bytes),
    });
  };
  Object.assign(window, { showSaveFilePicker: async () => ({ createWritable }) });
}

async function measure({ folder, page: address }: Made): Promise<Measured> {
  const browser = await chromium.launch({
    executablePath: '/usr/bin/chromium-headless-shell',
    args: ['--no-sandbox', '--disable-gpu'],
  });
  let memory = 0;
  const watching = setInterval(() => (memory = Math.max(memory, pageMemory())), 500);
  try {
    const context = await browser.newContext({ offline: true });
    await context.addInitScript(countedWhereChosen);
    const page: Page = await context.newPage();
    const customer = new Technician(page);
    const { main } = customer;
    await page.goto(pathToFileURL(address).href);
    await main.getByLabel('Folder of the stick').setInputFiles(folder);
    await main.getByLabel('Password').fill(PASSWORD);
    const since = (from: number) => (performance.now() - from) / 1000;
    const began = performance.now();
    await page.keyboard.press('Enter');
    await customer.now(/is being read|holds [\d,]+ messages/).waitFor({ timeout: 600_000 });
    const open = since(began);
    await customer.now(/holds [\d,]+ messages/).waitFor({ timeout: 1_800_000 });
    const all = since(began);
    await main.getByRole('button', { name: /^Photographs/ }).press('Enter');
    const pictures = performance.now();
    await main
      .getByRole('button', { name: /^Look at / })
      .first()
      .press('Enter');
    const large = main.getByRole('img', { name: /^Picture photographs/ });
    await expect
      .poll(() => large.evaluate((one: HTMLImageElement) => one.naturalWidth), { timeout: 60_000 })
      .toBeGreaterThan(100);
    const picture = since(pictures);
    await main.getByRole('button', { name: /^Videos/ }).press('Enter');
    await main.getByRole('button', { name: /clip-/ }).first().press('Enter');
    // Until it was read for playing it, both would share what there is.
    await main.getByLabel(/^Video /).waitFor({ timeout: 600_000 });
    const saving = performance.now();
    await main.getByRole('button', { name: /^Save videos/ }).press('Enter');
    const saved = () => page.evaluate(() => (window as { saved?: number }).saved ?? 0);
    await expect.poll(saved, { timeout: 600_000, interval: 100 }).toBeGreaterThan(0);
    const rate = (await saved()) / 1e6 / since(saving);
    return { open, all, picture, saving: rate, memory: Math.max(memory, pageMemory()) };
  } finally {
    clearInterval(watching);
    await browser.close();
  }
}

test('a large stick in the browser', async () => {
  const print = (text: string) => process.stdout.write(`${text}\n`);
  const results: Measured[] = [];
  for (const part of [0.01, 1]) {
    const from = performance.now();
    const made = await makeStick(BYTES * part, Math.round(ITEMS * part));
    try {
      print(
        `${(made.bytes / 1e9).toFixed(1)} GB, ${Math.round(ITEMS * part)} items: written in ${((performance.now() - from) / 1000).toFixed(0)} s`,
      );
      const one = await measure(made);
      results.push(one);
      print(
        `open after ${one.open.toFixed(1)} s, all read after ${one.all.toFixed(1)} s, a photograph after ${one.picture.toFixed(2)} s, ` +
          `a video saved at ${one.saving.toFixed(0)} MB/s, the page took ${one.memory} MB`,
      );
    } finally {
      rmSync(made.folder, { recursive: true });
    }
  }
  const [small, large] = results;
  if (!small || !large) throw new Error('measured nothing');
  const of = (what: keyof Measured) => (large[what] / small[what]).toFixed(1);
  print(
    `beside a hundredth of it: open ${of('open')} ×, all read ${of('all')} ×, a photograph ${of('picture')} ×, saving ${of('saving')} ×, memory ${of('memory')} ×`,
  );
});
