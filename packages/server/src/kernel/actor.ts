import {
  Failure,
  mayDo,
  permissions,
  whoMay,
  type Permission,
  type Role,
} from '@bright-cellar/core';

/** Who acts. */
export interface Actor {
  /** Null where nobody did: the program itself, or somebody who is not signed in. */
  technicianId: string | null;
  name: string;
  role: Role | null;
  /** SHA-256 of the session's token; null where there is none. */
  session: string | null;
  /** Where the request came from; null where there was none. */
  address: string | null;
}

/** Somebody who is signed in. */
export interface Person extends Actor {
  technicianId: string;
  role: Role;
}

/** What the program does by itself. */
export const theProgram: Actor = {
  technicianId: null,
  name: '',
  role: null,
  session: null,
  address: null,
};

/** Somebody in whose name work goes on that they started before: what they may do was asked then. */
export const inTheNameOf = (technicianId: string): Person => ({
  ...theProgram,
  technicianId,
  role: 'technician',
});

/** @throws Failure `not-allowed` */
export function mustBeAllowed(actor: Actor, permission: Permission): void {
  if (actor.role !== null && mayDo(actor.role, permission)) return;
  throw new Failure('not-allowed', {
    what: `Your role may not do this (“${permissions[permission]}”).`,
    next: `Ask one of those who may: ${whoMay(permission)}.`,
  });
}
