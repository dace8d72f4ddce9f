import { z } from 'zod';

/** Who gives more than a password: a code from their own device, or a passkey. */
export const secondFactors = ['may', 'keepers', 'everybody'] as const;
export const secondFactorNames: Readonly<Record<(typeof secondFactors)[number], string>> = {
  may: 'Whoever wants to',
  keepers: 'Keepers must, others may',
  everybody: 'Everybody must',
};

/** After how many minutes in which nobody did anything a screen locks; `0`: never. */
export const lockTimes = ['0', '5', '10', '15', '30'] as const;
export const lockTimeNames: Readonly<Record<(typeof lockTimes)[number], string>> = {
  0: 'Never',
  5: 'After 5 minutes',
  10: 'After 10 minutes',
  15: 'After a quarter of an hour',
  30: 'After half an hour',
};

/** How one signs in here. */
export const signInRulesSchema = z.object({
  secondFactor: z.enum(secondFactors),
  lockMinutes: z.enum(lockTimes),
});
export type SignInRules = z.infer<typeof signInRulesSchema>;
export const usualSignIn: SignInRules = { secondFactor: 'may', lockMinutes: '15' };

/** Whether somebody with a role has to give more than a password. */
export const needsSecondFactor = ({ secondFactor }: SignInRules, role: string): boolean =>
  secondFactor === 'everybody' || (secondFactor === 'keepers' && role === 'keeper');

/** What is wrong with a PIN; null where nothing is. */
export function pinProblem(pin: string): string | null {
  if (!/^\d{6,10}$/.test(pin)) return 'Six to ten digits.';
  const digits = Array.from(pin, Number);
  const steps = digits.slice(1).map((digit, n) => digit - (digits[n] ?? 0));
  const [first] = steps;
  if (steps.every((step) => step === first) && first !== undefined && Math.abs(first) <= 1)
    return 'Not the same digit again and again, nor one after the other.';
  return null;
}

/** So many wrong ones in a row, and a PIN opens nothing until its holder signed in with their password. */
export const PIN_TRIES = 5;
