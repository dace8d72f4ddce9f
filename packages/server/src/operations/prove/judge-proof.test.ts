import type { VerifyReport } from '@bright-cellar/archive';
import { expect, test } from 'vitest';
import { newBackupId } from '../../testing/ids.js';
import { judgeCopy, judgeProof, type KnownBackup, type KnownCopy } from './judge-proof.js';

const copy: KnownCopy = {
  ...{ archiveId: 'archive', generation: 2, digest: 'digest' },
  ...{ state: 'unknown', checkedLevel: null },
};
const first: KnownBackup = { id: newBackupId(), items: 10, bytes: 1000, listDigest: 'list-1' };
const second: KnownBackup = { id: newBackupId(), items: 12, bytes: 1500, listDigest: 'list-2' };
const seenOf = ({ id, items, bytes, listDigest }: KnownBackup) => ({
  ...{ backup: id, items, bytes, listDigest, damagedItems: 0, damagedClasses: {}, whole: true },
});

function reportOf(
  contents: Partial<VerifyReport['contents'] & object> | null = {},
  more: Partial<VerifyReport> = {},
): VerifyReport {
  return {
    ...{ level: 'full', whole: true, files: 9, storedBytes: 5000, damagedFiles: [] },
    manifestDigest: 'digest',
    contents: contents && {
      ...{ archive: 'archive', generation: 2, damaged: [], damagedBackups: [], sampled: 0 },
      backups: [seenOf(first), seenOf(second)],
      ...contents,
    },
    ...more,
  };
}
const outcomes = (report: VerifyReport) =>
  judgeProof(report, copy, [first, second]).map(({ outcome }) => outcome);

test('what is as it should be is whole, with what was looked at', () => {
  const [one] = judgeProof(reportOf(), copy, [first]);
  expect(one).toMatchObject({ outcome: 'whole', items: 10, bytes: 1000 });
  expect(one?.what).toMatch(/10 items read back and compared/);
});

test.each<[string, VerifyReport, string[]]>([
  ['its list gone', reportOf({ backups: [seenOf(first)] }), ['whole', 'damaged']],
  [
    'another count of items than the catalogue says',
    reportOf({ backups: [seenOf(first), { ...seenOf(second), items: 11 }] }),
    ['whole', 'damaged'],
  ],
  [
    'another count of bytes',
    reportOf({ backups: [{ ...seenOf(first), bytes: 999 }, seenOf(second)] }),
    ['damaged', 'whole'],
  ],
  [
    'another list in its place',
    reportOf({ backups: [{ ...seenOf(first), listDigest: 'other' }, seenOf(second)] }),
    ['damaged', 'whole'],
  ],
  [
    'an item that is damaged',
    reportOf({ backups: [seenOf(first), { ...seenOf(second), damagedItems: 1, whole: false }] }),
    ['whole', 'damaged'],
  ],
  ['nothing read at all', reportOf({ backups: [] }), ['damaged', 'damaged']],
  ['another archive', reportOf({ archive: 'another' }), ['damaged', 'damaged']],
  ['an older state', reportOf({ generation: 1 }), ['damaged', 'damaged']],
  ['no roster', reportOf({ generation: null }), ['damaged', 'damaged']],
  [
    'no password, and the digest that is known',
    reportOf(null, { level: 'bytes' }),
    ['whole', 'whole'],
  ],
  [
    'no password, and another digest',
    reportOf(null, { level: 'bytes', manifestDigest: 'other' }),
    ['damaged', 'damaged'],
  ],
  [
    'no password, and damage',
    reportOf(null, { level: 'bytes', whole: false, damagedFiles: ['data/packs/x.pack'] }),
    ['damaged', 'damaged'],
  ],
  [
    'a later state, sealed anew by whoever has the key',
    reportOf({
      generation: 3,
      backups: [{ ...seenOf(first), listDigest: 'anew' }, seenOf(second)],
    }),
    ['whole', 'whole'],
  ],
])('%s', (_, report, expected) => {
  expect(outcomes(report)).toEqual(expected);
});

test('damage elsewhere in the archive does not make a backup less whole, and is told', () => {
  const report = reportOf({}, { whole: false, damagedFiles: ['data/packs/x.pack'] });
  const [one] = judgeProof(report, copy, [first]);
  expect(one?.outcome).toBe('whole');
  expect(one?.what).toMatch(/Elsewhere in the archive: “data\/packs\/x.pack” is missing/);
});

test.each<[string, VerifyReport, Partial<KnownCopy>, ReturnType<typeof judgeCopy>]>([
  [
    'whole, with the state it was found in',
    reportOf(),
    {},
    { state: 'whole', generation: 2, digest: 'digest', storedBytes: 5000 },
  ],
  [
    'whole in a state that only its key told of',
    reportOf({ generation: 3 }, { manifestDigest: 'newer' }),
    {},
    { state: 'whole', generation: 3, digest: 'newer', storedBytes: 5000 },
  ],
  [
    'whole without its password',
    reportOf(null),
    {},
    { state: 'whole', generation: 2, digest: 'digest', storedBytes: 5000 },
  ],
  [
    'damaged without its password',
    reportOf(null, { whole: false, damagedFiles: ['data/packs/1'] }),
    {},
    { state: 'damaged' },
  ],
  ['damaged somewhere', reportOf({}, { whole: false }), {}, { state: 'damaged' }],
  ['another archive in its place', reportOf({ archive: 'another' }), {}, { state: 'damaged' }],
  ['an older state of it', reportOf({ generation: 1 }), {}, { state: 'damaged' }],
  ['without a roster', reportOf({ generation: null }), {}, { state: 'damaged' }],
  [
    'whole before something was added to it: nothing is known of it now',
    reportOf(),
    { generation: 3, digest: 'newer' },
    null,
  ],
  [
    'damaged before something was added to it: it still is',
    reportOf({}, { whole: false }),
    { generation: 3, digest: 'newer' },
    { state: 'damaged' },
  ],
  [
    'whole by a look that could not see what a closer one found',
    reportOf({}, { level: 'structure' }),
    { state: 'damaged', checkedLevel: 'bytes' },
    null,
  ],
  [
    'whole by one that could',
    reportOf({}, { level: 'full' }),
    { state: 'damaged', checkedLevel: 'bytes' },
    { state: 'whole', generation: 2, digest: 'digest', storedBytes: 5000 },
  ],
])('a copy that was found %s', (_, report, now, found) => {
  expect(judgeCopy(report, copy, { ...copy, ...now })).toEqual(found);
});

test('what cannot be restored is said by class, and no name is', () => {
  const touched = {
    ...seenOf(second),
    ...{ damagedItems: 1003, whole: false },
    damagedClasses: { messages: 3, photographs: 1000 },
  };
  const report = reportOf(
    { backups: [seenOf(first), touched], damaged: [{ backup: second.id, path: 'secret.txt' }] },
    { whole: false, damagedFiles: ['data/packs/x.pack'] },
  );
  const judged = judgeProof(report, copy, [first, second]);
  expect(judged.find(({ backupId }) => backupId === second.id)).toMatchObject({
    outcome: 'damaged',
    what: '“data/packs/x.pack” is missing or is not what was written. 1,003 items cannot be restored: 3 of messages, 1,000 of photographs.',
  });
});
