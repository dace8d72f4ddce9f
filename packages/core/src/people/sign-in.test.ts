import { expect, test } from 'vitest';
import { needsSecondFactor, pinProblem, usualSignIn } from './sign-in.js';

test.each(['12345', '123456', '987654', '000000', '12345678901', '12a456', ''])(
  '%s is no PIN',
  (pin) => expect(pinProblem(pin)).not.toBeNull(),
);
test.each(['493027', '112233', '1357911'])('%s is one', (pin) =>
  expect(pinProblem(pin)).toBeNull(),
);

test('who must give more than a password', () => {
  const rule = (secondFactor: 'may' | 'keepers' | 'everybody') => ({
    ...usualSignIn,
    secondFactor,
  });
  expect(needsSecondFactor(rule('may'), 'keeper')).toBe(false);
  expect(needsSecondFactor(rule('keepers'), 'keeper')).toBe(true);
  expect(needsSecondFactor(rule('keepers'), 'technician')).toBe(false);
  expect(needsSecondFactor(rule('everybody'), 'trainee')).toBe(true);
});
