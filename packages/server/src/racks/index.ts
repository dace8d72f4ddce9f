/** Racks: where they are, what room they have, and what lies on them beside archives. */
export { listPackages, PACKAGE_ENDING, PACKAGES } from './packages.js';
export { EXTRACTS, findRacks, freeName, listRacks, racksNow, rackWithRoom } from './racks.js';
export { mountedDrives } from './drives.js';
export { isWithin, racksAround, shownPlace } from './keeping.js';
export { keptAddress, mountedAt } from './addresses.js';
export { ailingAmong, ailingOf } from './looks.js';
export { archiveAt, folderOf, presentRacks, rackHere, storeOf } from './stores.js';
export { RackWatch } from './watch.js';
export { INCOMING, measureRecovered, waiting } from './recovered.js';
