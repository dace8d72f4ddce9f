import { routes } from '@bright-cellar/contract';
import type { Response } from 'express';
import { Failure } from '@bright-cellar/core';
import { beginSession, currentSession, endSession, isTrusted } from '../http/index.js';
import type { Served } from '../served.js';
import { theProgram } from '../kernel/actor.js';
import { noteOnly } from '../kernel/unit-of-work.js';
import { sessionView } from './session-view.js';
import { accountView, changeOwnPassword, endOneSession, endOwnSessions } from './account.js';
import { lockSession, personByPin, setPin, unlockSession, whoHasPin } from './counter.js';
import {
  addPasskey,
  askForPasskey,
  dropPasskey,
  offerPasskey,
  signInByPasskey,
} from './passkeys.js';
import { dropCode, offerCode, useCode } from './second-factor.js';
import {
  addPerson,
  changePerson,
  givePassword,
  leave,
  listPeople,
  signOutPerson,
} from './staff.js';
import { addRole, changeRole, dropRole, listRoles } from './roles.js';
import { signIn, type Technician } from './technicians.js';
import { dropView, saveView, viewsOf } from './views.js';

/** Signing in and out, and one's own account: where it is signed in, who tried to, and its password. */
export function peopleRoutes({ answer, shop, live, config }: Served): void {
  const { db } = shop;
  const acting = { ...shop, actor: theProgram };
  const begun = async (technician: Technician, response: Response, full = true) => {
    const csrfToken = await beginSession(db, technician.id, response, full);
    return sessionView(shop, config, technician, { csrfToken });
  };
  answer(routes.signIn, async ({ body: { login, password, code }, response }) =>
    begun(await signIn(acting, login, password, code), response),
  );
  answer(routes.passkeyAsk, ({ request }) => askForPasskey(request));
  answer(routes.passkeySignIn, async ({ body, request, response }) =>
    begun(await signInByPasskey(acting, request, body), response),
  );
  answer(routes.atThisCounter, async ({ request }) =>
    (await isTrusted(db, request)) ? whoHasPin(db) : [],
  );
  answer(routes.takeOver, async ({ body, request, response }) => {
    if (!(await isTrusted(db, request))) {
      throw new Failure('sign-in-refused', {
        what: 'Nobody signed in in full on this computer today.',
        next: 'Sign in with name and password.',
      });
    }
    const before = currentSession(request)?.tokenHash;
    const technician = await personByPin(acting, body.technicianId, body.pin);
    await noteOnly(acting, {
      technicianId: technician.id,
      action: 'sign-in',
      what: 'Took the counter over with a PIN.',
    });
    const view = await begun(technician, response, false);
    if (before) live.endSession(before);
    return view;
  });
  answer(routes.session, ({ request }) => {
    const by = currentSession(request);
    if (!by) return null;
    const { technicianId: id, name, login, role } = by;
    return sessionView(shop, config, { id, name, login, role }, by);
  });
  answer(routes.lockSession, async ({ context }) => {
    await lockSession(context);
    live.pause(context.actor.session ?? '');
    return {};
  });
  answer(routes.unlockSession, async ({ context, body, request }) => {
    await unlockSession(context, body);
    const by = currentSession(request);
    if (!by) throw new Failure('not-signed-in');
    const { technicianId: id, name, login, role, csrfToken } = by;
    return sessionView(shop, config, { id, name, login, role }, { csrfToken });
  });
  answer(routes.signOut, async ({ context, response }) => {
    const { session } = context.actor;
    await endSession(db, session ?? '', response);
    await noteOnly(context, { action: 'sign-out', what: 'Signed out.' });
    live.endSession(session ?? '');
    return {};
  });
  answer(routes.people, () => listPeople(db));
  answer(routes.addPerson, async ({ context, body }) => {
    await addPerson(context, body);
    return listPeople(db);
  });
  answer(routes.changePerson, async ({ context, params, body }) => {
    await changePerson(context, params.id, body);
    return listPeople(db);
  });
  answer(routes.givePassword, async ({ context, params, body }) => {
    for (const token of await givePassword(context, params.id, body.password)) {
      live.endSession(token);
    }
    return listPeople(db);
  });
  answer(routes.personLeaves, async ({ context, params }) => {
    for (const token of await leave(context, params.id)) live.endSession(token);
    return listPeople(db);
  });
  answer(routes.roles, () => listRoles(db));
  answer(routes.addRole, async ({ context, body }) => {
    await addRole(context, body);
    return listRoles(db);
  });
  answer(routes.changeRole, async ({ context, params, body }) => {
    await changeRole(context, params.id, body);
    return listRoles(db);
  });
  answer(routes.dropRole, async ({ context, params }) => {
    await dropRole(context, params.id);
    return listRoles(db);
  });
  answer(routes.savedViews, ({ context }) => viewsOf(db, context.actor.technicianId));
  answer(routes.saveView, ({ context, body }) => saveView(db, context.actor.technicianId, body));
  answer(routes.dropView, ({ context, params }) =>
    dropView(db, context.actor.technicianId, params.id),
  );
  answer(routes.signOutPerson, async ({ context, params }) => {
    for (const token of await signOutPerson(context, params.id)) live.endSession(token);
    return listPeople(db);
  });
  answer(routes.account, ({ context }) => accountView(context));
  answer(routes.endSession, async ({ context, params }) => {
    live.endSession(await endOneSession(context, params.id));
    return accountView(context);
  });
  answer(routes.endSessions, async ({ context, response }) => {
    for (const token of await endOwnSessions(context)) live.endSession(token);
    await endSession(db, context.actor.session ?? '', response);
    return {};
  });
  answer(routes.changeOwnPassword, async ({ context, body }) => {
    const ended = await changeOwnPassword(context, body);
    for (const token of ended) live.endSession(token);
    return accountView(context);
  });
  answer(routes.offerCode, ({ context, body }) => offerCode(context, body.password));
  answer(routes.useCode, async ({ context, body }) => {
    await useCode(context, body.code);
    return accountView(context);
  });
  answer(routes.dropCode, async ({ context, body }) => {
    await dropCode(context, body.password);
    return accountView(context);
  });
  answer(routes.offerPasskey, ({ context, body, request }) =>
    offerPasskey(context, request, body.password),
  );
  answer(routes.addPasskey, async ({ context, body, request }) => {
    await addPasskey(context, request, body);
    return accountView(context);
  });
  answer(routes.dropPasskey, async ({ context, params }) => {
    await dropPasskey(context, params.id);
    return accountView(context);
  });
  answer(routes.setPin, async ({ context, body }) => {
    await setPin(context, body);
    return accountView(context);
  });
}
