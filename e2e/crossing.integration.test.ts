import { randomBytes } from 'node:crypto';
import {
  copyFileSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  writeFileSync,
} from 'node:fs';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import type { RowDataPacket } from 'mysql2';
import { describe, expect, test } from 'vitest';
import {
  choiceOfClasses,
  dataClassIds,
  goesOver,
  losesSomething,
  staysBehind,
  type CrossingReport,
  type DataClass,
} from '@bright-cellar/core';
import { parseRecords, mediaTypes } from '@bright-cellar/core/formats';
import { randomFrom } from '@bright-cellar/core/testing';
import { resultOf } from './api.js';
import type {
  ClassExamples,
  LookAmounts,
  LookConversation,
  Operation,
  ShelfId,
  ShelfPart,
} from '@bright-cellar/contract';
import { openShop } from './open-shop.js';
import {
  eventually,
  openOwned,
  OWNED,
  PASSWORD,
  WIPED,
  MARL,
  QUILLON,
  openMarl,
} from './product.js';

const EMPTY = { vireo: WIPED, marl: 'marl-fell-5', quillon: 'quillon-q44' } as const;
type Family = keyof typeof EMPTY;
const TAILS: Record<string, string> = {
  ...{ [WIPED]: '0T57', 'marl-fell-5': '7-BN', 'quillon-q44': '0931', [MARL]: '4-KX' },
};

const { product, api, db } = await openShop({
  installMs: 300,
  waitForDeviceMs: 60_000,
  only: [OWNED, MARL, QUILLON, ...Object.values(EMPTY)],
});

const open: Record<Family, () => Promise<unknown>> = {
  vireo: () => openOwned(product),
  marl: async () => {
    await openMarl(product);
    for (const application of ['tansy', 'corbel'])
      await product.press(MARL, { do: 'confirm-number', application });
  },
  quillon: () => Promise.resolve(),
};
const sources: Record<Family, string> = { vireo: OWNED, marl: MARL, quillon: QUILLON };
const backups = new Map<Family, { backupId: string; archiveId: string; ticket: string }>();

/** Empty, charged, open, on the free berth. */
async function readyTarget(family: Family): Promise<string> {
  const device = EMPTY[family];
  for (const other of Object.values(EMPTY)) {
    await product.press(other, { do: 'pull-cable' });
  }
  await product.press(device, { do: 'plug', berth: 2 });
  await product.press(device, { do: 'erase' });
  await product.press(device, { do: 'charge', percent: 90 });
  await product.press(device, { do: 'owner-lock-off' });
  if (family === 'marl') await product.press(device, { do: 'workshop-port', state: 'on' });
  if (family !== 'quillon') await product.press(device, { do: 'approve', passcode: '' });
  return device;
}

async function foreseen(
  backupId: string,
  deviceId: string,
  classes: readonly DataClass[],
  part: object = {},
) {
  const started = await api.post(`/api/backups/${backupId}/foresights`, {
    ...{ deviceId, choice: choiceOfClasses(classes), fromDesk: false, password: PASSWORD, ...part },
  });
  expect(started.body.code, JSON.stringify(started.body)).toBeUndefined();
  const ended = await api.ended(started.body.id);
  return { id: ended.id, report: resultOf(ended, 'foresee').report };
}

const send = (backupId: string, deviceId: string, foreseenId: string, more: object = {}) =>
  api.post(`/api/backups/${backupId}/crossings`, {
    ...{ deviceId, serialTail: TAILS[deviceId], foreseen: foreseenId, customerKnows: true },
    ...{ fromDesk: false, password: PASSWORD, ...more },
  });

/** Foresees, sends, and gives back both reports. */
async function cross(
  backupId: string,
  deviceId: string,
  classes: readonly DataClass[] = dataClassIds,
  part: object = {},
) {
  const before = await foreseen(backupId, deviceId, classes, part);
  const started = await send(backupId, deviceId, before.id);
  expect(started.body.code, JSON.stringify(started.body)).toBeUndefined();
  // Whoever holds it confirms the numbers of its chats.
  for (const application of ['tansy', 'corbel'])
    await product.press(deviceId, { do: 'confirm-number', application }).catch(() => undefined);
  const ended = await api.ended(started.body.id);
  expect(ended.problem).toBeNull();
  const { report, otherwise, failed } = resultOf(ended, 'cross');
  return { before: before.report, report, otherwise, failed };
}

const folderOf = (device: string) => join(product.data, 'bench/devices', device, 'contents');
const filesOf = (device: string, dataClass: DataClass): string[] => {
  const root = folderOf(device);
  return readdirSync(join(root, dataClass), { recursive: true, withFileTypes: true })
    .filter((entry) => entry.isFile())
    .map((entry) => join(entry.parentPath, entry.name).slice(root.length + 1))
    .toSorted();
};

/** What was said on a device, by whom and when, read from its files: as its own screens would show it. */
function messagesOn(device: string): { at: number; from: string; text: string }[] {
  return filesOf(device, 'messages').flatMap((path) => {
    const format = path.endsWith('.jsonl')
      ? mediaTypes.thread
      : path.endsWith('.txt')
        ? mediaTypes.shortMessages
        : null;
    if (format === null) return [];
    const records = parseRecords(format, readFileSync(join(folderOf(device), path)), path);
    return records.kind === 'messages'
      ? records.messages.map(({ at, from, text }) => ({ at: at.getTime(), from, text }))
      : [];
  });
}
const inOrder = (device: string) =>
  messagesOn(device)
    .map(({ at, from, text }) => `${at} ${from} ${text}`)
    .toSorted();

/** What the database keeps of work. */
const inputsOf = async (id: string) =>
  (await db.query<RowDataPacket[]>('select input from operations where id = ?', [id]))[0];

const lineOf = (report: CrossingReport, dataClass: DataClass) =>
  report.find((one) => one.class === dataClass);

describe.each(['vireo', 'marl', 'quillon'] as const)('from a device of the family %s', (from) => {
  test('a proven backup', async () => {
    await open[from]();
    backups.set(from, await api.provenBackup(sources[from]));
  });

  test.each((['vireo', 'marl', 'quillon'] as const).filter((to) => to !== from))(
    'onto one of the family %s: what was foreseen arrives, and no message is missing or doubled',
    async (to) => {
      const target = await readyTarget(to);
      const { backupId = '' } = backups.get(from) ?? {};
      const { before, report, otherwise, failed } = await cross(backupId, target);
      expect({ otherwise, failed }).toEqual({ otherwise: [], failed: [] });
      expect(report).toEqual(before);
      expect(losesSomething(report)).toBe(true);
      for (const dataClass of ['contacts', 'messages', 'calls', 'notes', 'calendar'] as const) {
        const line = lineOf(report, dataClass);
        expect(line && goesOver(line), dataClass).toBeGreaterThan(0);
      }
      if (to === 'quillon') {
        expect(messagesOn(target)).toHaveLength(messagesOn(sources[from]).length);
        expect(lineOf(report, 'photographs')?.stays).toMatchObject([{ why: 'no-place' }]);
        // Letters that the handset does not know are said before.
        expect(lineOf(report, 'messages')?.changes).toContainEqual(
          expect.objectContaining({ field: 'words' }),
        );
      } else expect(inOrder(target)).toEqual(inOrder(sources[from]));
    },
  );
});

describe('onto a device in use', () => {
  test('nothing that is there goes again; what is not comes beside what is', async () => {
    const { backupId = '' } = backups.get('marl') ?? {};
    await open.marl();
    const whole = await foreseen(backupId, MARL, ['contacts', 'messages', 'photographs', 'notes']);
    expect(whole.report.map((one) => [goesOver(one), staysBehind(one)])).toEqual(
      whole.report.map(() => [0, 0]),
    );
    const refused = await send(backupId, MARL, whole.id);
    expect(refused.body.code).toBe('not-found');
    expect(refused.body.what).toMatch(/Nothing/);

    const [photograph = ''] = filesOf(MARL, 'photographs');
    const [note = '', other = ''] = filesOf(MARL, 'notes');
    const was = inOrder(MARL);
    const months = filesOf(MARL, 'messages').filter((path) => path.endsWith('.jsonl'));
    const lost = readFileSync(join(folderOf(MARL), months[0] ?? ''), 'utf8');
    rmSync(join(folderOf(MARL), photograph));
    rmSync(join(folderOf(MARL), note));
    writeFileSync(
      join(folderOf(MARL), other),
      `${readFileSync(join(folderOf(MARL), other), 'utf8')}More.\n`,
    );
    // Half of a month of messages is gone.
    const lines = lost.trimEnd().split('\n');
    writeFileSync(join(folderOf(MARL), months[0] ?? ''), `${lines.slice(0, 3).join('\n')}\n`);
    await product.press(MARL, { do: 'write-note', text: 'Seen today' });

    const { report } = await cross(backupId, MARL, [
      'contacts',
      'messages',
      'photographs',
      'notes',
    ]);
    expect(lineOf(report, 'photographs')).toMatchObject({ whole: 1, beside: 0 });
    expect(lineOf(report, 'notes')).toMatchObject({ whole: 2, beside: 1 });
    expect(lineOf(report, 'messages')).toMatchObject({ whole: lines.length - 3, changed: 0 });
    expect(lineOf(report, 'contacts')).toMatchObject({ whole: 0, changed: 0 });
    expect(inOrder(MARL)).toEqual(was);
    expect(readFileSync(join(folderOf(MARL), other), 'utf8')).toMatch(/More\.\n$/);
  });

  test('an application that was cut on its way goes on; one with data of its own is left alone', async () => {
    const { backupId = '' } = backups.get('marl') ?? {};
    const on = (application: string) =>
      filesOf(MARL, 'applications').filter((path) => path.split('/')[1] === application);
    const [lost = '', ...others] = on('crossword');
    rmSync(join(folderOf(MARL), lost));
    const [played = ''] = on('pocket-garden');
    writeFileSync(join(folderOf(MARL), played), '{"level":99}');
    rmSync(join(folderOf(MARL), on('pocket-garden').at(-1) ?? ''));
    await product.press(MARL, { do: 'write-note', text: 'Played today' });
    const { report } = await cross(backupId, MARL, ['applications']);
    expect(lineOf(report, 'applications')).toMatchObject({ whole: 1, changed: 0, beside: 0 });
    expect(lineOf(report, 'applications')?.stays.map(({ why }) => why)).toEqual(['own-there']);
    expect(on('crossword')).toEqual([lost, ...others]);
    expect(readFileSync(join(folderOf(MARL), played), 'utf8')).toBe('{"level":99}');
  });

  test('a family that takes all at once refuses while it is in use', async () => {
    const { backupId = '' } = backups.get('marl') ?? {};
    const started = await api.post(`/api/backups/${backupId}/foresights`, {
      ...{ deviceId: OWNED, choice: { contacts: true }, fromDesk: false, password: PASSWORD },
    });
    expect(started.body).toMatchObject({ code: 'device-in-use' });
    expect(started.body.next).toMatch(/takes all at once/);
  });
});

describe('before anything is sent', () => {
  test('single items are shown as they will arrive, once the customer agreed to that; it is on record', async () => {
    const target = await readyTarget('quillon');
    const { backupId = '', ticket = '' } = backups.get('vireo') ?? {};
    const { id } = await foreseen(backupId, target, ['contacts', 'messages']);
    const ask = () => api.get<ClassExamples[]>(`/api/operations/${id}/examples`);
    expect((await ask()).body).toMatchObject({ code: 'not-agreed' });
    await api.agree(ticket, 'look-in');
    const { body: classes } = await ask();
    const messages = classes.find((one) => one.class === 'messages')?.examples ?? [];
    expect(messages.length).toBeGreaterThan(0);
    for (const { fields } of messages) {
      for (const { was, becomes } of fields) expect(becomes).not.toBe(was);
    }
    const entries = await api.all<{ action: string }>('/api/audit');
    expect(entries.some(({ action }) => action === 'crossing-looked-at')).toBe(true);
  });

  test('the customer must know, the device must be the one, the report must be of it', async () => {
    const target = await readyTarget('quillon');
    const { backupId = '' } = backups.get('vireo') ?? {};
    const { id } = await foreseen(backupId, target, ['contacts', 'photographs']);
    const unknown = await send(backupId, target, id, { customerKnows: false });
    expect(unknown.body).toMatchObject({ code: 'not-agreed' });
    const wrong = await send(backupId, target, id, { serialTail: '4-KX' });
    expect(wrong.body).toMatchObject({ code: 'wrong-serial' });
    const others = await send(backups.get('marl')?.backupId ?? '', target, id);
    expect(others.body).toMatchObject({ code: 'not-found' });
    expect((await send(backupId, target, id, { password: 'not this one' })).body).toMatchObject({
      code: 'wrong-password',
    });
  });
});

/** How often each is cut here; `npm run faults` cuts it fifty times. */
const CUTS = Number(process.env.CROSSING_CUTS ?? 3);
/** The same moments each time. */
const next = randomFrom(4715);

describe.each(['quillon', 'marl'] as const)('cut at any moment on its way onto a %s', (family) => {
  test(
    'nothing is doubled and nothing is missing, however often it begins anew',
    async () => {
      const target = await readyTarget(family);
      const { backupId = '' } = backups.get('vireo') ?? {};
      const classes = ['contacts', 'messages', 'notes', 'photographs'] as const;
      // A handset takes each text by itself: of thousands, no other moments would come than of hundreds.
      const words = messagesOn(OWNED);
      const days = words.map(({ at }) => new Date(at).toISOString().slice(0, 10)).toSorted();
      const since = days[Math.floor(days.length * (family === 'quillon' ? 0.85 : 0))] ?? '';
      const part = { days: { since, until: null } };
      /** Sooner where the last one that was to be cut was over by then: machines differ. */
      let lasts = 1_200;
      const ways = {
        cable: () =>
          product.press(target, { do: 'faults', faults: { cutAfterBytes: next(150_000) } }),
        work: async () => {
          await sleep(next(lasts));
          const killed = product.workPid() ?? 0;
          process.kill(killed, 'SIGKILL');
          await eventually('the next work process', async () =>
            Promise.resolve(product.workPid() !== null && product.workPid() !== killed),
          );
          await sleep(2000);
        },
        drive: async () => {
          await sleep(next(lasts));
          renameSync(rack, `${rack}.pulled`);
          await sleep(300);
          renameSync(`${rack}.pulled`, rack);
        },
        stop: async (id: string) => {
          await sleep(next(lasts));
          await api.post(`/api/operations/${id}/stop`, {});
        },
      };
      // What dies again and again is started again later and later: that once among ten.
      const names = (['cable', 'drive', 'stop'] as const).flatMap((way) => [way, way, way]);
      const rack = join(product.data, 'racks', 'alder');
      let cuts = 0;
      for (let round = 0; cuts < CUTS && round < CUTS * 8; round += 1) {
        const { id, report } = await foreseen(backupId, target, classes, part);
        if (report.every((one) => goesOver(one) === 0)) {
          await readyTarget(family);
          continue;
        }
        const started = await send(backupId, target, id);
        if (started.body.code !== undefined) continue;
        const plugging = setInterval(
          () => void product.press(target, { do: 'plug', berth: 2 }).catch(() => undefined),
          700,
        );
        await ways[names[next(names.length + 1)] ?? 'work'](started.body.id);
        const ended = await api.ended(started.body.id);
        clearInterval(plugging);
        if (ended.state !== 'done') cuts += 1;
        else lasts = Math.max(40, Math.round(lasts * 0.7));
        await eventually('a bench that is as it was', async () => {
          await product
            .press(target, { do: 'faults', faults: { cutAfterBytes: null } })
            .catch(() => undefined);
          await product.press(target, { do: 'plug', berth: 2 }).catch(() => undefined);
          if (family === 'marl') await product.press(target, { do: 'approve', passcode: '' });
          const { body } = await api.get<{ crossing: { met: boolean }[] }>(
            `/api/backups/${backupId}/targets/${target}`,
          );
          return body.code === undefined && body.crossing.every(({ met }) => met);
        });
      }
      await cross(backupId, target, classes, part).catch(() => undefined);
      const last = await foreseen(backupId, target, classes, part);
      expect(last.report.map((one) => goesOver(one))).toEqual(last.report.map(() => 0));
      expect(messagesOn(target)).toHaveLength(days.filter((day) => day >= since).length);
      for (const dataClass of family === 'marl'
        ? (['photographs', 'notes', 'contacts'] as const)
        : []) {
        expect(filesOf(target, dataClass)).toHaveLength(filesOf(OWNED, dataClass).length);
      }
      expect(cuts).toBeGreaterThan(0);
    },
    150_000 + CUTS * 45_000,
  );
});

describe('a part that is smaller than a class', () => {
  /** What would arrive of a part. */
  async function ofPart(backupId: string, deviceId: string, part: object) {
    const started = await api.post(`/api/backups/${backupId}/foresights`, {
      ...{ deviceId, choice: {}, fromDesk: false, password: PASSWORD, ...part },
    });
    expect(started.body.code, JSON.stringify(started.body)).toBeUndefined();
    const ended = await api.ended(started.body.id);
    return { id: ended.id, report: resultOf(ended, 'foresee').report };
  }
  const sent = async (backupId: string, target: string, id: string) =>
    resultOf(await api.ended((await send(backupId, target, id)).body.id), 'cross');

  test('of what was said only some days; the rest of it in a second turn, and nothing twice', async () => {
    const target = await readyTarget('marl');
    const { backupId = '' } = backups.get('vireo') ?? {};
    const all = messagesOn(OWNED);
    const days = all.map(({ at }) => new Date(at).toISOString().slice(0, 10)).toSorted();
    const border = days[Math.floor(days.length / 2)] ?? '';
    const choice = choiceOfClasses(['messages', 'photographs']);
    const first = await ofPart(backupId, target, { choice, days: { since: border, until: null } });
    const { report } = await sent(backupId, target, first.id);
    expect(report).toEqual(first.report);
    const since = all.filter(({ at }) => new Date(at).toISOString().slice(0, 10) >= border);
    expect(messagesOn(target)).toHaveLength(since.length);
    expect(since.length).toBeLessThan(all.length);
    const whole = await foreseen(backupId, target, ['messages', 'photographs']);
    await sent(backupId, target, whole.id);
    expect(inOrder(target)).toEqual(inOrder(OWNED));
    expect(filesOf(target, 'photographs')).toHaveLength(filesOf(OWNED, 'photographs').length);
  });

  test('what is in hand in a look-in, and nothing else; what it is stands nowhere', async () => {
    const target = await readyTarget('marl');
    const { backupId = '', ticket = '' } = backups.get('vireo') ?? {};
    await api.agree(ticket, 'look-in');
    const body = { reason: 'taking along', fromDesk: false, password: PASSWORD };
    const look = (await api.post<{ id: string }>(`/api/backups/${backupId}/look-ins`, body)).body
      .id;
    await eventually('all of it read', async () => {
      return (await api.get<LookAmounts>(`/api/look-ins/${look}`)).body.isAll;
    });
    const asked = { text: '', from: 0 };
    const rows = async <Id extends ShelfId>(shelf: Id) =>
      (await api.post<ShelfPart<Id>>(`/api/look-ins/${look}/shelves/${shelf}`, asked)).body.rows;
    const [card] = await rows('contacts');
    const [photograph] = await rows('photographs');
    const [conversation] = (
      await api.post<{ rows: LookConversation[] }>(`/api/look-ins/${look}/conversations`, {
        text: '',
      })
    ).body.rows.filter(({ sources }) => sources.join() === 'Messages');
    await api.post(`/api/look-ins/${look}/basket`, {
      picks: [
        { of: 'row', shelf: 'contacts', row: card?.row },
        { of: 'row', shelf: 'photographs', row: photograph?.row },
        { of: 'conversation', conversation: conversation?.id, month: null },
      ],
    });
    const { id, report } = await ofPart(backupId, target, { lookIn: look });
    expect(report.map((line) => [line.class, goesOver(line)])).toEqual(
      expect.arrayContaining([
        ['contacts', 1],
        ['photographs', 1],
      ]),
    );
    const [kept] = await inputsOf(id);
    expect(JSON.stringify(kept)).not.toContain(card?.name ?? 'nobody');

    // What is in hand meanwhile is another thing: what was foreseen goes.
    await api.post(`/api/look-ins/${look}/basket/put-back`, { keys: [] });
    expect((await sent(backupId, target, id)).report).toEqual(report);
    expect(filesOf(target, 'photographs')).toHaveLength(1);
    expect(filesOf(target, 'contacts')).toHaveLength(1);
    expect(messagesOn(target)).toHaveLength(conversation?.messages ?? -1);
    await api.send('DELETE', `/api/look-ins/${look}`);
    const over = await api.post(`/api/backups/${backupId}/foresights`, {
      ...{ deviceId: target, choice: {}, lookIn: look, fromDesk: false, password: PASSWORD },
    });
    expect(over.body.code).toBe('look-in-over');
  });
});

describe('files that stay by a rule', () => {
  test('what is there twice goes once, and long videos stay; what was asked for is remembered for the device', async () => {
    const target = await readyTarget('marl');
    await open.vireo();
    const root = folderOf(OWNED);
    for (const path of filesOf(OWNED, 'photographs').slice(0, 3))
      copyFileSync(join(root, path), join(root, path.replace(/(\.\w+)$/, ' again$1')));
    const [video = ''] = filesOf(OWNED, 'videos');
    for (const [n, bytes] of [400_000, 300_000, 20_000].entries())
      writeFileSync(join(root, video.replace('clip', `clip-${n}`)), randomBytes(bytes));
    const { backupId } = await api.provenBackup(OWNED);

    const choice = choiceOfClasses(['photographs', 'videos']);
    const asked = async (without: object) => {
      const started = await api.post(`/api/backups/${backupId}/foresights`, {
        ...{ deviceId: target, choice, without, fromDesk: false, password: PASSWORD },
      });
      const ended = await api.ended(started.body.id);
      return { id: ended.id, ...resultOf(ended, 'foresee') };
    };
    const { sparable } = await asked({ videosFrom: null, doubles: false });
    expect(sparable.doubles).toMatchObject([{ class: 'photographs', items: 3 }]);
    expect(sparable.videos).toMatchObject([
      { from: 400_000, items: 1, bytes: 400_000 },
      { from: 300_000, items: 2, bytes: 700_000 },
    ]);
    const rule = { videosFrom: 300_000, doubles: true };
    const { id, report } = await asked(rule);
    expect(lineOf(report, 'photographs')?.stays).toEqual([{ why: 'double', count: 3 }]);
    expect(lineOf(report, 'videos')?.stays).toEqual([{ why: 'too-long', count: 2 }]);
    await api.ended((await send(backupId, target, id)).body.id);
    expect(filesOf(target, 'videos')).toHaveLength(filesOf(OWNED, 'videos').length - 2);
    const digests = (device: string) =>
      filesOf(device, 'photographs').map((path) => readFileSync(join(folderOf(device), path)));
    const distinct = (all: Buffer[]) => new Set(all.map((bytes) => bytes.toString('base64')));
    expect(filesOf(target, 'photographs')).toHaveLength(distinct(digests(OWNED)).size);
    expect(distinct(digests(target))).toEqual(distinct(digests(OWNED)));
    const { body } = await api.get<{ lastPart: object }>(
      `/api/backups/${backupId}/targets/${target}`,
    );
    expect(body.lastPart).toMatchObject({ choice, without: rule });
  });
});

describe('on record', () => {
  test('that it was asked for and sent is on record, and nothing of what is in it', async () => {
    const entries = await api.all<{ action: string; what: string }>('/api/audit');
    const said = entries.filter(({ action }) => /^(?:foresee|cross)-started$/.test(action));
    expect(new Set(said.map(({ action }) => action)).size).toBe(2);
    expect(said.some(({ what }) => what.includes('the customer knows'))).toBe(true);
  });

  // A handset takes each text by itself, and the rest goes over; the other takes all at once, and all of it goes again.
  test.each(['quillon', 'marl'] as const)(
    'a cable of a %s that is pulled in the middle is waited for, and nothing is doubled',
    async (family) => {
      const target = await readyTarget(family);
      const { backupId = '' } = backups.get('vireo') ?? {};
      const { id, report } = await foreseen(backupId, target, ['contacts', 'messages']);
      await product.press(target, { do: 'faults', faults: { cutAfterBytes: 4_000 } });
      const started = await send(backupId, target, id);
      await eventually('what is to be done, said', async () => {
        const { body } = await api.get<Operation>(`/api/operations/${started.body.id}`);
        return body.needs?.startsWith('Connect the device again');
      });
      await product.press(target, { do: 'plug', berth: 2 });
      if (family === 'marl') await product.press(target, { do: 'approve', passcode: '' });
      const ended = await api.ended(started.body.id);
      expect(resultOf(ended, 'cross').report).toEqual(report);
      expect(messagesOn(target)).toHaveLength(messagesOn(OWNED).length);
    },
    150_000,
  );
});
