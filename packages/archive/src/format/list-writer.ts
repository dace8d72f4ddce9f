import type { ArchiveKey } from '../keys/archive-key.js';
import { encodeLine, type BackupLine } from './backup-lines.js';
import { FRAME_MAX_PLAIN } from './sealed.js';
import { SealedWriter, type FileFacts } from './sealed-file.js';

/** Lines are gathered into frames of about this many bytes. */
const GATHER_BYTES = 256 * 2 ** 10;

/** Writes a backup's list, line by line. */
export class ListWriter {
  readonly #file: SealedWriter;
  #lines: Buffer[] = [];
  #bytes = 0;

  constructor(path: string, key: ArchiveKey) {
    this.#file = new SealedWriter(path, 'backup', key);
  }

  get path(): string {
    return this.#file.path;
  }

  add(line: BackupLine): void {
    const bytes = encodeLine(line);
    if (this.#bytes + bytes.length > FRAME_MAX_PLAIN) this.#seal();
    this.#lines.push(bytes);
    this.#bytes += bytes.length;
    if (this.#bytes >= GATHER_BYTES) this.#seal();
  }

  /** Hands everything so far to the operating system. */
  flush(): void {
    this.#seal();
    this.#file.flush();
  }

  finish(): FileFacts {
    this.#seal();
    return this.#file.finish();
  }

  close(): void {
    this.#file.close();
  }

  #seal(): void {
    if (this.#bytes === 0) return;
    this.#file.append(Buffer.concat(this.#lines));
    this.#lines = [];
    this.#bytes = 0;
  }
}
