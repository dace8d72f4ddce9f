import { collectAll, type BackupSummary, type OpenArchive } from '@bright-cellar/archive';
import { Failure, type LinkDeviceId } from '@bright-cellar/core';
import type { DeviceLink } from '@bright-cellar/device-link';
import type { Comparison, Pictured } from '@bright-cellar/contract';
import { Looked, type Surroundings } from '@bright-cellar/look';
import { Comparing, onDevice, otherBackup } from './comparing.js';
import type { OtherArchive } from './orders.js';
import { packing } from './packing.js';

const PICTURE_MAX_PIXELS = 120e6;
/** A picture on a page to print, of a side. */
const PRINTED_PIXELS = 700;

/** A backup in an open archive, read while somebody looks into it. */
export class LookedArchive extends Looked {
  readonly #archive: OpenArchive;
  readonly #backupId: string;
  readonly #takenAt: string;
  #comparing: Comparing | null = null;

  private constructor(
    archive: OpenArchive,
    { backupId, takenAt }: { backupId: string; takenAt: string },
    now: () => Date,
  ) {
    super(
      {
        takenAt,
        async *items() {
          for await (const { chunks, ...item } of archive.items(backupId))
            yield { ...item, contents: chunks.toString('latin1') };
        },
        read: ({ bytes, contents }, range) =>
          archive.contents({ bytes, chunks: Buffer.from(contents, 'latin1') }, range),
      },
      {
        now,
        zone: Intl.DateTimeFormat().resolvedOptions().timeZone,
        packing,
        tidy: collectAll,
        pages: printed,
      },
    );
    this.#archive = archive;
    this.#backupId = backupId;
    this.#takenAt = takenAt;
  }

  /** Begins to read it. The archive is closed with it. @throws Failure `not-found`, `archive-damaged` */
  static async begin(
    archive: OpenArchive,
    backupId: string,
    now: () => Date,
  ): Promise<LookedArchive> {
    try {
      const { header } = await archive.backup(backupId);
      // What work before it left behind, and what finding out where everything lies does, are not there beside all that is read.
      await collectAll();
      await archive.prepare();
      await collectAll();
      return new LookedArchive(archive, { backupId, takenAt: header.takenAt }, now);
    } catch (error) {
      await archive.close();
      throw error;
    }
  }

  /** Forgets all of it, the key first. */
  override async close(): Promise<void> {
    const reading = super.close();
    this.#archive.key.forget();
    await reading;
    await this.#comparing?.ended;
    await this.#archive.close();
  }

  /**
   * Begins to compare it with another backup of its archive, the newest of another archive, or a device; what was compared before is
   * forgotten.
   * @throws Failure `not-found` where there is no such backup; what opening the other archive throws
   */
  async compare(
    wanted: { backupId: string } | { deviceId: LinkDeviceId } | { other: OtherArchive },
    from: { link: DeviceLink; open: (other: OtherArchive) => Promise<OpenArchive> },
  ): Promise<Comparison> {
    const isLater = (takenAt: string) => takenAt > this.#takenAt;
    if ('backupId' in wanted) {
      const { header } = await this.#backup(wanted.backupId);
      await this.reading;
      this.#comparing = Comparing.withBackup(
        this.#compared(),
        wanted.backupId,
        isLater(header.takenAt),
        this.ended,
      );
    } else if ('other' in wanted) {
      const other = await from.open(wanted.other);
      try {
        const { header } = await other.latest();
        await other.prepare();
        await this.reading;
        this.#comparing = Comparing.withOther(
          this.#compared(),
          otherBackup(other, header.backup),
          isLater(header.takenAt),
          this.ended,
        );
      } catch (error) {
        await other.close();
        throw error;
      }
    } else {
      await this.reading;
      const device = onDevice(from.link, wanted.deviceId, this.ended);
      this.#comparing = Comparing.withOther(this.#compared(), device, true, this.ended);
    }
    return this.#comparing.state();
  }

  /** Also one that was taken while somebody looks. @throws Failure `not-found`, `archive-damaged` */
  async #backup(id: string): Promise<BackupSummary> {
    try {
      return await this.#archive.backup(id);
    } catch {
      await this.#archive.learnOfNew();
      return this.#archive.backup(id);
    }
  }

  #compared() {
    return { archive: this.#archive, backupId: this.#backupId };
  }

  /** What it is compared with. @throws Failure `not-found` where that is nothing */
  get comparing(): Comparing {
    if (!this.#comparing) throw new Failure('not-found');
    return this.#comparing;
  }

  /**
   * A picture of it as WebP, drawn anew: what a device says is a picture goes to no browser as it is.
   * @param pixels at most so many wide and high
   * @throws Failure `not-found`, `input-not-valid`
   */
  async drawn(what: Pictured, pixels: number): Promise<Buffer> {
    const contents = await this.picture(what);
    try {
      return await (await smaller(contents, pixels)).webp({ quality: 80 }).toBuffer();
    } catch (cause) {
      // The words of a decoder may hold what is in the picture.
      throw new Failure('input-not-valid', { what: 'That picture cannot be drawn.' }, { cause });
    }
  }
}

/** A conversation to print; what of its pictures cannot be drawn is named. */
const printed: NonNullable<Surroundings['pages']> = async function* (told, zone, drawn) {
  // What sets pages is large, and most never ask for any.
  const { conversationPages } = await import('../paper/index.js');
  yield* conversationPages(told, zone, async (path) => {
    try {
      const contents = await drawn(path);
      if (!contents) return null;
      const small = (await smaller(contents, PRINTED_PIXELS)).flatten({ background: 'white' });
      const { data: jpeg, info } = await small
        .jpeg({ quality: 82 })
        .toBuffer({ resolveWithObject: true });
      return { jpeg, width: info.width, height: info.height };
    } catch {
      return null;
    }
  });
};

async function smaller(contents: Uint8Array, pixels: number) {
  const { default: sharp } = await import('sharp');
  return sharp(contents, { limitInputPixels: PICTURE_MAX_PIXELS })
    .rotate()
    .resize({ width: pixels, height: pixels, fit: 'inside', withoutEnlargement: true });
}
