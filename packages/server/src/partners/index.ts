/** Whom devices are kept in step with: customers' own address books and calendars. */
export { davPartner } from './dav.js';
export { filesPartner, heldFiles, type FilesPartner } from './files.js';
export type { Partner, PartnerCollection, PartnerResource } from './partner.js';
