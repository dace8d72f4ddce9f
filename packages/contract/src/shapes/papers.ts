/** What can be printed of a ticket, as PDF (ISO 32000). Read with the session’s cookie like any other answer. */
export const paperKinds = ['label', 'slip', 'handover'] as const;
export type PaperKind = (typeof paperKinds)[number];

/** A rack’s label, as PDF. */
export const rackLabelPath = (id: string): string => `/api/racks/${id}/label.pdf`;

/** The certificate of a disposal, as PDF. */
export const certificatePath = (id: string): string => `/api/disposals/${id}/certificate.pdf`;

export const paperPath = (number: string, kind: PaperKind): string =>
  `/api/tickets/${number}/${kind}.pdf`;

/** Languages in which a customer’s handover sheet can be written, each as its speakers call it. One more is one file of texts. */
export const handoverLanguages = {
  en: 'English',
  de: 'Deutsch',
  fr: 'Français',
  es: 'Español',
} as const;
export type HandoverLanguage = keyof typeof handoverLanguages;
export const handoverLanguageIds = Object.keys(handoverLanguages) as [
  HandoverLanguage,
  ...HandoverLanguage[],
];

/** A ticket’s handover sheet in a language. */
export const handoverPath = (number: string, language: HandoverLanguage): string =>
  `${paperPath(number, 'handover')}?language=${language}`;

/** The record as a file: one entry a line, or a table. Asks for the permission `audit`. */
export const AUDIT_EXPORT_PATH = '/api/audit/export';

/** The certificate of the installation’s own authority, as PEM (RFC 7468). Anybody may have it. */
export const AUTHORITY_PATH = '/authority.crt';

/** The sheet for opening the shop, or closing it, as PDF. */
export const daySheetPath = (which: string): string => `/api/day/${which}.pdf`;

/** What is known of a customer, as a file: `json` or `pdf`. Asks for the permission `customer-data`; on record. */
export const customerFilePath = (id: string, format: string): string =>
  `/api/customers/${id}/data.${format}`;

/** Open files that were taken out of a device, from their rack as one ZIP file. Asks for the permission `take-out`. */
export const operationTakenPath = (id: string): string => `/api/operations/${id}/taken`;
