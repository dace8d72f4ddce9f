import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import mysql from 'mysql2/promise';
import type {
  PersonRow,
  Archive,
  Operation,
  RegularWork,
  ShopSettings,
} from '@bright-cellar/contract';
import { auditActions, isOver } from '@bright-cellar/core';
import { describe, expect, test } from 'vitest';
import type { Shop } from '../open-shop.js';
import { Api } from '../api.js';
import { eventually, OWNED, PASSCODE, PASSWORD, SIGN_IN, WIPED, JOSS } from '../product.js';

/** Whatever somebody does to a customer’s data, or lets be done, leaves its line: who, on which ticket, what. Last: the keeper’s password is another one after it. */
export const record = ({ product, api, db }: Shop) =>
  describe('on record', () => {
    let ticket = '';
    let backupId = '';
    let archiveId = '';
    /** The operation that was started last. */
    let operation = '';
    let storageId = '';

    interface Line {
      what: string;
      by: string | null;
      ticket: string | null;
    }
    async function linesSince(id: number, action: string): Promise<Line[]> {
      const [rows] = await db.query<mysql.RowDataPacket[]>(
        `select a.what, t.login as \`by\`, k.number as ticket from audit a
     left join technicians t on t.id = a.technician_id left join tickets k on k.id = a.ticket_id
     where a.id > ? and a.action = ? order by a.id`,
        [id, action],
      );
      return rows as Line[];
    }
    async function newest(): Promise<number> {
      const [[row]] = await db.query<mysql.RowDataPacket[]>('select max(id) as id from audit');
      return Number(row?.id ?? 0);
    }

    const must = (answer: { status: number; body: object }) => {
      if (answer.status !== 200) throw new Error(JSON.stringify(answer.body));
    };
    const start = async (answer: Promise<{ status: number; body: { id: string } }>) => {
      const started = await answer;
      must(started);
      operation = started.body.id;
    };
    const racks = async () => (await api.get<{ id: string }[]>('/api/racks')).body;
    const settings = (updatePolicy: ShopSettings['updatePolicy']) =>
      api.houseRules({
        namePattern: '{ticket} {date}',
        updatePolicy,
      });
    const schedule = {
      ...{ rule: 'weekly', weekday: 1, at: 780, quiet: null, catchUp: true, overNetwork: true },
    };
    const people = (phrase: string) => [
      { ...SIGN_IN, phrase: `${phrase} one two three` },
      { ...JOSS, phrase: `${phrase} four five six` },
    ];
    const plan = {
      mode: 'chosen',
      choice: { contacts: true },
      encrypted: true,
      name: 'Just contacts',
    };

    let maple = '';
    let fenna = '';
    let archivist = '';
    const FIRST = 'copper boats under snow';
    const rackRules = { name: 'Maple', note: '', reserve: 0, offPremises: false };

    /** Each action, what does it, and what its line says; `null` where it belongs to no ticket. */
    const acts: [action: string, act: () => Promise<unknown>, says: RegExp, onTicket?: null][] = [
      ['sign-in', async () => api.signIn(SIGN_IN), /Signed in/, null],
      [
        'sign-in-refused',
        async () => new Api(product).signIn({ ...SIGN_IN, password: 'a wrong one' }),
        /refused|wrong|password/i,
        null,
      ],
      ['settings-changed', async () => must(await settings('never')), /./, null],
      [
        'storage-connected',
        async () => {
          const folder = join(product.data, 'drives/card');
          mkdirSync(join(folder, 'in'), { recursive: true });
          const asked = { folder, of: 'device', kind: 'phone', name: 'Grey one', model: 'Slate 4' };
          const connect = (more: object) =>
            api.post<{ deviceId: string; code?: string }>('/api/bench/storage', {
              ...asked,
              ...more,
            });
          // What lies nowhere near such storage, and what is a rack, is refused and leaves no line.
          for (const other of ['/etc', product.data, join(product.data, 'racks/alder')])
            expect((await connect({ folder: other, serial: null })).body.code).toBe(
              'input-not-valid',
            );
          const listed = { path: join(product.data, 'drives/../run') };
          expect((await api.post('/api/bench/storage/folders', listed)).status).toBe(422);
          expect((await api.post('/api/bench/storage/folders', { path: folder })).body).toEqual({
            folders: ['in'],
          });
          const connected = await connect({ serial: 'SL4-0011-AA' });
          must(connected);
          storageId = connected.body.deviceId;
        },
        /put on berth \d: Mounted storage, Slate 4, SL4-0011-AA/,
        null,
      ],
      [
        'storage-let-go',
        async () => must(await api.send('DELETE', `/api/bench/storage/${storageId}`)),
        /taken off berth \d/,
        null,
      ],
      [
        'person-added',
        async () => {
          const body = { name: 'Fenna Elder', login: 'fenna', role: 'trainee', password: FIRST };
          const added = await api.post<PersonRow[]>('/api/people', body);
          must(added);
          fenna = added.body.find(({ login }) => login === 'fenna')?.id ?? '';
        },
        /^Fenna Elder works here from now on, as a trainee\.$/,
        null,
      ],
      [
        'person-changed',
        async () =>
          must(
            await api.send('PUT', `/api/people/${fenna}`, { name: 'Fenna E.', role: 'technician' }),
          ),
        /^Fenna Elder, now Fenna E\., is a technician from now on\.$/,
        null,
      ],
      [
        'person-left',
        async () => must(await api.post(`/api/people/${fenna}/leave`)),
        /^Fenna E\. works here no longer\.$/,
        null,
      ],
      [
        'role-added',
        async () => {
          const made = await api.post<{ id: string; name: string }[]>('/api/roles', {
            name: 'Archivist',
            permissions: ['copy'],
          });
          must(made);
          archivist = made.body.find(({ name }) => name === 'Archivist')?.id ?? '';
        },
        /^One can work here as Archivist from now on\.$/,
        null,
      ],
      [
        'role-changed',
        async () =>
          must(await api.send('PUT', `/api/roles/${archivist}`, { name: 'A', permissions: [] })),
        /^What Archivist, now A, may do was changed\.$/,
        null,
      ],
      [
        'role-dropped',
        async () => must(await api.send('DELETE', `/api/roles/${archivist}`)),
        /^Nobody can work here as A any more\.$/,
        null,
      ],
      ['ticket-opened', async () => (ticket = await api.openTicket(OWNED)), /./],
      ['agreement', async () => must(await api.agree(ticket, 'look-in')), /look/i],
      [
        'contents-listed',
        async () => must(await api.get(`/api/tickets/${ticket}/listing?of=groups`)),
        /./,
      ],
      [
        'plan-saved',
        async () => must(await api.post(`/api/tickets/${ticket}/plans`, plan)),
        /plan/i,
      ],
      [
        'desk-opened',
        async () => must(await api.post(`/api/tickets/${ticket}/desk`, { action: 'proof' })),
        /prove that its backup opens/,
      ],
      ['backup-started', async () => start(api.startBackup(ticket)), /./],
      [
        'operation-ended',
        async () => {
          await eventually('the phone to ask', async () => {
            await product
              .press(OWNED, { do: 'confirm', passcode: PASSCODE })
              .catch(() => undefined);
            const { body } = await api.get<{ state: Operation['state'] }>(
              `/api/operations/${operation}`,
            );
            return isOver(body.state);
          });
          const ended = await api.ended(operation);
          expect(ended.state).toBe('done');
          [backupId, archiveId] = [ended.backupId ?? '', ended.archiveId ?? ''];
        },
        /^Backup taken: \d+ items/,
      ],
      [
        'wrong-password',
        async () => api.post(`/api/backups/${backupId}/proofs`, { level: 'full', password: 'no' }),
        /./,
      ],
      [
        'password-changed',
        async () => {
          const given = { password: PASSWORD, newPassword: PASSWORD, passwordHolder: 'shop' };
          must(await api.post(`/api/archives/${archiveId}/holder`, { ...given, reminder: '' }));
        },
        /password/i,
      ],
      [
        'prove-started',
        async () =>
          start(api.post(`/api/backups/${backupId}/proofs`, { level: 'full', password: PASSWORD })),
        /Proof started/,
      ],
      [
        'export-started',
        async () => {
          await api.ended(operation);
          const wanted = { rackId: (await racks())[1]?.id, password: PASSWORD };
          await start(api.post(`/api/backups/${backupId}/exports`, wanted));
        },
        /Export started/,
      ],
      [
        'copy-started',
        async () => {
          await api.ended(operation);
          const rackId = (await racks())[1]?.id;
          await start(api.post(`/api/archives/${archiveId}/copies`, { rackId }));
        },
        /^Copy started: .* from Alder onto Birch/,
      ],
      [
        'check-started',
        async () => {
          await api.ended(operation);
          const { body } = await api.get<Archive>(`/api/archives/${archiveId}`);
          await start(api.post(`/api/copies/${body.copies[0]?.id}/checks`, {}));
        },
        /^Check started: /,
      ],
      [
        'schedule-changed',
        async () =>
          must(
            await api.post<RegularWork[]>(`/api/tickets/${ticket}/schedule`, {
              ...{ schedule, wholeCustomer: false, extract: null },
            }),
          ),
        /./,
      ],
      [
        'restore-started',
        async () => {
          await product.press(WIPED, { do: 'plug', berth: 2 });
          await product.press(WIPED, { do: 'approve', passcode: '' });
          await product.press(WIPED, { do: 'owner-lock-off' });
          await product.press(WIPED, { do: 'charge', percent: 90 });
          const to = { deviceId: WIPED, serialTail: '0T57', password: PASSWORD };
          await eventually('the target to be ready', async () => {
            const answer = await api.post(`/api/backups/${backupId}/restores`, to);
            if (answer.status === 200) operation = answer.body.id;
            return answer.status === 200;
          });
        },
        /./,
      ],
      ['stop-asked', async () => must(await api.post(`/api/operations/${operation}/stop`)), /./],
      [
        'erase-started',
        async () => {
          await api.ended(operation);
          await start(api.post(`/api/devices/${OWNED}/erase`, { serialTail: '4Q81' }));
        },
        /./,
      ],
      [
        'step-settled',
        async () => {
          await api.ended(operation);
          const word = { state: 'done', reason: '' };
          must(await api.post(`/api/tickets/${ticket}/steps/hand-over`, word));
        },
        /./,
      ],
      [
        'ticket-closed',
        async () => {
          // A loaner of the shop's own needs the least.
          ticket = await api.openTicket(WIPED, { reason: 'loaner' });
          for (const step of ['backup', 'prove'])
            await api.post(`/api/tickets/${ticket}/steps/${step}`, {
              state: 'skipped',
              reason: 'so',
            });
          await api.post(`/api/tickets/${ticket}/steps/hand-over`, { state: 'done', reason: '' });
          must(await api.post(`/api/tickets/${ticket}/close`));
        },
        /./,
      ],
      [
        'ticket-reopened',
        async () => {
          must(await api.post(`/api/tickets/${ticket}/reopen`));
          const twice = await api.post(`/api/tickets/${ticket}/reopen`);
          if (twice.body.code !== 'step-refused') throw new Error('an open ticket was opened');
          must(await api.post(`/api/tickets/${ticket}/close`));
        },
        /./,
      ],
      [
        'rack-added',
        async () => {
          const path = join(product.data, 'maple');
          mkdirSync(path);
          const added = await api.post('/api/racks', {
            ...{ site: { kind: 'folder', path }, secret: '', kind: 'fixed' },
            ...rackRules,
          });
          must(added);
          maple = added.body.id;
        },
        /The rack Maple was added/,
        null,
      ],
      [
        'rack-changed',
        async () =>
          must(await api.send('PUT', `/api/racks/${maple}`, { ...rackRules, note: 'shelf' })),
        /Maple/,
        null,
      ],
      [
        'rack-retired',
        async () => must(await api.post(`/api/racks/${maple}/retire`, { typedName: '' })),
        /Maple was put out of use/,
        null,
      ],
      [
        'escrow-set-up',
        async () => must(await api.post('/api/escrow', { people: people('bright marsh') })),
        /./,
        null,
      ],
      [
        'escrow-refused',
        async () => {
          const [one, other] = people('bright marsh');
          await api.post('/api/escrow', { people: [one, { ...other, password: 'a wrong one' }] });
        },
        /refused/,
        null,
      ],
      [
        'own-password-changed',
        async () =>
          must(
            await api.post('/api/account/sign-in', {
              ...{ password: SIGN_IN.password, newPassword: 'lantern steps fourteen' },
            }),
          ),
        /./,
        null,
      ],
      [
        'audit-exported',
        async () => {
          const taken = await api.raw('/api/audit/export?format=jsonl');
          expect(taken.status).toBe(200);
          const lines = (await taken.text()).trim().split('\n');
          expect(JSON.parse(lines.at(-1) ?? '')).toMatchObject({ action: 'audit-exported' });
        },
        /taken out as jsonl/,
        null,
      ],
      ['sessions-ended', async () => api.send('DELETE', '/api/account/sessions'), /./, null],
      [
        'sign-out',
        async () => {
          await api.signIn({ ...SIGN_IN, password: 'lantern steps fourteen' });
          await api.send('DELETE', '/api/session');
        },
        /Signed out/,
        null,
      ],
    ];

    describe('the record', () => {
      test.each(acts)('has a line of “%s”', async (action, act, says, onTicket) => {
        const before = await newest();
        await act();
        const lines = await eventually('its line', async () => {
          const found = await linesSince(before, action);
          return found.length > 0 && found;
        });
        const [line] = lines;
        expect(line?.what).toMatch(says);
        expect(line?.by).toBe(SIGN_IN.login);
        expect(line?.ticket).toBe(onTicket === null ? null : ticket);
        for (const secret of [PASSWORD, SIGN_IN.password, 'bright marsh', 'fourteen', FIRST])
          expect(JSON.stringify(lines)).not.toContain(secret);
      });

      test('has no action that this table forgets, but those that have a test of their own', () => {
        const elsewhere = [
          ...['desk-seen', 'desk-filled', 'escrow-opened', 'escrow-withdrawn', 'device-tied'],
          ...['pause-asked', 'update-started', 'extract-started', 'backup-continued'],
          ...['backup-discarded', 'import-started', 'repair-started'],
          ...['move-started', 'move-continued', 'move-given-up', 'dispose-started', 'destroyed'],
          ...['prune-started', 'bringIn-started', 'foresee-started', 'cross-started'],
          ...['bringBack-started', 'bringApplications-started', 'package-given'],
          ...['sync-started', 'partner-opened'],
          ...['recovery-key-made', 'catalogue-saved', 'network-changed'],
          'customer-data-taken-out',
          ...['second-factor-set', 'second-factor-dropped', 'passkey-added', 'passkey-dropped'],
          ...['pin-set', 'unlocked', 'look-in-begun', 'look-in-ended', 'look-taken-out'],
          ...['extract-fetched', 'look-compared', 'crossing-looked-at'],
          ...['shop-begun', 'kept-longer', 'held', 'hold-lifted', 'names-forgotten'],
        ];
        expect([...acts.map(([action]) => action), ...elsewhere].sort()).toEqual(
          [...auditActions].sort(),
        );
      });
    });
  });
