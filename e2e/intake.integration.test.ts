import { describe, expect, test } from 'vitest';
import {
  type Archive,
  type BenchView,
  type DayReport,
  type Operation,
  type Listing,
  type PlanCost,
  type Rack,
  type RegularWork,
  type Ticket,
  type ShopSettings,
} from '@bright-cellar/contract';
import { dataClassIds, sensitiveClasses, type Problem } from '@bright-cellar/core';
import { openShop } from './open-shop.js';
import { Api, resultOf } from './api.js';
import {
  eventually,
  OWNED,
  PASSCODE,
  PASSWORD,
  SIGN_IN,
  MARL,
  QUILLON,
  openMarl,
  JOSS,
} from './product.js';

const WORN = 'vireo-arc-6';

const { product, api } = await openShop({
  only: [OWNED, MARL, QUILLON, WORN],
  owner: 'waits',
  waitForDeviceMs: 60_000,
});

const operation = async (id: string) => (await api.get<Operation>(`/api/operations/${id}`)).body;
const ticketNow = async (number: string) => (await api.get<Ticket>(`/api/tickets/${number}`)).body;
/** Waits until the work says what somebody must do. */
const needs = (id: string, sentence: RegExp) =>
  eventually(`“${sentence.source}”`, async () => sentence.exec((await operation(id)).needs ?? ''));
const confirm = (device: string, passcode: string) =>
  product.press(device, { do: 'confirm', passcode });

async function openVireo(): Promise<void> {
  await product.press(OWNED, { do: 'unlock', passcode: PASSCODE });
  await product.press(OWNED, { do: 'approve', passcode: PASSCODE });
}

describe('a Marl phone', () => {
  let ticket: string;

  test('is not read before its workshop port is on, and its owner is told how, step by step', async () => {
    ticket = await api.openTicket(MARL);
    await product.press(MARL, { do: 'unlock', passcode: '7351' });
    const refused = await api.startBackup(ticket);
    expect(refused.body).toMatchObject({ code: 'device-not-ready' });
    expect(refused.body.next).toMatch(/Switch on the workshop port/);
    const { body: bench } = await api.get<{
      berths: { number: number; readiness: { id: string; steps: string[] }[] }[];
    }>('/api/bench');
    const port = bench.berths[2]?.readiness.find((c) => c.id === 'workshop-port');
    expect(port?.steps.length).toBeGreaterThan(2);
    expect((await ticketNow(ticket)).step).toMatchObject({ id: 'connect', state: 'ready' });
    await openMarl(product);
  });

  test('keeps sealed chats back until somebody accepts that, and says which items failed and why', async () => {
    expect((await api.startBackup(ticket)).body.next).toMatch(/confirm their number in Tansy/);
    const started = await api.startBackup(ticket, { accepted: ['store-tansy', 'store-corbel'] });
    const ended = await api.ended(started.body.id);
    expect(ended.state).toBe('done');
    expect(ended.result?.failed).toEqual([
      expect.objectContaining({ class: 'applications', reason: 'the device did not give it out' }),
    ]);
    expect(ended.retryable).toBeGreaterThan(0);
    const { body: archive } = await api.get<Archive>(`/api/archives/${ended.archiveId}`);
    const line = archive.backups[0]?.coverage.find((l) => l.id === 'applications');
    expect(line).toMatchObject({ state: 'partly' });
  });

  test('and once the numbers are confirmed, only what failed is tried again', async () => {
    for (const application of ['tansy', 'corbel'])
      await product.press(MARL, { do: 'confirm-number', application });
    const [first] = (await ticketNow(ticket)).operations;
    const again = await api.post(`/api/operations/${first?.id}/retry`, { password: PASSWORD });
    expect(again.status).toBe(200);
    const ended = await api.ended(again.body.id);
    expect(ended.result?.failed).toEqual([]);
    expect(resultOf(ended, 'backup').newItems).toBe(first?.retryable);
    expect(ended.archiveId).toBe(first?.archiveId);
  });

  test('is listed without names until the customer agrees that the shop looks inside', async () => {
    const list = async () => (await api.get<Listing>(`/api/tickets/${ticket}/listing`)).body;
    const closed = await list();
    expect(closed.names).toBeNull();
    expect(closed.ids.length).toBeGreaterThan(150);
    await api.agree(ticket, 'look-in');
    const open = await list();
    expect(open.names).toHaveLength(closed.ids.length);
    expect(
      (await ticketNow(ticket)).history.filter((h) => h.what.includes('were listed')),
    ).toHaveLength(2);
  });

  test('gives single items, and a backup of them says what it is', async () => {
    const { body: listing } = await api.get<Listing>(`/api/tickets/${ticket}/listing`);
    const notes = listing.ids.flatMap((id, i) =>
      dataClassIds[listing.classes[i] ?? 0] === 'notes' ? [id] : [],
    );
    const choice = { contacts: true, [`notes/#${notes[0]}`]: true };
    const { body: cost } = await api.post<PlanCost>(`/api/tickets/${ticket}/costs`, {
      mode: 'chosen',
      choice,
      encrypted: true,
    });
    expect(cost.classes.find((c) => c.class === 'notes')?.items).toBe(1);
    const started = await api.startBackup(ticket, { mode: 'chosen', choice });
    const ended = await api.ended(started.body.id);
    expect(ended.result?.items).toBe(cost.estimate.items);
    expect(ended.estimate?.items).toBe(cost.estimate.items);
    const { body: archive } = await api.get<Archive>(`/api/archives/${ended.archiveId}`);
    expect(archive.backups[0]?.scope).toEqual({
      mode: 'chosen',
      encrypted: true,
      everything: false,
    });
    expect((await api.startBackup(ticket, { mode: 'chosen' })).body.code).toBe('nothing-chosen');
    // Remembered for this device, without the single note.
    const { body: plans } = await api.get<{ choice: object }[]>(`/api/tickets/${ticket}/plans`);
    expect(plans[0]?.choice).toEqual({ contacts: true });
  });
});

describe('a Vireo phone', () => {
  let ticket: string;

  test('asks its owner when a backup starts, and the work says so until they answer', async () => {
    await openVireo();
    ticket = await api.openTicket(OWNED);
    const { body } = await api.startBackup(ticket);
    await needs(body.id, /confirm with the passcode that the backup starts/);
    await confirm(OWNED, PASSCODE);
    expect((await api.ended(body.id)).state).toBe('done');
  });

  test('falls asleep in the middle, and the backup goes on when it is unlocked', async () => {
    await product.press(OWNED, { do: 'write-note', text: 'after the first backup' });
    const { body } = await api.startBackup(ticket);
    await needs(body.id, /confirm with the passcode/);
    await product.press(OWNED, {
      do: 'faults',
      faults: { rate: 2_000_000, sleepAfterBytes: 1_000_000 },
    });
    await confirm(OWNED, PASSCODE);
    await needs(body.id, /Unlock the phone on berth 1/);
    // Somebody takes their time to come.
    await new Promise((come) => setTimeout(come, 900));
    await product.press(OWNED, { do: 'unlock', passcode: PASSCODE });
    const ended = await api.ended(body.id);
    expect(ended).toMatchObject({ state: 'done', needs: null });
    expect(ended.result?.failed).toEqual([]);
    // How long somebody took to come says nothing of how long such a backup takes.
    const { durationMs, workedMs } = resultOf(ended, 'backup');
    expect(durationMs - (workedMs ?? 0)).toBeGreaterThan(800);
    expect(workedMs).toBeGreaterThan(0);
  });

  test('leaves its cable in the middle, comes back onto another, and the backup goes on by itself', async () => {
    const { body } = await api.startBackup(ticket);
    await needs(body.id, /confirm with the passcode/);
    await product.press(OWNED, { do: 'faults', faults: { cutAfterBytes: 1_000_000 } });
    await confirm(OWNED, PASSCODE);
    await needs(body.id, /Connect the device again/);
    await product.press(OWNED, { do: 'plug', berth: 2 });
    await needs(body.id, /Unlock the phone on berth 2/);
    await openVireo();
    await needs(body.id, /on berth 2, confirm with the passcode/);
    await confirm(OWNED, PASSCODE);
    expect(await api.ended(body.id)).toMatchObject({ state: 'done' });
  });

  test('waits where it is paused, and goes on from there', async () => {
    const { body } = await api.startBackup(ticket);
    await needs(body.id, /confirm with the passcode/);
    await product.press(OWNED, { do: 'faults', faults: { rate: 500_000 } });
    await confirm(OWNED, PASSCODE);
    await eventually('some bytes', async () => (await operation(body.id)).doneBytes > 300_000);
    await api.post(`/api/operations/${body.id}/pause`, { paused: true });
    await eventually('the pause', async () => (await operation(body.id)).state === 'paused');
    // What was on its way when it was asked to pause arrives.
    await new Promise((done) => setTimeout(done, 700));
    const before = await operation(body.id);
    await new Promise((done) => setTimeout(done, 900));
    expect((await operation(body.id)).doneBytes).toBe(before.doneBytes);
    await product.press(OWNED, { do: 'faults', faults: { rate: null } });
    await api.post(`/api/operations/${body.id}/pause`, { paused: false });
    const ended = await api.ended(body.id);
    expect(ended).toMatchObject({ state: 'done' });
    expect(ended.result?.failed).toEqual([]);
  });

  test('leaves sensitive classes out when the backup is not encrypted; anybody can open it, and nobody may erase by it', async () => {
    const { body } = await api.startBackup(ticket, { encrypted: false, password: '' });
    await needs(body.id, /confirm with the passcode/);
    await confirm(OWNED, PASSCODE);
    const ended = await api.ended(body.id);
    const { body: archive } = await api.get<Archive>(`/api/archives/${ended.archiveId}`);
    const [backup] = archive.backups;
    expect(backup?.scope).toMatchObject({ encrypted: false, everything: false });
    for (const id of sensitiveClasses) {
      expect(backup?.classes.some((c) => c.class === id)).toBe(false);
      expect(backup?.coverage.find((l) => l.id === id)?.state).toBe('outside');
    }
    const proof = await api.post(`/api/backups/${ended.backupId}/proofs`, {
      level: 'full',
      password: 'open to everybody',
    });
    expect((await api.ended(proof.body.id)).state).toBe('done');
    const erase = await api.post(`/api/devices/${OWNED}/erase`, { serialTail: '4Q81' });
    expect(erase.body.code).toBe('not-proven');
  });

  test('with a paired wearable says what is lost before it starts', async () => {
    await product.press(WORN, { do: 'plug', berth: 1 });
    await product.press(WORN, { do: 'unlock', passcode: '118203' });
    await product.press(WORN, { do: 'approve', passcode: '118203' });
    const worn = await api.openTicket(WORN);
    expect((await api.startBackup(worn)).body.next).toMatch(/Charge the phone on berth 1/);
    await product.press(WORN, { do: 'charge', percent: 60 });
    expect((await api.startBackup(worn)).body.next).toMatch(/Unpair Fenn’s band/);
    await product.press(WORN, { do: 'wearable', name: null });
    const { body } = await api.startBackup(worn);
    await needs(body.id, /confirm with the passcode/);
    await confirm(WORN, '118203');
    expect((await api.ended(body.id)).state).toBe('done');
  });
});

test('a Quillon handset gives its databases, and needs no approval', async () => {
  const ticket = await api.openTicket(QUILLON);
  const { body: listing } = await api.get<Listing>(`/api/tickets/${ticket}/listing`);
  expect(listing.groups.map((g) => [g.class, g.id, g.kind])).toContainEqual([
    'contacts',
    'NamesDB',
    'database',
  ]);
  const started = await api.startBackup(ticket, {
    mode: 'chosen',
    choice: { 'contacts/NamesDB': true, 'calendar/DatesDB': true },
  });
  const ended = await api.ended(started.body.id);
  const wanted = listing.groups.filter((g) => ['NamesDB', 'DatesDB'].includes(g.id));
  expect(ended.result?.items).toBe(wanted.reduce((sum, g) => sum + g.items, 0));
});

test('over the shop network instead of the cable: the connection drops, and everything arrives', async () => {
  await product.press(QUILLON, { do: 'pull-cable' });
  await product.press(QUILLON, { do: 'join-network' });
  await product.press(QUILLON, { do: 'faults', faults: { dropEveryBytes: 9_000 } });
  const { body: bench } = await eventually('the handset on the network', async () => {
    const answer = await api.get<{ berths: { number: number; connection: string }[] }>(
      '/api/bench',
    );
    return answer.body.berths.some((b) => b.connection === 'network') ? answer : null;
  });
  expect(bench.berths.at(-1)).toMatchObject({ number: 5, connection: 'network' });
  const started = await api.startBackup(await api.openTicket(QUILLON));
  const ended = await api.ended(started.body.id);
  expect(ended.state).toBe('done');
  expect(ended.result?.failed).toEqual([]);
});

test('four runs at once are each whole', async () => {
  for (const device of [MARL, QUILLON, WORN, OWNED]) {
    await product.press(device, { do: 'faults', faults: { rate: null, dropEveryBytes: null } });
  }
  await openMarl(product);
  const started = await Promise.all(
    [MARL, QUILLON, WORN, OWNED].map(async (device) => {
      const { body, status } = await api.startBackup(await api.openTicket(device));
      expect(status, JSON.stringify(body)).toBe(200);
      return body.id;
    }),
  );
  for (const [device, passcode] of [
    [WORN, '118203'],
    [OWNED, PASSCODE],
  ] as const) {
    await eventually(`the question on ${device}`, () =>
      confirm(device, passcode).then(
        () => true,
        () => false,
      ),
    );
  }
  for (const id of started) {
    const ended = await api.ended(id);
    expect(ended.state).toBe('done');
    const proof = await api.post(`/api/backups/${ended.backupId}/proofs`, {
      level: 'full',
      password: PASSWORD,
    });
    expect((await api.ended(proof.body.id)).state).toBe('done');
  }
});

describe('a ticket', () => {
  const typed = { familyName: 'Marl', model: 'Fell 2', kind: 'phone', serial: '', imei: '' };

  test('for a dead device is opened from what is printed on it, and tied to the real one later', async () => {
    const somebody = { name: 'Dorrit Fernlock', phone: '+44 7700 900341', email: '' };
    const as = { device: typed, reason: 'recovered', customer: somebody };
    const number = await api.openTicket('', as);
    const before = await ticketNow(number);
    expect(before.device).toMatchObject({ readFrom: 'typed', model: 'Fell 2' });
    expect(before.device.serial).toMatch(/^unread-/);
    expect(before.runSheet.map((s) => s.title)).toContain('Bring it in');
    const tie = (questionAnswered: boolean) =>
      api.post<Ticket>(`/api/tickets/${number}/device`, { deviceId: MARL, questionAnswered });
    expect((await tie(false)).body).toMatchObject({ code: 'device-of-another' });
    expect((await ticketNow(number)).device.readFrom).toBe('typed');
    expect((await tie(true)).body.device).toMatchObject({
      readFrom: 'cable',
      serial: 'MF3-70214-KX',
    });
  });

  test('whose device was described with another serial is not tied to what is on the cable unless somebody looked', async () => {
    const number = await api.openTicket('', { device: { ...typed, serial: 'MF9-00417-QB' } });
    const refused = await api.post<Ticket & Problem>(`/api/tickets/${number}/device`, {
      deviceId: MARL,
      questionAnswered: false,
    });
    expect(refused.body).toMatchObject({ code: 'device-differs' });
    expect(refused.body.what).toMatch(/MF9-00417-QB.*MF3-70214-KX/);
    expect((await ticketNow(number)).device.serial).toBe('MF9-00417-QB');
  });

  test('for a device that came with somebody else is questioned', async () => {
    const asked = { customer: { name: 'Bram Saltgate', phone: '', email: '' } };
    const refused = await api.post<Ticket>('/api/tickets', {
      ...asked,
      device: { deviceId: MARL },
      otherOwnerConfirmed: false,
      reason: 'repair',
      agreed: { backup: true, lookIn: false, escrow: false, keepDays: 0 },
      promisedAt: null,
      notes: '',
    });
    expect(refused.body).toMatchObject({ code: 'device-of-another' });
    expect(refused.body.what).toMatch(/Dorrit Fernlock/);
    const number = await api.openTicket(MARL, { ...asked, otherOwnerConfirmed: true });
    const { body: known } = await api.get<{ customer: { name: string }; visits: object[] }>(
      `/api/devices/${MARL}/visits`,
    );
    expect(known.customer.name).toBe('Bram Saltgate');
    expect(known.visits.length).toBeGreaterThan(1);
    expect((await ticketNow(number)).customer.name).toBe('Bram Saltgate');
  });

  test('of who is typed again under the same name and number is theirs; a name alone is nobody’s', async () => {
    let devices = 0;
    const idOf = async (customer: object) => {
      devices += 1;
      const device = { ...typed, serial: `MF9-0050${devices}-QB` };
      const number = await api.openTicket('', { device, customer });
      return (await ticketNow(number)).customer.id;
    };
    const greta = { name: 'Greta Wickholt', phone: '+44 7700 900342', email: '' };
    expect(await idOf(greta)).toBe(await idOf(greta));
    expect(await idOf({ ...greta, phone: '' })).not.toBe(await idOf({ ...greta, phone: '' }));
  });

  test('keeps every word about an agreement, with who and when; the last one counts', async () => {
    const number = await api.openTicket(MARL);
    await api.agree(number, 'escrow');
    await api.post(`/api/tickets/${number}/agreements`, {
      kind: 'escrow',
      given: false,
      days: null,
    });
    const { agreed, agreements } = await ticketNow(number);
    expect(agreed.escrow).toBe(false);
    expect(agreements.filter((a) => a.kind === 'escrow').map((a) => a.given)).toEqual([
      false,
      true,
      false,
    ]);
    expect(agreements[0]?.by).toBe('Wren Gorsegate');
  });

  test('skips only what harms nobody, with a reason, and is closed only when nothing is left', async () => {
    const number = await api.openTicket(MARL, { reason: 'repair' });
    const settle = (step: string, state: string, reason = '') =>
      api.post<Ticket>(`/api/tickets/${number}/steps/${step}`, { state, reason });
    expect((await settle('backup', 'skipped', 'in a hurry')).body.code).toBe('step-refused');
    expect((await settle('prove', 'done')).body.code).toBe('step-refused');
    expect((await settle('repair', 'skipped')).body.what).toMatch(/with a reason/);
    const skipped = await settle('repair', 'skipped', 'only looked at');
    expect(skipped.body.runSheet.find((s) => s.id === 'repair')).toMatchObject({
      state: 'skipped',
      sentence: expect.stringContaining('only looked at') as string,
    });
    expect((await api.post(`/api/tickets/${number}/close`)).body.code).toBe('step-refused');
    expect(
      (await settle('repair', 'open')).body.runSheet.find((s) => s.id === 'repair')?.state,
    ).not.toBe('skipped');
  });

  test.each(['label', 'slip', 'handover'])(
    'prints a %s that is a PDF, for who is signed in only',
    async (kind) => {
      const number = await api.openTicket(MARL);
      const response = await api.raw(`/api/tickets/${number}/${kind}.pdf`);
      expect(response.headers.get('content-type')).toBe('application/pdf');
      const bytes = Buffer.from(await response.arrayBuffer());
      expect(bytes.subarray(0, 5).toString()).toBe('%PDF-');
      expect(bytes.length).toBeGreaterThan(3000);
      const stranger = await fetch(`${product.address}/api/tickets/${number}/${kind}.pdf`);
      expect(stranger.status).toBe(401);
    },
  );
});

describe('the customer’s own page', () => {
  const deskState = async (ticket: string) =>
    (await api.get<{ state: string }>(`/api/tickets/${ticket}/desk`)).body.state;

  test('takes a password that no technician sees, and the backup opens with it', async () => {
    const ticket = await api.openTicket(QUILLON);
    expect((await api.startBackup(ticket, { fromDesk: true, password: '' })).body.code).toBe(
      'not-found',
    );
    const { body: desk } = await api.post<{ address: string; code: string }>(
      `/api/tickets/${ticket}/desk`,
    );
    expect(desk.code).toMatch(/^<svg/);
    const path = new URL(desk.address).pathname;
    const stranger = new Api({ address: product.deskAddress });
    expect(new URL(desk.address).origin).toBe(product.deskAddress);
    const page = await stranger.get<object>(`/api${path}`);
    expect(page.body).toEqual({
      shopName: 'Harrow Street Repairs',
      device: 'Quillon Q40',
      action: 'backup',
      until: expect.any(String) as string,
      openings: 1,
      openedBy: [],
    });
    const weak = await stranger.post(`/api${path}`, { password: '1234', reminder: '' });
    expect(weak.body.code).toBe('weak-password');
    const given = { password: 'ferry lantern quince mole', reminder: 'the usual' };
    expect((await stranger.post(`/api${path}`, given)).status).toBe(200);
    expect(await deskState(ticket)).toBe('given');
    const started = await api.startBackup(ticket, { fromDesk: true, password: '' });
    const ended = await api.ended(started.body.id);
    expect(ended.state).toBe('done');
    const { body: archive } = await api.get<Archive>(`/api/archives/${ended.archiveId}`);
    expect(archive.reminder).toBe('the usual');
    // The page is closed; what was typed is held for the proof, and for nothing after it.
    expect((await stranger.get(`/api${path}`)).body.code).toBe('not-found');
    expect(await deskState(ticket)).toBe('held');
    const prove = () =>
      api.post(`/api/backups/${ended.backupId}/proofs`, {
        level: 'full',
        fromDesk: true,
        password: '',
      });
    expect((await api.ended((await prove()).body.id)).state).toBe('done');
    expect(await deskState(ticket)).toBe('none');
    expect((await prove()).body.code).toBe('not-found');

    // Typed again on a page of their own: a wrong one opens nothing and is forgotten at once.
    const typeAgain = async (password: string, action = 'proof', visit = ticket) => {
      const { body } = await api.post<{ address: string }>(`/api/tickets/${visit}/desk`, {
        action,
      });
      const again = `/api${new URL(body.address).pathname}`;
      // Somebody of the shop who opens it first is noticed, by the customer and on the ticket.
      await api.at(product.deskAddress).get(again);
      expect((await stranger.get(again)).body).toMatchObject({
        ...{ action, openings: 2, openedBy: ['Wren Gorsegate'] },
      });
      expect((await stranger.post(again, { password, reminder: '' })).status).toBe(200);
      // The first word closes it.
      expect((await stranger.post(again, { password, reminder: '' })).body.code).toBe('not-found');
    };
    await typeAgain('1234');
    expect((await prove()).body.code).toBe('wrong-password');
    expect(await deskState(ticket)).toBe('none');
    await typeAgain(given.password);
    expect((await api.ended((await prove()).body.id)).state).toBe('done');

    // At a later visit, on another ticket: the device is the same, and so are its archive and its password.
    const later = await api.openTicket(QUILLON);
    const restore = { deviceId: QUILLON, serialTail: '8822', fromDesk: true, password: '' };
    const refused = await api.post(`/api/backups/${ended.backupId}/restores`, restore);
    expect(refused.body).toMatchObject({ what: expect.stringMatching(/has not typed/) as string });
    await typeAgain(given.password, 'package', later);
    const { body: racks } = await api.get<Rack[]>('/api/racks');
    const exported = await api.post(`/api/backups/${ended.backupId}/exports`, {
      rackId: racks[0]?.id,
      fromDesk: true,
      password: '',
    });
    expect((await api.ended(exported.body.id)).state).toBe('done');
    expect(await deskState(later)).toBe('held');
    // Typed for a package: no proof is started with it.
    expect((await prove()).body.what).toBe('What the customer typed was for something else.');
    // What the holder of one device typed opens no other device's archive, and is not tried there.
    await typeAgain(given.password, 'further', later);
    const other = await api.openTicket(MARL);
    expect((await api.startBackup(other, { fromDesk: true, password: '' })).body.code).toBe(
      'not-found',
    );
    expect(await deskState(other)).toBe('none');
    const { body: seen } = await api.get<{ history: { by: string; what: string }[] }>(
      `/api/tickets/${ticket}`,
    );
    const said = seen.history.map(({ by, what }) => `${by}: ${what}`).join('\n');
    expect(said).toMatch(/Wren Gorsegate: A page was opened for the customer’s password/);
    expect(said).toMatch(/Wren Gorsegate: The customer’s page was opened where they are signed in/);
    expect(said).toMatch(/: The customer’s page was opened\./);
    expect(said).toMatch(/: The customer typed a password/);
  });

  test('cannot be found by guessing', async () => {
    const stranger = new Api({ address: product.deskAddress });
    const guess = await stranger.get(`/api/desk/${'A'.repeat(22)}`);
    expect(guess.status).toBe(404);
  });

  test('has a door of its own, on which nothing else is; and is not at the other', async () => {
    const [desk, shop] = [product.deskAddress, product.address];
    const page = await fetch(`${desk}/desk/${'A'.repeat(22)}`);
    expect(page.headers.get('content-type')).toMatch(/^text\/html/);
    const signedIn = api.at(desk);
    for (const path of [
      '/',
      '/tickets/26110001',
      '/healthz',
      '/api/racks',
      '/api/session',
      '/authority.crt',
    ]) {
      expect((await signedIn.raw(path)).status, path).toBe(404);
    }
    expect((await api.at(desk).signIn(SIGN_IN)).status).toBe(404);
    expect((await api.at(shop).get(`/api/desk/${'A'.repeat(22)}`)).body.code).toBe('not-found');
    expect((await api.at(shop).post(`/api/desk/${'A'.repeat(22)}`)).body.code).toBe('not-found');
  });
});

test('the shop’s name pattern is checked, and names the next archive', async () => {
  const refused = await api.houseRules({
    namePattern: '{ticket} {moon}',
    updatePolicy: 'never',
  });
  expect(refused.status).toBe(422);
  await api.houseRules({
    namePattern: '{customer}_{ticket}_{date}',
    updatePolicy: 'never',
  });
  const ticket = await api.openTicket(QUILLON);
  const ended = await api.ended((await api.startBackup(ticket)).body.id);
  const { body: archive } = await api.get<Archive>(`/api/archives/${ended.archiveId}`);
  expect(archive.copies[0]?.folder).toMatch(
    new RegExp(`^tamsin-orchardgate_${ticket}_\\d{4}-\\d\\d-\\d\\d$`),
  );
});

describe('regular backups', () => {
  const everyMonday = {
    rule: 'weekly',
    weekday: 1,
    at: 13 * 60,
    quiet: null,
    catchUp: true,
    overNetwork: true,
  };
  const regular = async () => (await api.get<RegularWork[]>('/api/schedules')).body;

  test('start by themselves when something changed, once somebody has typed the password', async () => {
    const ticket = await api.openTicket(MARL, { reason: 'loaner' });
    expect((await api.ended((await api.startBackup(ticket)).body.id)).state).toBe('done');
    const body = {
      schedule: { ...everyMonday, rule: 'on-connect' },
      wholeCustomer: false,
      extract: null,
    };
    const [made] = (await api.post<RegularWork[]>(`/api/tickets/${ticket}/schedule`, body)).body;
    expect(made).toMatchObject({ ticketNumber: ticket, state: 'waiting', armedUntil: null });
    const arm = (password: string) =>
      api.post<RegularWork[]>(`/api/schedules/${made?.id}/arm`, { password });
    expect((await arm('not its password')).body.code).toBe('wrong-password');
    await product.press(MARL, { do: 'write-note', text: 'changed since' });
    expect((await arm(PASSWORD)).body[0]?.armedUntil).not.toBeNull();
    const started = await eventually('the backup that starts by itself', async () => {
      const [newest, ...earlier] = (await ticketNow(ticket)).operations;
      return earlier.length > 0 && newest?.kind === 'backup' ? newest : null;
    });
    const ended = await api.ended(started.id);
    expect(resultOf(ended, 'backup').newItems).toBe(1);
    // Nothing changed since: the next look starts nothing.
    await arm(PASSWORD);
    expect((await ticketNow(ticket)).operations).toHaveLength(2);
    expect((await api.send('DELETE', `/api/schedules/${made?.id}`)).body).toEqual([]);
  });

  test('say when they are due, and what they wait for', async () => {
    const ticket = await api.openTicket(MARL, { reason: 'loaner' });
    await api.post(`/api/tickets/${ticket}/schedule`, {
      schedule: everyMonday,
      wholeCustomer: false,
      extract: null,
    });
    const [made] = await regular();
    expect(new Date(made?.nextDue ?? 0).getTime()).toBeGreaterThan(Date.now());
    expect(new Date(made?.nextDue ?? 0).getDay()).toBe(1);
    expect(made).toMatchObject({ lastDone: null, state: 'waiting' });
    // A part that was taken in between is not the backup of everything that is due.
    const part = await api.startBackup(ticket, { mode: 'chosen', choice: { notes: true } });
    expect((await api.ended(part.body.id)).state).toBe('done');
    expect(await regular()).toMatchObject([{ lastDone: null }]);
    const all = await api.startBackup(ticket);
    expect((await api.ended(all.body.id)).state).toBe('done');
    expect((await regular())[0]?.lastDone).not.toBeNull();
  });
});

test('the day’s report counts what ran, and how estimates came out', async () => {
  const ticket = await api.openTicket(QUILLON);
  await api.post(`/api/tickets/${ticket}/costs`, {
    mode: 'everything',
    choice: {},
    encrypted: true,
  });
  const ended = await api.ended((await api.startBackup(ticket)).body.id);
  const today = new Date();
  const day = `${today.getFullYear()}-${String(today.getMonth() + 1).padStart(2, '0')}-${String(today.getDate()).padStart(2, '0')}`;
  const { body: report } = await api.get<DayReport>(`/api/reports/day?day=${day}`);
  const { body: runs } = await api.get<{ rows: Operation[]; total: number }>(
    `/api/reports/day/runs?day=${day}`,
  );
  expect(runs.rows.some((r) => r.id === ended.id)).toBe(true);
  expect(report.hours.reduce((sum, h) => sum + h.runs, 0)).toBe(runs.total);
  const last = report.estimates.at(-1);
  expect(last?.ticketNumber).toBe(ticket);
  const likely = ended.estimate?.stored.likely ?? 0;
  expect(last?.storedError).toBeCloseTo(resultOf(ended, 'backup').storedBytes / likely - 1, 6);
});

test('an update is offered, and installed only where the policy allows it', async () => {
  const offer = { version: '9.9', bytes: 1 };
  await product.press(MARL, { do: 'offer-update', update: offer });
  const update = (serialTail: string) => api.post(`/api/devices/${MARL}/update`, { serialTail });
  const policy = (updatePolicy: ShopSettings['updatePolicy']) =>
    api.houseRules({
      namePattern: '{ticket}_{date}',
      updatePolicy,
    });
  await policy('never');
  expect((await update('4-KX')).body.what).toMatch(/does not update customers’ devices/);
  await policy('ask');
  expect((await update('4-KX')).body.what).toMatch(/Not before its backup is proven/);
  await api.provenBackup(MARL);
  expect((await update('0000')).body.code).toBe('wrong-serial');
  expect((await update('4-KX')).status).toBe(200);
  const bench = async () => (await api.get<BenchView>('/api/bench')).body;
  // While it installs it is off the bench, and its berth is kept for it.
  await eventually('a phone that is away', async () =>
    (await bench()).away.some((a) => a.deviceId === MARL),
  );
  await eventually('the updated phone', async () =>
    (await bench()).berths.some((b) => b.device?.osVersion === '9.9'),
  );
  expect((await bench()).away).toEqual([]);
});

describe('escrow', () => {
  const wren = { login: 'wren', password: 'lantern-steps-four', phrase: 'copper anvil rising' };
  const joss = { ...JOSS, phrase: 'seven herons wading' };
  const set = { newPassword: 'orchard tin mile dune', passwordHolder: 'customer', reminder: 'new' };

  test('is asked for where the customer agreed to it, and takes two different people to set up', async () => {
    const ticket = await api.openTicket(QUILLON);
    await api.agree(ticket, 'escrow');
    expect((await api.startBackup(ticket)).body.code).toBe('escrow-missing');
    const alone = await api.post('/api/escrow', {
      people: [wren, { ...wren, phrase: joss.phrase }],
    });
    expect(alone.body.code).toBe('two-people');
    const { body } = await api.post<{ people: string[] }>('/api/escrow', { people: [wren, joss] });
    expect(body.people).toEqual(['Wren Gorsegate', 'Joss Kelholt']);
  });

  test('opens a lost archive only with both phrases, gives it another password, and is on record', async () => {
    const ticket = await api.openTicket(QUILLON);
    await api.agree(ticket, 'escrow');
    const ended = await api.ended((await api.startBackup(ticket)).body.id);
    const open = (people: object[]) =>
      api.post(`/api/archives/${ended.archiveId}/escrow`, { people, ...set });
    expect((await open([wren, { ...joss, phrase: 'not his phrase' }])).body.code).toBe(
      'wrong-password',
    );
    expect((await open([wren, { ...joss, password: 'not his' }])).body.code).toBe(
      'sign-in-refused',
    );
    expect((await open([joss, wren])).status).toBe(200);
    const proof = await api.post(`/api/backups/${ended.backupId}/proofs`, {
      level: 'full',
      password: set.newPassword,
    });
    expect((await api.ended(proof.body.id)).state).toBe('done');
    const { history } = await ticketNow(ticket);
    expect(history.filter((h) => h.what.includes('by escrow'))).toHaveLength(2);
    // Nothing of it in the database but what both phrases open together.
    expect(JSON.stringify(history)).not.toContain('copper');
  });

  test('opens nothing whose customer did not agree', async () => {
    const ended = await api.ended((await api.startBackup(await api.openTicket(QUILLON))).body.id);
    const refused = await api.post(`/api/archives/${ended.archiveId}/escrow`, {
      people: [wren, joss],
      ...set,
    });
    expect(refused.body.what).toMatch(/did not agree to escrow/);
  });
});
