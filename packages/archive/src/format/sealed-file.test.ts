import { createHash, randomBytes } from 'node:crypto';
import { readFileSync, writeFileSync } from 'node:fs';
import { basename, dirname, join } from 'node:path';
import { Failure } from '@bright-cellar/core';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { ArchiveKey } from '../keys/archive-key.js';
import { FolderFiles } from '../store/folder-files.js';
import { withFolder } from '../test-archives.js';
import { FRAME_MAX_PLAIN, FRAME_OVERHEAD, HEADER_BYTES } from './sealed.js';
import {
  FrameSpace,
  salvage,
  SealedReader,
  SealedWriter,
  type OpenedFrame,
} from './sealed-file.js';

const key = ArchiveKey.random();

function write(path: string, frames: readonly Uint8Array[]) {
  const writer = new SealedWriter(path, 'pack', key);
  const places = frames.map((frame) => ({
    ...writer.append(Buffer.from(frame)),
    plain: frame.length,
  }));
  return { places, facts: writer.finish(), id: writer.id };
}

const open = (path: string, from = key, space = new FrameSpace()) =>
  SealedReader.open(new FolderFiles(dirname(path)), basename(path), 'pack', from, space);

async function read(path: string, from = key): Promise<Buffer[]> {
  const reader = await open(path, from);
  try {
    const all: Buffer[] = [];
    for await (const { plain } of reader.frames()) all.push(Buffer.from(plain));
    return all;
  } finally {
    reader.close();
  }
}

const contents = fc.oneof(
  fc.uint8Array({ maxLength: 300 }),
  fc.integer({ min: 0, max: 70_000 }).map((length) => Buffer.alloc(length, 'again ')),
);

describe('a sealed file', () => {
  test('gives back any frames, front to back and each by its place; its facts are the file’s', async () => {
    await withFolder(async (folder) => {
      let number = 0;
      await fc.assert(
        fc.asyncProperty(fc.array(contents, { maxLength: 12 }), async (frames) => {
          const path = join(folder, `${number++}`);
          const { places, facts } = write(path, frames);
          const bytes = readFileSync(path);
          expect(facts.size).toBe(bytes.length);
          expect(facts.sha512).toBe(createHash('sha512').update(bytes).digest('hex'));
          expect(await read(path)).toEqual(frames.map((frame) => Buffer.from(frame)));
          const reader = await open(path);
          for (const [at, { offset, stored, plain }] of [...places.entries()].reverse()) {
            const frame = await reader.readAt(offset, stored, plain);
            expect(frame.equals(frames[at] ?? Buffer.alloc(0))).toBe(true);
          }
          reader.close();
        }),
        { numRuns: 20 },
      );
    });
  });

  test('holds none of its contents in the clear, and the same contents never look the same', async () => {
    await withFolder(async (folder) => {
      const frame = Buffer.from('Meet me at the boathouse. '.repeat(100));
      write(join(folder, 'one'), [frame, frame]);
      write(join(folder, 'two'), [frame, frame]);
      const [one, two] = ['one', 'two'].map((name) => readFileSync(join(folder, name)));
      expect(one?.includes('boathouse')).toBe(false);
      const sealed = (file: Buffer | undefined) =>
        file?.subarray(HEADER_BYTES + 8, HEADER_BYTES + 40);
      expect(sealed(one)?.equals(sealed(two) ?? Buffer.alloc(0))).toBe(false);
    });
  });

  test('opens with its own key and as its own kind, and with no other', async () => {
    await withFolder(async (folder) => {
      const path = join(folder, 'file');
      write(path, [Buffer.from('contents')]);
      await expect(read(path, ArchiveKey.random())).rejects.toThrow(Failure);
      const files = new FolderFiles(folder);
      await expect(SealedReader.open(files, 'file', 'index', key)).rejects.toThrow(Failure);
      await expect(open(join(folder, 'not there'))).rejects.toThrow(Failure);
    });
  });

  test('of a later version is said to be of a later version, not damaged', async () => {
    await withFolder(async (folder) => {
      const path = join(folder, 'file');
      write(path, []);
      const later = readFileSync(path);
      later.writeUInt8(2, 8);
      writeFileSync(path, later);
      await expect(read(path)).rejects.toMatchObject({
        problem: { code: 'archive-format-unknown' },
      });
    });
  });

  test('never overwrites another, and takes no frame that is too long', async () => {
    await withFolder(async (folder) => {
      const path = join(folder, 'file');
      write(path, []);
      expect(() => new SealedWriter(path, 'pack', key)).toThrow(/EEXIST/);
      const writer = new SealedWriter(join(folder, 'other'), 'pack', key);
      expect(() => writer.append(randomBytes(FRAME_MAX_PLAIN + 1))).toThrow(RangeError);
      writer.close();
    });
  });

  test('readers that share their space read right in turns', async () => {
    await withFolder(async (folder) => {
      const frames = [1, 200_000, 0, 900_000, 40].map((length) => randomBytes(length));
      const space = new FrameSpace();
      const readers = await Promise.all(
        ['one', 'two'].map(async (name) => {
          const { places } = write(join(folder, name), frames);
          return { reader: await open(join(folder, name), key, space), places };
        }),
      );
      for (const [at, frame] of frames.entries()) {
        for (const { reader, places } of readers) {
          const { offset, stored, plain } = places[at] ?? { offset: 0, stored: 0, plain: 0 };
          expect((await reader.readAt(offset, stored, plain)).equals(frame)).toBe(true);
        }
      }
      for (const { reader } of readers) reader.close();
    });
  });
});

describe('a file that was cut off while it was written', () => {
  test('anywhere, keeps its whole frames and is a whole file again', async () => {
    await withFolder(async (folder) => {
      const frames = [
        randomBytes(500),
        Buffer.alloc(4000, 'row|'),
        randomBytes(90),
        randomBytes(1),
      ];
      const path = join(folder, 'file');
      const { places, id } = write(path, frames);
      const whole = readFileSync(path);
      const ends = places.map(({ offset, stored }) => offset + stored + FRAME_OVERHEAD);
      for (let cut = 0; cut < whole.length; cut += cut < 60 ? 1 : 7) {
        writeFileSync(path, whole.subarray(0, cut));
        const kept: OpenedFrame[] = [];
        const facts = await salvage(path, 'pack', key, (frame) => {
          kept.push({ ...frame, plain: Buffer.from(frame.plain) });
        });
        const sound = ends.filter((end) => end <= cut).length;
        expect(kept.length, `cut at ${cut}`).toBe(sound);
        if (!facts) {
          expect(sound).toBe(0);
          // Nothing was worth keeping, and nothing was touched.
          expect(readFileSync(path)).toEqual(whole.subarray(0, cut));
          continue;
        }
        expect(facts.id).toEqual(id);
        const bytes = readFileSync(path);
        expect(facts.size).toBe(bytes.length);
        expect(facts.sha512).toBe(createHash('sha512').update(bytes).digest('hex'));
        expect(await read(path)).toEqual(frames.slice(0, sound));
        // What was there stays to the byte: a place is never used for other bytes under the same key.
        expect(bytes.subarray(0, ends[sound - 1])).toEqual(whole.subarray(0, ends[sound - 1]));
      }
    });
  });
});
