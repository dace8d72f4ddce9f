/**
 * What somebody may do, each as people say it. Every route names one; a route without one does not compile.
 * One line adds one.
 */
export const permissions = {
  see: 'See the bench, tickets, archives and the work on them',
  'take-in': 'Open tickets, note what was agreed, settle steps, close',
  'back-up': 'Take backups, and what is taken regularly',
  prove: 'Prove what lies on the racks',
  copy: 'Copy archives from rack to rack',
  move: 'Move archives from rack to rack, by a plan',
  restore: 'Restore backups onto devices',
  erase: 'Erase devices whose backup is proven',
  'look-in': 'Look into backups, where the customer agreed and the password is known',
  'take-out': 'Take open files and packages out',
  'take-package-in': 'Take packages into archives',
  keep: 'Keep archives longer, and hold them',
  prune: 'Take backups out of archives',
  dispose: 'Destroy what was kept',
  'customer-data': 'Show, take out and let go of what is known of a customer',
  'change-passwords': 'Give an archive another password',
  'update-devices': 'Have devices install an update',
  'look-after-racks': 'Add, change and retire racks',
  people: 'Say who works here, and as what',
  audit: 'Read the record of who did what, check it, take it out',
  'house-rules': 'Change what the shop decided for everybody',
  escrow: 'Set up the escrow, and open archives by it together',
  'own-account': 'Look after their own sign-in',
} as const;

export type Permission = keyof typeof permissions;
export const permissionIds = Object.keys(permissions) as [Permission, ...Permission[]];

/** What only those may do who keep the shop. */
const keepersOnly: readonly Permission[] = ['people', 'audit', 'house-rules', 'escrow'];
/** What somebody may do who is learning: nothing that takes something away, or that cannot be made undone. */
const learning: readonly Permission[] = [
  ...(['see', 'take-in', 'back-up', 'prove', 'copy', 'own-account'] as const),
];

/** What somebody works here as, and what that lets them do. */
export interface Role {
  id: string;
  name: string;
  permissions: readonly Permission[];
}

/** The roles that every shop has; it makes others out of single permissions. */
const builtIn = {
  keeper: { name: 'Keeper', permissions: permissionIds },
  technician: {
    name: 'Technician',
    permissions: permissionIds.filter((permission) => !keepersOnly.includes(permission)),
  },
  trainee: { name: 'Trainee', permissions: learning },
} as const satisfies Record<string, Omit<Role, 'id'>>;

export type BuiltInRole = keyof typeof builtIn;
export const builtInRoles: readonly Role[] = Object.entries(builtIn).map(([id, role]) => ({
  ...{ id, ...role },
}));
export const builtInRole = (id: BuiltInRole): Role => ({ id, ...builtIn[id] });

/** What whoever stands at the counter cannot do without: every role has these. */
export const alwaysAllowed: readonly Permission[] = ['see', 'own-account'];

/** Who may do something, in words: “keepers and technicians”. */
export function whoMay(permission: Permission, roles: readonly Role[]): string {
  const able = roles.filter(({ permissions: may }) => may.includes(permission));
  const names = able.map(({ name }) => `${name.toLowerCase()}s`);
  return [names.slice(0, -1).join(', '), names.at(-1)].filter(Boolean).join(' and ');
}
