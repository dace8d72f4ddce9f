import type { RecordFormat } from './define.js';
import { oldFile, oldProperty } from './old-text.js';
import { folded, vcard } from './vcard.js';

/**
 * Cards as keyboard handsets write them: versit's vCard 2.1 (1996), in ISO 8859-1. It knows no birthday without its year, and no
 * picture but JPEG and GIF.
 */
export const oldVcard: RecordFormat<'contacts'> = {
  mediaType: 'text/x-vcard',
  kind: 'contacts',
  parse: (contents, path) => vcard.parse(contents, path),
  write({ contacts }) {
    const cards = contacts.flatMap((contact) => {
      const { name, numbers, emails, addresses, birthday, organisation, note, picture } = contact;
      const kind = PICTURES[picture?.mediaType ?? ''];
      return [
        ...['BEGIN:VCARD', 'VERSION:2.1'],
        // Wanted by versit; who wrote it knew its parts, and we no longer do.
        oldProperty('N', name, ''),
        oldProperty('FN', name),
        ...numbers.map((number) => oldProperty('TEL', number)),
        ...emails.map((email) => oldProperty('EMAIL;INTERNET', email)),
        ...addresses.map((address) => oldProperty('ADR', '', '', address, '', '', '', '')),
        ...(/^\d{4}-/.test(birthday) ? [`BDAY:${birthday.replaceAll('-', '')}`] : []),
        ...(organisation ? [oldProperty('ORG', organisation, '')] : []),
        ...(note ? [oldProperty('NOTE', note)] : []),
        ...(picture && kind ? [folded(`PHOTO;${kind};ENCODING=BASE64:${picture.base64}`), ''] : []),
        'END:VCARD',
      ];
    });
    return oldFile(cards);
  },
};

const PICTURES: Partial<Record<string, string>> = { 'image/jpeg': 'JPEG', 'image/gif': 'GIF' };
