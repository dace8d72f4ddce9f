import {
  dataClassIds,
  isDataClass,
  newBackupSchema,
  problem,
  problemCodes,
  totalOf,
} from '@bright-cellar/core';
import { deviceFacts } from '@bright-cellar/core/testing';
import { describe, expect, test } from 'vitest';
import { liveEventSchema } from './events.js';
import { newTicketSchema, routes } from './routes/index.js';
import { benchSchema, problemSchema } from './shapes/index.js';

const id = '6f9619ff-8b86-4d01-b42d-00cf4fc964ff';
const newTicket = {
  customer: { name: 'Orla Wickbank', phone: '', email: '' },
  device: { deviceId: 'vireo-arc-7' },
  otherOwnerConfirmed: false,
  reason: 'repair',
  agreed: { backup: true, lookIn: false, escrow: false, keepDays: 30 },
  promisedAt: null,
  notes: '',
};

describe('what may be sent', () => {
  test('a ticket for a known customer, or for a new one with a name', () => {
    expect(newTicketSchema.safeParse(newTicket).success).toBe(true);
    expect(newTicketSchema.safeParse({ ...newTicket, customer: { id } }).success).toBe(true);
  });

  test.each([
    ['no name', { customer: { name: '   ', phone: '', email: '' } }],
    ['an id that is none', { customer: { id: '1 or 1=1' } }],
    ['a device id with a path in it', { device: { deviceId: '../etc' } }],
    ['a described device without a model', { device: { familyName: 'Marl', kind: 'phone' } }],
    ['an unknown reason', { reason: 'curiosity' }],
    ['days that are no number of days', { agreed: { ...newTicket.agreed, keepDays: -1 } }],
    ['more notes than a ticket holds', { notes: 'x'.repeat(2001) }],
    ['a promise that is no time', { promisedAt: 'tomorrow' }],
  ])('no ticket with %s', (_, change) => {
    expect(newTicketSchema.safeParse({ ...newTicket, ...change }).success).toBe(false);
  });

  test('spaces around a name are not part of it', () => {
    const { customer } = newTicketSchema.parse({
      ...newTicket,
      customer: { name: ' Orla ', phone: '', email: '' },
    });
    expect(customer).toMatchObject({ name: 'Orla' });
  });

  test('spaces around a password are part of it', () => {
    const backup = {
      mode: 'everything',
      choice: {},
      encrypted: true,
      accepted: [],
      fromDesk: false,
      rackId: id,
      archiveId: null,
      password: ' kettle ',
      passwordHolder: 'customer',
      reminder: '',
    };
    expect(newBackupSchema.parse(backup).password).toBe(' kettle ');
    expect(newBackupSchema.safeParse({ ...backup, choice: { notes: 'yes' } }).success).toBe(false);
    expect(newBackupSchema.safeParse({ ...backup, password: 'x'.repeat(1025) }).success).toBe(
      false,
    );
  });

  test.each(['', '12', 'abc12345', '26110001;', '1'.repeat(13)])(
    '“%s” is no ticket number',
    (number) => {
      expect(routes.ticket.params.safeParse({ number }).success).toBe(false);
    },
  );

  test('a serial’s end is four characters, whatever stands around them', () => {
    const body = { deviceId: 'd', password: 'p' };
    const parse = (serialTail: string) =>
      routes.startRestore.body.safeParse({ ...body, serialTail });
    expect(parse(' 4q81 ').success).toBe(true);
    for (const wrong of ['', '4q8', '4q812']) expect(parse(wrong).success).toBe(false);
  });
});

describe('what is sent back', () => {
  test('every problem there is fits through unchanged', () => {
    for (const code of problemCodes) {
      const told = problem(code);
      expect(problemSchema.parse(JSON.parse(JSON.stringify(told)))).toEqual(told);
    }
  });

  test('a live event is one of those that are known', () => {
    const bench = {
      connected: true,
      storage: false,
      berths: [
        {
          number: 1,
          connection: 'cable',
          device: deviceFacts(),
          readiness: [],
          asks: [],
          odd: [],
          ticketNumber: null,
          customerName: null,
        },
      ],
      away: [],
    };
    expect(benchSchema.safeParse(bench).success).toBe(true);
    expect(liveEventSchema.parse({ type: 'bench', bench })).toEqual({ type: 'bench', bench });
    expect(liveEventSchema.safeParse({ type: 'changed', topic: 'passwords' }).success).toBe(false);
    expect(liveEventSchema.safeParse({ type: 'bench' }).success).toBe(false);
  });

  test('a device that says impossible things is not believed', () => {
    const berth = (change: object) => ({
      connected: true,
      storage: false,
      berths: [
        {
          number: 1,
          connection: 'cable',
          asks: [],
          odd: [],
          device: { ...deviceFacts(), ...change },
          readiness: [],
          ticketNumber: null,
          customerName: null,
        },
      ],
      away: [],
    });
    for (const change of [
      { charge: 101 },
      { capacity: -1 },
      { id: 'a/b' },
      { osVersion: 'seventeen' },
      { content: [{ class: 'dreams', items: 1, bytes: 1 }] },
      { lock: 'ajar' },
    ]) {
      expect(benchSchema.safeParse(berth(change)).success).toBe(false);
    }
  });
});

describe('amounts', () => {
  test('of classes add up', () => {
    const amounts = dataClassIds.map((dataClass, i) => ({
      class: dataClass,
      items: i,
      bytes: i * 10,
    }));
    const n = dataClassIds.length;
    expect(totalOf(amounts)).toEqual({ items: (n * (n - 1)) / 2, bytes: ((n * (n - 1)) / 2) * 10 });
    expect(totalOf([])).toEqual({ items: 0, bytes: 0 });
    expect(dataClassIds.every(isDataClass)).toBe(true);
    expect(isDataClass('toString')).toBe(false);
  });
});
