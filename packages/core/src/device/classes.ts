/** The kinds of data on a device, in the order in which screens and sheets list them. */
export const dataClasses = {
  contacts: 'Contacts',
  calendar: 'Calendar',
  tasks: 'Tasks',
  messages: 'Messages',
  calls: 'Call log',
  notes: 'Notes',
  photographs: 'Photographs',
  videos: 'Videos',
  music: 'Music',
  'voice-notes': 'Voice notes',
  documents: 'Documents',
  health: 'Health',
  'saved-passwords': 'Saved passwords',
  settings: 'Settings and home screen',
  'web-history': 'Web history and bookmarks',
  alarms: 'Alarms',
  applications: 'Application data',
} as const;

export type DataClass = keyof typeof dataClasses;

export const dataClassIds = Object.keys(dataClasses) as [DataClass, ...DataClass[]];

export function isDataClass(text: string): text is DataClass {
  return Object.hasOwn(dataClasses, text);
}

/** What a backup that is not encrypted leaves out on some families. */
export const sensitiveClasses: ReadonlySet<DataClass> = new Set<DataClass>([
  'health',
  'saved-passwords',
  'web-history',
]);

/** The class of what lies at a path of a plain folder: its first folder says so; what lies elsewhere is a document. */
export function classOfPath(path: string): DataClass {
  const first = path.split('/')[0] ?? '';
  return path.includes('/') && isDataClass(first) ? first : 'documents';
}

/** The first part of a media type says what is in it; of some the whole does. */
const classOfType: Record<string, DataClass> = {
  'text/vcard': 'contacts',
  'text/calendar': 'calendar',
  image: 'photographs',
  video: 'videos',
  audio: 'music',
};

/** The class of contents of a media type; what is none of the others is a document. */
export const classOfMediaType = (type: string | null): DataClass =>
  classOfType[type ?? ''] ?? classOfType[type?.split('/')[0] ?? ''] ?? 'documents';

/**
 * The group of what lies at a path: an application, a thread, a database, an album. The second folder
 * says so; what lies directly under its class belongs to none (`''`).
 */
export function groupOfPath(path: string): string {
  const [first = '', second = '', ...rest] = path.split('/');
  return rest.length > 0 && isDataClass(first) ? second : '';
}
