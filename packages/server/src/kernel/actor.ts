import {
  builtInRole,
  builtInRoles,
  Failure,
  permissions,
  whoMay,
  type Permission,
} from '@bright-cellar/core';

/** Who acts. */
export interface Actor {
  /** Null where nobody did: the program itself, or somebody who is not signed in. */
  technicianId: string | null;
  name: string;
  /** What they may do; nobody in particular may do nothing. */
  may: readonly Permission[];
  /** SHA-256 of the session's token; null where there is none. */
  session: string | null;
  /** Where the request came from; null where there was none. */
  address: string | null;
}

/** Somebody who is signed in. */
export interface Person extends Actor {
  technicianId: string;
}

/** What the program does by itself. */
export const theProgram: Actor = {
  technicianId: null,
  name: '',
  may: [],
  session: null,
  address: null,
};

/** Somebody in whose name work goes on that they started before: what they may do was asked then. */
export const inTheNameOf = (technicianId: string): Person => ({
  ...theProgram,
  technicianId,
  may: builtInRole('technician').permissions,
});

/** What a role may do; nothing, where it is one that is no more. @param own of a role that the shop made */
export const permissionsOf = (role: string, own: readonly Permission[] | null) =>
  own ?? builtInRoles.find(({ id }) => id === role)?.permissions ?? [];

/** @throws Failure `not-allowed` */
export function mustBeAllowed(actor: Actor, permission: Permission): void {
  if (actor.may.includes(permission)) return;
  throw new Failure('not-allowed', {
    what: `Your role may not do this (“${permissions[permission]}”).`,
    next: `Ask one of those who may: ${whoMay(permission, builtInRoles)}.`,
  });
}
