import type { DeviceFacts } from '../device/index.js';

/** What a shop does about an update that a device's OS offers. Nothing is ever updated by itself. */
export const updatePolicies = ['only-for-a-restore', 'never', 'ask'] as const;
export type UpdatePolicy = (typeof updatePolicies)[number];

export const updatePolicyNames: Record<UpdatePolicy, string> = {
  'only-for-a-restore': 'Only when a restore needs it',
  never: 'Never',
  ask: 'After its backup is proven, when somebody asks for it',
};

/** Whether an update may be started, and the warning that stands before it. */
export function updateAdvice(
  policy: UpdatePolicy,
  device: Pick<DeviceFacts, 'osUpdate' | 'empty' | 'osName' | 'kind'>,
  { proven }: { proven: boolean },
): { allowed: boolean; sentence: string } | null {
  const { osUpdate } = device;
  if (!osUpdate) return null;
  const offered = `${device.osName} ${osUpdate.version} is offered.`;
  if (policy === 'never')
    return { allowed: false, sentence: `${offered} This shop does not update customers’ devices.` };
  if (device.empty)
    return {
      allowed: true,
      sentence: `${offered} This ${device.kind} is empty: it can be updated.`,
    };
  if (policy === 'only-for-a-restore')
    return {
      allowed: false,
      sentence: `${offered} Leave it: a device in use is not updated here.`,
    };
  return proven
    ? {
        allowed: true,
        sentence: `${offered} Its backup is proven. After the update it restores only onto ${osUpdate.version} or newer.`,
      }
    : { allowed: false, sentence: `${offered} Not before its backup is proven.` };
}
