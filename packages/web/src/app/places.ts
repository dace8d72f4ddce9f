import { account } from '../account/place.js';
import { archives } from '../archives/place.js';
import { bringApplications } from '../bring-applications/place.js';
import { bringBack } from '../bring-back/place.js';
import { organiser } from '../organiser/place.js';
import { condition } from '../condition/place.js';
import { counter } from '../counter/place.js';
import { customer } from '../customer/place.js';
import { day } from '../day/place.js';
import { intake } from '../intake/place.js';
import { keep } from '../keep/place.js';
import { look } from '../look/place.js';
import { network } from '../network/place.js';
import { people } from '../people/place.js';
import { plan } from '../plan/place.js';
import { record } from '../record/place.js';
import { racks } from '../racks/place.js';
import { regular } from '../regular/place.js';
import { reports } from '../reports/place.js';
import { restore } from '../restore/place.js';
import { settings } from '../settings/place.js';
import { firstSteps } from '../setup/place.js';
import { ticket } from '../ticket/place.js';
import type { Place } from './place.js';

/** Every place there is, in the order in which the house shows them. One line adds one. */
export const places: readonly Place[] = [
  ...[counter, regular, reports, archives, racks, keep, people, record, condition, settings],
  ...[
    customer,
    day,
    firstSteps,
    look,
    network,
    intake,
    ticket,
    plan,
    bringBack,
    organiser,
    bringApplications,
    restore,
    account,
  ],
];
