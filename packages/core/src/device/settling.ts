import { z } from 'zod';

/** What a device asks of its owner after a backup came onto it, in the order in which it asks. */
export const settlingIds = [
  'passcode',
  'account',
  'code',
  'wifi',
  'places',
  'applications',
] as const;
export type SettlingId = (typeof settlingIds)[number];

export const settlingStepSchema = z.object({
  id: z.enum(settlingIds),
  /** How far it is: one of one where it is done or not, applications that were downloaded again of all. */
  done: z.int().min(0).max(100_000),
  of: z.int().min(1).max(100_000),
});
export type SettlingStep = z.infer<typeof settlingStepSchema>;

export const isSettled = ({ done, of }: SettlingStep): boolean => done >= of;

/** What each is called in a list, and what to do about it on the device. */
export const settlingSteps: Record<SettlingId, { name: string; remedy: string }> = {
  passcode: { name: 'Passcode', remedy: 'have the customer set their passcode' },
  account: {
    name: 'Owner’s account',
    remedy: 'have the owner sign in to their account; only they type that password',
  },
  code: {
    name: 'Confirmation code',
    remedy: 'have the owner type the code that their account sends them',
  },
  wifi: { name: 'Wi-Fi', remedy: 'join the shop’s Wi-Fi: applications download over it' },
  places: {
    name: 'Place services',
    remedy: 'ask the customer whether place services may be on',
  },
  applications: { name: 'Applications', remedy: 'wait while applications download' },
};
