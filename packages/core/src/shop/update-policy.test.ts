import { describe, expect, test } from 'vitest';
import { deviceFacts, emptyDevice } from '../test-devices.js';
import { updateAdvice, updatePolicies } from './update-policy.js';

const osUpdate = { version: '18.0', bytes: 2e9 };
const inUse = deviceFacts({ osUpdate });
const empty = emptyDevice({ osUpdate });

describe('an update that a device’s OS offers', () => {
  test('is nobody’s matter where there is none', () => {
    for (const policy of updatePolicies)
      expect(updateAdvice(policy, deviceFacts(), { proven: true })).toBeNull();
  });

  test('is never allowed on a device in use without a proven backup', () => {
    for (const policy of updatePolicies)
      expect(updateAdvice(policy, inUse, { proven: false })?.allowed).toBe(false);
  });

  test('with a proven backup it is allowed only where somebody may ask for it, and warns what it costs', () => {
    expect(updatePolicies.filter((p) => updateAdvice(p, inUse, { proven: true })?.allowed)).toEqual(
      ['ask'],
    );
    expect(updateAdvice('ask', inUse, { proven: true })?.sentence).toMatch(
      /restores only onto 18\.0 or newer/,
    );
  });

  test('an empty device may be updated for a restore, unless the shop never does', () => {
    expect(
      updatePolicies.filter((p) => updateAdvice(p, empty, { proven: false })?.allowed),
    ).toEqual(['only-for-a-restore', 'ask']);
  });

  test('every answer names the version', () => {
    for (const policy of updatePolicies)
      for (const device of [inUse, empty])
        for (const proven of [true, false])
          expect(updateAdvice(policy, device, { proven })?.sentence).toContain('18.0 is offered');
  });
});
