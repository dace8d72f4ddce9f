import fc from 'fast-check';
import { expect, test } from 'vitest';
import { eraseOrder, isProblem, provenBackupOf, type BackupEvidence } from './erase.js';
import { deviceFacts } from './test-devices.js';

const device = deviceFacts();
const proven: BackupEvidence = {
  backupId: 'b',
  deviceSerial: device.serial,
  contentRevision: 'revision-1',
  failedItems: 0,
  everything: true,
  provenAt: new Date(0),
};

test('a proven, complete, current backup of that very device allows it', () => {
  const proof = provenBackupOf(device, [proven]);
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
  expect(isProblem(provenBackupOf(device, [{ ...proven, ...change }]))).toBe(true);
});

test('no evidence of any kind allows it unless one backup meets everything at once', () => {
  const evidence = fc.record({
    backupId: fc.constant('b'),
    deviceSerial: fc.constantFrom(device.serial, 'OTHER0001'),
    contentRevision: fc.constantFrom('revision-1', 'revision-0'),
    failedItems: fc.integer({ min: 0, max: 2 }),
    everything: fc.boolean(),
    provenAt: fc.constantFrom(null, new Date(0)),
  });
  fc.assert(
    fc.property(fc.array(evidence, { maxLength: 8 }), (all) => {
      const sound = all.some(
        (b) =>
          b.deviceSerial === device.serial &&
          b.contentRevision === 'revision-1' &&
          b.failedItems === 0 &&
          b.everything &&
          b.provenAt !== null,
      );
      expect(isProblem(provenBackupOf(device, all))).toBe(!sound);
    }),
  );
});

test('a device that cannot be read is never erased: nobody knows what is on it', () => {
  const locked = deviceFacts({ contentRevision: null, content: null, lock: 'locked' });
  expect(isProblem(provenBackupOf(locked, [proven]))).toBe(true);
});

test.each(['', 'TES', 'TEST1', '0000', 'tesu'])('the typed serial “%s” is refused', (typed) => {
  const proof = provenBackupOf(device, [proven]);
  if (isProblem(proof)) throw new Error(proof.what);
  const order = eraseOrder(device, proof, typed);
  expect(isProblem(order) && order.code).toBe('wrong-serial');
});

test('a device at work, or another one than the proof is for, is refused', () => {
  const proof = provenBackupOf(device, [proven]);
  if (isProblem(proof)) throw new Error(proof.what);
  expect(isProblem(eraseOrder(deviceFacts({ activity: 'backup' }), proof, 'TEST'))).toBe(true);
  expect(isProblem(eraseOrder(deviceFacts({ serial: 'OTHERTEST' }), proof, 'TEST'))).toBe(true);
});
