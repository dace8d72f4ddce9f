/**
 * Everything that can go wrong in a way a technician must know of: what happened, what is safe, and
 * what to do now. One list, used unchanged from the rack to the screen.
 */
export const problems = {
  'not-signed-in': {
    what: 'You are not signed in.',
    safe: 'Nothing was changed.',
    next: 'Sign in and try again.',
  },
  'sign-in-refused': {
    what: 'That name and password do not belong together.',
    safe: 'Nothing was changed.',
    next: 'Check both and try again.',
  },
  'second-factor': {
    what: 'This account gives more than its password: a code from its holder’s own device.',
    safe: 'Nothing was changed.',
    next: 'Type the six digits that the device shows now.',
  },
  'second-factor-missing': {
    what: 'The house rules ask for more than a password here.',
    safe: 'Nothing was changed.',
    next: 'Set up a code or a passkey under your own name, below left.',
  },
  'session-locked': {
    what: 'This screen is locked.',
    safe: 'What was typed is still there.',
    next: 'Unlock it, or sign in as somebody else.',
  },
  'too-many-tries': {
    what: 'Too many tries in a short time.',
    safe: 'Nothing was changed.',
    next: 'Wait a minute, then try again.',
  },
  'request-not-trusted': {
    what: 'The request did not come from this application’s own page.',
    safe: 'Nothing was changed.',
    next: 'Reload the page and try again.',
  },
  'not-allowed': {
    what: 'Your role may not do this.',
    safe: 'Nothing was changed.',
    next: 'Ask somebody whose role may.',
  },
  'input-not-valid': {
    what: 'Something in the form cannot be used as it is.',
    safe: 'Nothing was changed.',
    next: 'Correct the marked fields.',
  },
  'not-found': {
    what: 'That is not here, or not here any more.',
    safe: 'Nothing was changed.',
    next: 'Go back to the list and choose again.',
  },
  'weak-password': {
    what: 'That password can be guessed in minutes.',
    safe: 'Nothing was started.',
    next: 'Choose at least eight characters that are not only digits; four words are good.',
  },
  'wrong-password': {
    what: 'The password does not open this backup.',
    safe: 'Nothing was written or changed.',
    next: 'Ask its holder to type it again. Nobody can recover a lost one.',
  },
  'database-away': {
    what: 'The shop’s catalogue does not answer just now.',
    safe: 'What was saved is safe; the catalogue is being started again.',
    next: 'Try again in a few seconds.',
  },
  'device-not-here': {
    what: 'The device is not on the bench.',
    safe: 'Nothing was started.',
    next: 'Connect the device to a berth and try again.',
  },
  'device-left': {
    what: 'The device left the bench while the work was running.',
    safe: 'What was on the device is as it was.',
    next: 'Check the cable, connect the device, and start again.',
  },
  'device-not-ready': {
    what: 'The device is not ready for this.',
    safe: 'Nothing was started.',
    next: 'Meet the marked conditions first.',
  },
  'device-busy': {
    what: 'Something else is running on this device.',
    safe: 'It goes on undisturbed; nothing was started.',
    next: 'Wait until it ends, or stop it.',
  },
  'device-in-use': {
    what: 'This device holds somebody’s data. Nothing can be merged into it.',
    safe: 'Nothing was written to it.',
    next: 'Back it up and erase it first, or connect an empty device.',
  },
  'device-full': {
    what: 'The device ran out of room while the backup was going over.',
    safe: 'The backup on the rack is unchanged. The device is not usable as it is.',
    next: 'Erase the device and restore to one with more room.',
  },
  'device-refused': {
    what: 'The device refused the request.',
    safe: 'The backup on the rack is unchanged.',
    next: 'Look at the device’s own screen, then try again.',
  },
  'device-restless': {
    what: 'The device changes all the time while it is read.',
    safe: 'The device is as it was. What was taken is kept on the rack.',
    next: 'Close what runs on it, leave it alone on its cable, and let the backup go on.',
  },
  'link-failed': {
    what: 'The link to the device gave no answer.',
    safe: 'What was committed before is whole.',
    next: 'Check the cable and start again.',
  },
  'link-down': {
    what: 'The bench does not answer.',
    safe: 'Archives on the racks are not affected.',
    next: 'Check that the bench process runs; this screen reconnects by itself.',
  },
  'partner-not-here': {
    what: 'The customer’s server does not answer.',
    safe: 'What was kept in step before is; nothing is half-written.',
    next: 'Check the address and the way to it, and start again: nothing comes twice.',
  },
  'changed-meanwhile': {
    what: 'It was changed there meanwhile.',
    safe: 'It was not written over.',
    next: 'Start again: what it is now is read first.',
  },
  'partner-refused': {
    what: 'The customer’s server does not let one in with that name and password.',
    safe: 'Nothing was written.',
    next: 'Type both again; some servers want a password made for one program.',
  },
  'adapter-not-taken': {
    what: 'No adapter answers there.',
    safe: 'Devices are reached as they were.',
    next: 'Check the address, the token and whether the adapter runs there.',
  },
  'recovery-key-missing': {
    what: 'Nobody has the recovery key that saves of the catalogue are sealed to.',
    safe: 'Nothing was written. Archives are not touched by this.',
    next: 'Make it under Condition, and keep it on paper.',
  },
  'rack-not-here': {
    what: 'The rack is not connected or cannot be written.',
    safe: 'Nothing was started.',
    next: 'Connect the drive, or choose another rack.',
  },
  'rack-full': {
    what: 'The rack has no room for this.',
    safe: 'Everything that was on the rack before is whole.',
    next: 'Make room, or choose another rack.',
  },
  'archive-not-here': {
    what: 'The archive’s folder is not on its rack.',
    safe: 'The catalogue keeps its record.',
    next: 'Connect the drive it lies on.',
  },
  'package-damaged': {
    what: 'The package is damaged, cut short, or not one of ours.',
    safe: 'It was not changed, and nothing of it was taken in.',
    next: 'Copy it again from where it came from, or use another copy.',
  },
  'archive-in-use': {
    what: 'Something else is working on this archive, or somebody looks into it.',
    safe: 'That goes on undisturbed; nothing was changed.',
    next: 'Wait until it ends, or have the look-in closed (the sign above says whose it is), then try again.',
  },
  'rack-not-mounted': {
    what: 'That rack is not mounted on this computer: only archives lie there.',
    safe: 'Nothing was changed.',
    next: 'Choose a rack that is a drive or a share of this computer.',
  },
  'archive-changed': {
    what: 'Somebody else changed this archive meanwhile.',
    safe: 'It is whole, as they left it; nothing was added to it here.',
    next: 'Open it again and repeat what you did.',
  },
  'archive-damaged': {
    what: 'The stored bytes are not what was written.',
    safe: 'The damaged archive was not changed.',
    next: 'Do not erase any device that relies on it. Take a new backup at once.',
  },
  'not-read-back': {
    what: 'What was written does not come back from this rack as it was sent.',
    safe: 'The copy that it was made from is whole; no other is on record.',
    next: 'Try once more. If it happens again, take nothing more onto this rack, and look at its drive.',
  },
  'archive-held': {
    what: 'Somebody holds this archive.',
    safe: 'Nothing was destroyed.',
    next: 'Ask whoever holds it. They lift the hold on the archive’s page.',
  },
  'not-removed': {
    what: 'Something of the copy still lies on its rack after it was removed.',
    safe: 'It is on record as it was; no other copy was touched.',
    next: 'Look at its drive, then try once more.',
  },
  'archive-of-another': {
    what: 'This archive and what should go into it do not belong together.',
    safe: 'Nothing was changed.',
    next: 'Choose the archive that belongs to it, or a new folder.',
  },
  'archive-format-unknown': {
    what: 'This folder is not an archive that this version can read.',
    safe: 'It was not changed.',
    next: 'Open it with the version that wrote it.',
  },
  'not-proven': {
    what: 'This device has no proven backup of what is on it now.',
    safe: 'Nothing was erased.',
    next: 'Take a backup and prove it first.',
  },
  'wrong-serial': {
    what: 'Those are not the last characters of this device’s serial.',
    safe: 'Nothing was written or erased.',
    next: 'Read them from the device in your hand.',
  },
  'step-refused': {
    what: 'That step cannot be settled that way.',
    safe: 'Nothing was changed.',
    next: 'Do what the step asks for first.',
  },
  'device-of-another': {
    what: 'This device came with another customer before.',
    safe: 'No ticket was opened.',
    next: 'Ask whose it is now; then say so and open the ticket.',
  },
  'device-differs': {
    what: 'This device is not the one that the ticket describes.',
    safe: 'The ticket was not changed.',
    next: 'Compare what is printed on it; then say so and tie it.',
  },
  'not-agreed': {
    what: 'The customer has not agreed to this.',
    safe: 'Nothing was started.',
    next: 'Ask, and note the agreement on the ticket.',
  },
  'look-in-over': {
    what: 'This look-in is over.',
    safe: 'Its key is forgotten, and nothing of it is kept.',
    next: 'Open the backup again with its password, from the archive.',
  },
  'escrow-missing': {
    what: 'The customer agreed to escrow, but this shop has not set one up.',
    safe: 'Nothing was started.',
    next: 'Set it up in the house rules, or note on the ticket that it is not wanted.',
  },
  'two-people': {
    what: 'This takes two different people of the shop.',
    safe: 'Nothing was opened or changed.',
    next: 'Let the second person type their own name and phrase.',
  },
  'not-safe-here': {
    what: 'Customers’ own devices would reach this shop over a connection that anybody on the network can read.',
    safe: 'No page was opened.',
    next: 'Let the customer type it on this computer, until the shop’s address begins with https.',
  },
  'nothing-chosen': {
    what: 'Nothing is chosen.',
    safe: 'Nothing was started.',
    next: 'Choose at least one item, or take everything.',
  },
  'restore-differs': {
    what: 'The restored device does not hold what the backup holds.',
    safe: 'The backup on the rack is unchanged.',
    next: 'Erase the device and restore again.',
  },
  'restore-incomplete': {
    what: 'Some items of the backup are damaged and were left out.',
    safe: 'What is on the device was compared and is right. The backup on the rack was not changed.',
    next: 'Take what is missing from another copy, or from an earlier backup. Tell the customer what is missing.',
  },
  'backup-unfinished': {
    what: 'The backup that was being sent did not come to its end.',
    safe: 'What was taken is kept on the rack. The device that it was for took nothing.',
    next: 'Let the backup go on; then restore it onto the device.',
  },
  'work-interrupted': {
    what: 'The work was cut off because the program stopped.',
    safe: 'What was committed before is whole.',
    next: 'Start it again.',
  },
  'work-stopped': {
    what: 'The work was stopped.',
    safe: 'What was committed before is whole.',
    next: 'Start again when you are ready.',
  },
  'already-exists': {
    what: 'That exists already.',
    safe: 'Nothing was changed.',
    next: 'Use the existing one.',
  },
  unexpected: {
    what: 'Something went wrong that this program did not expect.',
    safe: 'What was committed before is whole.',
    next: 'Try again; if it stays, send the log to whoever looks after the program.',
  },
} as const satisfies Record<string, { what: string; safe: string; next: string }>;

export type ProblemCode = keyof typeof problems;
export const problemCodes = Object.keys(problems) as [ProblemCode, ...ProblemCode[]];

/** A problem as a value: it can be stored, sent and shown without losing its meaning. */
export interface Problem {
  readonly code: ProblemCode;
  readonly what: string;
  readonly safe: string;
  readonly next: string;
}

/** The problem of that code; any of its sentences can be made more exact for the case at hand. */
export function problem(
  code: ProblemCode,
  exact: Partial<Pick<Problem, 'what' | 'safe' | 'next'>> = {},
): Problem {
  return { code, ...problems[code], ...exact };
}

/** Carries a {@link Problem} up a call stack. Its message is the problem's first sentence. */
export class Failure extends Error {
  readonly problem: Problem;

  constructor(
    code: ProblemCode,
    exact: Partial<Pick<Problem, 'what' | 'safe' | 'next'>> = {},
    options?: ErrorOptions,
  ) {
    const described = problem(code, exact);
    super(described.what, options);
    this.name = 'Failure';
    this.problem = described;
  }
}

/** What an unknown thrown value is, as a problem. Its own text is not shown: it may name customers' files. */
export function problemOf(thrown: unknown): Problem {
  return thrown instanceof Failure ? thrown.problem : problem('unexpected');
}
