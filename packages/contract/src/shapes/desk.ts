/** What a customer can type a password for, on a page of their own: as the page says it, after “The shop wants to”. */
export const deskActions = {
  backup: 'take a backup of it, and prove that it opens',
  further: 'take another backup of it, and prove that it opens',
  continue: 'let the backup of it go on, and prove that it opens',
  proof: 'prove that its backup opens',
  restore: 'put its backup onto a device',
  package: 'write its backup into a file to take along',
  look: 'open its backup, so that it can be read together',
  regular: 'take backups of it regularly, for fifteen days at most',
} as const;
export type DeskAction = keyof typeof deskActions;
export const deskActionIds = Object.keys(deskActions) as [DeskAction, ...DeskAction[]];

/** What each serves: itself, and what belongs to it. Nothing else is started with a password that was typed for it. */
export const deskServes: Record<DeskAction, readonly DeskAction[]> = {
  backup: ['backup', 'continue', 'proof'],
  further: ['further', 'continue', 'proof'],
  continue: ['continue', 'proof'],
  proof: ['proof'],
  restore: ['restore'],
  package: ['package'],
  look: ['look'],
  regular: ['regular'],
};
