import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import {
  eraseOrder,
  isProblem,
  permitErase,
  proofAges,
  provenBackupOf,
  type BackupEvidence,
} from './erase.js';
import { checkedCopy, deviceFacts } from '../test-devices.js';
import { Hits } from '../test-hits.js';
import { backupIdSchema, copyIdSchema, type CopyId } from '../values/index.js';

const uuid = (n: number) => `00000000-0000-4000-8000-00000000000${n}`;
const B = backupIdSchema.parse(uuid(1));
const [OLD, NEW] = [uuid(2), uuid(3)].map((id) => copyIdSchema.parse(id)) as [CopyId, CopyId];
const device = deviceFacts();
const proven: BackupEvidence = {
  backupId: B,
  deviceSerial: device.serial,
  contentRevision: 'revision-1',
  failedItems: 0,
  everything: true,
  provenAt: new Date(0),
  copyId: OLD,
};
const HOUR = 3_600_000;
/** Asked eleven hours after the proof, where a proof holds for twelve. */
const when = { now: new Date(11 * HOUR), proofAge: '12' } as const;

test('a proven, complete, current backup of that very device allows it', () => {
  const proof = provenBackupOf(device, [proven], when);
  if (isProblem(proof)) throw new Error(proof.what);
  const order = eraseOrder(device, proof, 'test');
  expect(isProblem(order)).toBe(false);
});

test.each<[string, Partial<BackupEvidence>]>([
  ['of another device', { deviceSerial: 'OTHER0001' }],
  ['older than the last change of contents', { contentRevision: 'revision-0' }],
  ['that was not proven', { provenAt: null }],
  ['that misses items', { failedItems: 1 }],
  ['of a chosen part only', { everything: false }],
])('a backup %s does not', (_, change) => {
  expect(isProblem(provenBackupOf(device, [{ ...proven, ...change }], when))).toBe(true);
});

const other = { ...proven, deviceSerial: 'OTHER0001' };
test.each<[BackupEvidence[], string, string]>([
  [[], 'has no proven backup', 'Take a backup'],
  [[other], 'has no proven backup', 'Take a backup'],
  [
    [other, { ...proven, contentRevision: 'revision-0' }],
    'changed after its last',
    'Take a backup',
  ],
  [[other, { ...proven, everything: false }], 'only a chosen part', 'backup of everything'],
  [
    [
      { ...proven, everything: false },
      { ...proven, failedItems: 1 },
    ],
    'misses items',
    'no item',
  ],
  [
    [
      { ...proven, failedItems: 1 },
      { ...proven, provenAt: null },
    ],
    'has not been proven',
    'Prove',
  ],
  [[{ ...proven, provenAt: new Date(-2 * HOUR) }], 'is older than', 'Prove the backup again'],
])('the refusal names what is missing last: %#', (backups, what, next) => {
  const refused = provenBackupOf(device, backups, when);
  if (!isProblem(refused)) throw new Error('allowed');
  expect(refused.code).toBe('not-proven');
  expect(refused.what).toContain(what);
  expect(refused.next).toContain(next);
});

test.each(proofAges)('a proof holds for %s hours to the millisecond', (proofAge) => {
  const at = (ms: number) => provenBackupOf(device, [proven], { now: new Date(ms), proofAge });
  const end = Number(proofAge) * HOUR;
  expect(isProblem(at(0))).toBe(false);
  expect(isProblem(at(end))).toBe(false);
  expect(isProblem(at(end + 1))).toBe(true);
  expect(isProblem(at(-1))).toBe(true);
});

test('no evidence of any kind allows it unless one backup meets everything at once', () => {
  const evidence = fc.record({
    backupId: fc.constant(B),
    copyId: fc.constant(OLD),
    deviceSerial: fc.constantFrom(device.serial, 'OTHER0001'),
    contentRevision: fc.constantFrom('revision-1', 'revision-0'),
    failedItems: fc.integer({ min: 0, max: 2 }),
    everything: fc.boolean(),
    provenAt: fc.constantFrom(null, new Date(0), new Date(-2 * HOUR)),
  });
  const met = new Hits('sound', 'unsound');
  fc.assert(
    fc.property(fc.array(evidence, { maxLength: 8 }), (all) => {
      const sound = all.some(
        (b) =>
          b.deviceSerial === device.serial &&
          b.contentRevision === 'revision-1' &&
          b.failedItems === 0 &&
          b.everything &&
          b.provenAt?.getTime() === 0,
      );
      met.hit(sound ? 'sound' : 'unsound');
      expect(isProblem(provenBackupOf(device, all, when))).toBe(!sound);
    }),
    { numRuns: 2000 },
  );
  met.expectEach(20);
});

test('a device that cannot be read is never erased: nobody knows what is on it', () => {
  const locked = deviceFacts({ contentRevision: null, content: null, lock: 'locked' });
  const refused = provenBackupOf(locked, [proven], when);
  expect(isProblem(refused) && refused.what).toMatch(/cannot be read now/);
  expect(isProblem(refused) && refused.next).toMatch(/Unlock the device/);
});

test.each(['', 'TES', 'TEST1', '0000', 'tesu'])('the typed serial “%s” is refused', (typed) => {
  const proof = provenBackupOf(device, [proven], when);
  if (isProblem(proof)) throw new Error(proof.what);
  const order = eraseOrder(device, proof, typed);
  expect(isProblem(order) && order.code).toBe('wrong-serial');
});

test('a device at work, or another one than the proof is for, is refused', () => {
  const proof = provenBackupOf(device, [proven], when);
  if (isProblem(proof)) throw new Error(proof.what);
  expect(eraseOrder(deviceFacts({ activity: 'backup' }), proof, 'TEST')).toMatchObject({
    code: 'device-busy',
  });
  expect(eraseOrder(deviceFacts({ serial: 'OTHERTEST' }), proof, 'TEST')).toMatchObject({
    code: 'not-proven',
  });
  expect(eraseOrder(device, proof, ' test ')).toEqual({ device, proof });
});

test.each([
  ['as old as the house allows', 12, true],
  ['older', 12.001, false],
  ['from the future', -1, false],
])('a proof that is %s', (_, age, allowed) => {
  const asked = { ...when, now: new Date(age * HOUR) };
  const found = provenBackupOf(device, [proven], asked);
  expect(isProblem(found)).toBe(!allowed);
  if (isProblem(found)) expect(found.what).toMatch(/older than the house allows \(twelve hours\)/);
});

test('of several copies the one with a proof that is new enough counts', () => {
  const found = provenBackupOf(
    device,
    [
      { ...proven, copyId: OLD, provenAt: new Date(-5 * HOUR) },
      { ...proven, copyId: NEW },
    ],
    when,
  );
  expect(!isProblem(found) && found.copyId).toBe(NEW);
});

test('a device that cannot be told to erase itself is refused', () => {
  const fixed = deviceFacts({ capabilities: { ...device.capabilities, erase: false } });
  const proof = provenBackupOf(fixed, [proven], when);
  if (isProblem(proof)) throw new Error(proof.what);
  const order = eraseOrder(fixed, proof, 'TEST');
  expect(isProblem(order) && order.code).toBe('device-refused');
});

test('a problem is told from what is none by all that a problem has', () => {
  const whole = { code: 'not-proven', what: 'It is not.', safe: 'Nothing was done.' };
  expect(isProblem(whole)).toBe(true);
  for (const name of Object.keys(whole)) {
    const without = Object.fromEntries(Object.entries(whole).filter(([key]) => key !== name));
    expect(isProblem(without), name).toBe(false);
  }
});

describe('the permit that a device is shown', () => {
  const expected = { archive: 'a', digest: 'd' };
  const order = { serial: device.serial, contentRevision: 'r7', expected };
  const permit = (copy = checkedCopy(), contentRevision: string | null = 'r7') =>
    permitErase(order, { copy, contentRevision });

  test('is given for the copy that was proven and the contents that it holds', () => {
    expect(permit()).toEqual({ serial: device.serial });
  });

  test.each([
    ['another archive lies there', permit(checkedCopy('b', 'd'))],
    ['it is in another state', permit(checkedCopy('a', 'e'))],
    ['the device changed since', permit(checkedCopy(), 'r8')],
    ['nobody can tell what is on it', permit(checkedCopy(), null)],
  ])('is not given where %s', (_, refused) => {
    expect(isProblem(refused) && refused.code).toBe('not-proven');
  });
});
