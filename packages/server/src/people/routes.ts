import { routes } from '@bright-cellar/contract';
import { beginSession, currentSession, endSession } from '../http/index.js';
import type { Served } from '../served.js';
import { theProgram } from '../kernel/actor.js';
import { noteOnly } from '../kernel/unit-of-work.js';
import { sessionView } from './session-view.js';
import { accountView, changeOwnPassword, endOwnSessions } from './account.js';
import { addPerson, changePerson, givePassword, leave, listPeople } from './staff.js';
import { addRole, changeRole, dropRole, listRoles } from './roles.js';
import { signIn } from './technicians.js';
import { dropView, saveView, viewsOf } from './views.js';

/** Signing in and out, and one's own account: where it is signed in, who tried to, and its password. */
export function peopleRoutes({ answer, shop, live, config }: Served): void {
  const { db } = shop;
  answer(routes.signIn, async ({ body, response }) => {
    const technician = await signIn({ ...shop, actor: theProgram }, body.login, body.password);
    const csrf = await beginSession(db, technician.id, response);
    return sessionView(shop, config, technician, csrf);
  });
  answer(routes.session, ({ request }) => {
    const by = currentSession(request);
    if (!by) return null;
    const { technicianId: id, name, login, role, csrfToken } = by;
    return sessionView(shop, config, { id, name, login, role }, csrfToken);
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
  answer(routes.account, ({ context }) => accountView(db, context.actor.technicianId));
  answer(routes.endSessions, async ({ context, response }) => {
    for (const token of await endOwnSessions(context)) live.endSession(token);
    await endSession(db, context.actor.session ?? '', response);
    return {};
  });
  answer(routes.changeOwnPassword, async ({ context, body }) => {
    const ended = await changeOwnPassword(context, body);
    for (const token of ended) live.endSession(token);
    return accountView(db, context.actor.technicianId);
  });
}
