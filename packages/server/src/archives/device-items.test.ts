import { entrySchema } from '@bright-cellar/device-link';
import { expect, test } from 'vitest';
import { itemOf } from './device-items.js';

const entry = (more: object) =>
  entrySchema.parse({
    ...{ id: 'e1', class: 'contacts', group: '', kind: 'file', path: 'contacts/1.vcf', bytes: 5 },
    ...{ modified: '2026-01-02T03:04:05.000Z', mode: null, revision: 'r1', ...more },
  });

test('what a device says that an entry is goes into the archive; where it does not say, nothing does', () => {
  expect(itemOf(entry({ format: 'text/vcard' }))).toMatchObject({
    ...{ path: 'contacts/1.vcf', mark: 'r1', format: 'text/vcard' },
  });
  expect(itemOf(entry({}))).not.toHaveProperty('format');
});
