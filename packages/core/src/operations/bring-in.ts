import { z } from 'zod';
import {
  byteCountSchema,
  copyIdSchema,
  itemCountSchema,
  rackIdSchema,
  rackNameSchema,
} from '../values/index.js';
import { defineOperation, outcome } from './define.js';

export const bringIn = defineOperation({
  kind: 'bringIn',
  name: 'Bring in',
  start: {
    path: '/bring-ins',
    summary: 'Take an archive that the catalogue does not know into it: from a rack or a folder.',
    params: z.object({}),
    body: z.object({
      rackId: rackIdSchema,
      /** Its name on the rack; null for one that lies in a folder elsewhere, and is copied onto the rack. */
      folder: rackNameSchema.nullable(),
      /** That folder's path on the shop computer. */
      path: z.string().max(4096).nullable(),
      /** Empty for one of which the very same bytes are known. */
      password: z.string().max(1024),
    }),
  },
  permission: 'take-package-in',
  triesPassword: true,
  about: { device: 'never', archive: 'always', backup: 'never' },
  version: 1,
  input: z.object({
    rackId: rackIdSchema,
    rackName: z.string(),
    folder: rackNameSchema,
    /** It lay in a folder elsewhere, whose path is in no row: it is copied onto the rack first. */
    copied: z.boolean(),
    copyId: copyIdSchema,
    /** What is there already of it under another name, and is not there any more. */
    renamed: copyIdSchema.nullable(),
  }),
  result: outcome({
    rackName: z.string(),
    /** The visit that it belongs to. */
    ticketNumber: z.string(),
    backups: itemCountSchema,
    storedBytes: byteCountSchema,
    /** The catalogue knew the archive: this is a copy of it. */
    isCopy: z.boolean(),
    damagedFiles: itemCountSchema,
    damagedItems: itemCountSchema,
    /** Backups whose list cannot be read: what was in them is not known. */
    lostBackups: itemCountSchema,
  }),
  phases: {
    copying: 'Copying onto the rack',
    'reading-back': 'Reading back from the rack',
    opening: 'Opening with the password',
    checking: 'Reading stored bytes back',
    reading: 'Opening every item',
  },
  firstPhase: 'opening',
  unstoppable: [],
  pausable: [],
  continues: null,
  leavesBench: false,
  givesWay: true,
  ifCut: {
    safe: 'What was found is as it was; nothing of it is in the catalogue.',
    next: 'Bring it in again: what was copied is not copied a second time.',
  },
  ifStopped: {
    safe: 'What was found is as it was; nothing of it is in the catalogue.',
    next: 'Bring it in again whenever there is time.',
  },
});
