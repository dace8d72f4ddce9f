import { randomUUID } from 'node:crypto';
import { dataClasses } from '@bright-cellar/core';
import { describe, expect, test } from 'vitest';
import type { ItemRecord } from '../format/backup-lines.js';
import type { BackupSummary } from '../open/backup-list.js';
import type { Listed } from '../open/open-archive.js';
import { indexPage } from './index-page.js';

const summary = (change: Partial<BackupSummary['header']> = {}): BackupSummary => ({
  header: {
    type: 'backup',
    format: 1,
    archive: randomUUID(),
    backup: randomUUID(),
    takenAt: '2026-01-02T03:04:05.000Z',
    label: '',
    ticket: '',
    device: null,
    ...change,
  },
  end: {
    type: 'end',
    items: 2,
    bytes: 1_500_000,
    failed: 1,
    newItems: 2,
    newBytes: 0,
    storedBytes: 0,
  },
});

const item = (path: string, change: Partial<ItemRecord> = {}): Listed => ({
  type: 'item',
  item: {
    class: 'photographs',
    kind: 'file',
    path,
    bytes: 7,
    modified: '2026-01-02T03:04:05.678Z',
    mode: null,
    mark: '',
    chunks: Buffer.alloc(0),
    ...change,
  },
});

async function pageOf(listed: Listed[], about = summary()): Promise<string> {
  const pieces: Buffer[] = [];
  for await (const piece of indexPage(about, listed)) pieces.push(piece);
  return Buffer.concat(pieces).toString();
}

describe('the page in a package', () => {
  test('has a row for every item, and for every one that was not taken, with the reason', async () => {
    const failed: Listed = {
      type: 'failed',
      failed: { type: 'failed', class: 'videos', path: 'videos/lost.mp4', reason: 'read-error' },
    };
    const page = await pageOf([
      item('photographs/1.jpg'),
      item('photographs', { kind: 'folder' }),
      failed,
    ]);
    expect(page).toContain('<a href="contents/photographs/1.jpg">photographs/1.jpg</a>');
    expect(page).toContain('<td class="p">photographs</td>');
    expect(page).toContain('videos/lost.mp4</td><td>not taken: read-error');
    expect(page).toContain(dataClasses.photographs);
    expect(page.match(/<tr>/g)?.length).toBeGreaterThanOrEqual(3);
  });

  test('runs nothing that a name or a device says', async () => {
    const evil = '"><script>alert(1)</script><img src=x onerror=alert(2)>\'&';
    const about = summary({
      label: evil,
      ticket: evil,
      device: {
        family: 'v',
        familyName: evil,
        kind: 'phone',
        model: evil,
        name: evil,
        serial: evil,
        osName: evil,
        osVersion: evil,
      },
    });
    const page = await pageOf([item(`photographs/${evil}.jpg`)], about);
    expect(page).not.toMatch(/<script|<img|onerror=alert\(2\)>/);
    // Three tags of its own that take an attribute, and no more.
    for (const [, attributes = ''] of page.matchAll(/<a ([^>]*)>/g)) {
      expect(attributes).toMatch(/^href="contents\/[^"<>]*"$/);
    }
  });

  test('leads to files of any name, and to no other place', async () => {
    const names = [
      'Grüße an 山本.txt',
      '100% #1?.txt',
      'javascript:alert(1)',
      'a b\\c',
      'bad \udcff byte',
    ];
    const page = await pageOf(names.map((name) => item(`notes/${name}`)));
    const links = Array.from(page.matchAll(/href="([^"]*)"/g), ([, link = '']) => link);
    expect(links).toHaveLength(names.length);
    for (const [at, link] of links.entries()) {
      const { protocol, pathname } = new URL(
        link.replaceAll(/&#(\d+);/g, (_, code: string) => String.fromCharCode(Number(code))),
        'file:///package/',
      );
      expect(protocol).toBe('file:');
      expect(decodeURIComponent(pathname)).toBe(
        `/package/contents/notes/${names[at]?.replace('\udcff', '\\xff')}`,
      );
    }
  });

  test('comes in pieces, however many rows there are', async () => {
    const count = 20_000;
    let pieces = 0;
    let largest = 0;
    const rows = function* () {
      for (let n = 0; n < count; n++) yield item(`photographs/${n}.jpg`);
    };
    for await (const piece of indexPage(summary(), rows())) {
      pieces += 1;
      largest = Math.max(largest, piece.length);
    }
    expect(pieces).toBeGreaterThan(10);
    expect(largest).toBeLessThan(100_000);
  });
});
