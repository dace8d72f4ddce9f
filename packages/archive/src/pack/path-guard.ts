import { nameOfText } from '../format/names.js';
import { PathTable } from './path-table.js';

/** What the usual file systems take: bytes of one name, and of a whole path. */
const NAME_MAX_BYTES = 255;
const PATH_MAX_BYTES = 4096;

const FOLDER = 1;
const OTHER = 2;

/**
 * Whether what a source calls its items can be written anywhere again. A path that leads out of a folder, a name that is
 * too long, the same path twice, or a file that is a folder too, would keep a whole backup from being unpacked: such an
 * item is refused on the way in. Holds some thirty bytes for each path.
 */
export class PathGuard {
  #kinds = new PathTable();
  #lastFolder = '';

  /** @returns whether the item may be taken under its path. Each is asked for once, or after {@link clear}. */
  takes(path: string, kind: 'file' | 'folder' | 'link'): boolean {
    if (!isFit(path)) return false;
    const known = this.#kinds.get(path);
    // An empty folder may be told of beside what is in it.
    if (kind === 'folder' ? known === OTHER : known !== undefined) return false;
    if (!this.#takesFolders(path)) return false;
    this.#kinds.set(path, kind === 'folder' ? FOLDER : OTHER);
    return true;
  }

  /** Everything is told once more. */
  clear(): void {
    this.#kinds = new PathTable();
    this.#lastFolder = '';
  }

  /** Everything above a path is a folder, and nothing else. */
  #takesFolders(path: string): boolean {
    const folder = path.slice(0, Math.max(0, path.lastIndexOf('/')));
    if (folder === this.#lastFolder) return true;
    for (let end = folder.length; end > 0; end = folder.lastIndexOf('/', end - 1)) {
      const above = folder.slice(0, end);
      const known = this.#kinds.get(above);
      if (known === FOLDER) break;
      if (known === OTHER) return false;
    }
    for (let end = folder.length; end > 0; end = folder.lastIndexOf('/', end - 1)) {
      this.#kinds.set(folder.slice(0, end), FOLDER);
    }
    this.#lastFolder = folder;
    return true;
  }
}

function isFit(path: string): boolean {
  if (path.includes('\0') || nameOfText(path).length > PATH_MAX_BYTES) return false;
  return path
    .split('/')
    .every(
      (part) =>
        part !== '' &&
        part !== '.' &&
        part !== '..' &&
        (part.length * 3 <= NAME_MAX_BYTES || nameOfText(part).length <= NAME_MAX_BYTES),
    );
}
