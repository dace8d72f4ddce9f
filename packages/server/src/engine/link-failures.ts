import { Failure, type ProblemCode } from '@bright-cellar/core';
import { LinkError } from '@bright-cellar/device-link';

const meanings: Record<LinkError['code'], ProblemCode> = {
  'no-answer': 'link-failed',
  'not-authorised': 'link-down',
  'not-valid': 'device-refused',
  'no-such-device': 'device-left',
  'no-such-entry': 'device-refused',
  locked: 'device-not-ready',
  'not-approved': 'device-not-ready',
  'port-off': 'device-not-ready',
  sealed: 'device-refused',
  busy: 'device-busy',
  'in-use': 'device-in-use',
  exists: 'device-refused',
  'wrong-serial': 'wrong-serial',
  'wrong-family': 'device-not-ready',
  'owner-locked': 'device-not-ready',
  'os-too-old': 'device-not-ready',
  'device-full': 'device-full',
  'read-error': 'device-refused',
  changed: 'device-refused',
  left: 'device-left',
  'not-capable': 'device-refused',
};

/** What a refusal over the link means to a technician; anything else is passed on. */
export function linkFailure(
  error: unknown,
  exact: ConstructorParameters<typeof Failure>[1] = {},
): unknown {
  if (!(error instanceof LinkError)) return error;
  const code = meanings[error.code];
  return new Failure(code, code === 'device-left' ? exact : {}, { cause: error });
}
