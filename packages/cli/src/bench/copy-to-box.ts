import { readFileSync } from 'node:fs';
import {
  archiveIn,
  ArchiveFiles,
  copyArchive,
  openStore,
  storeAddressSchema,
} from '@bright-cellar/archive';

/** `copy-to-box.js ARCHIVE ADDRESS`: a copy of an archive onto a rack whose address stands in a file. For the bench. */
const [archive = '', address = ''] = process.argv.slice(2);
const parsed: unknown = JSON.parse(readFileSync(address, 'utf8'));
const store = openStore(storeAddressSchema.parse(parsed));
await copyArchive({ from: archiveIn(archive), to: new ArchiveFiles(store, 'copy') });
process.exit();
