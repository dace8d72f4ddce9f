/** What can be taken out of a device by itself, as an open file. */
export const extractSets = ['messages', 'calls', 'tansy', 'corbel'] as const;
export type ExtractSet = (typeof extractSets)[number];
export const extractSetNames: Record<ExtractSet, string> = {
  messages: 'Messages',
  calls: 'Call log',
  tansy: 'Chats of Tansy',
  corbel: 'Chats of Corbel',
};

/** Open formats that records are written in. */
export const extractFormats = ['jsonl', 'csv', 'xml', 'html'] as const;
export type ExtractFormat = (typeof extractFormats)[number];
export const extractFormatWords: Record<ExtractFormat, string> = {
  jsonl: 'JSON Lines',
  csv: 'CSV',
  xml: 'XML',
  html: 'HTML',
};
export const extractFormatNames: Record<ExtractFormat, string> = {
  jsonl: 'JSON Lines',
  csv: 'CSV, for a spreadsheet',
  xml: 'XML',
  html: 'HTML, to read and print',
};

export const dateStyles = ['iso', 'words', 'seconds'] as const;
export type DateStyle = (typeof dateStyles)[number];
export const dateStyleNames: Record<DateStyle, string> = {
  iso: '2026-11-25T14:05:00Z',
  words: '25 Nov 2026, 14:05 (UTC)',
  seconds: '1795615500, seconds since 1970',
};
