import type { PartnerTold } from '@bright-cellar/contract';

/** How the other side is called, by what it is. */
export const otherSides: Record<
  PartnerTold['kind'],
  { where: string; as: string; counts: string; close: string }
> = {
  server: {
    ...{ where: 'In their books', as: 'As in their books' },
    ...{ counts: 'Their books count', close: 'Close their books' },
  },
  files: {
    ...{ where: 'In their files', as: 'As in their files' },
    ...{ counts: 'Their files count', close: 'Close their files' },
  },
  device: {
    ...{ where: 'On the other device', as: 'As on the other device' },
    ...{ counts: 'The other device counts', close: 'Choose another side' },
  },
  backup: {
    ...{ where: 'In the backup', as: 'As in the backup' },
    ...{ counts: 'The backup counts', close: 'Choose another side' },
  },
};
