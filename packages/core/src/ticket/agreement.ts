/** What a customer is asked, and may take back. */
export const agreementKinds = ['backup', 'look-in', 'escrow', 'keep'] as const;
export type AgreementKind = (typeof agreementKinds)[number];

export const agreementNames: Record<AgreementKind, string> = {
  backup: 'A backup is taken',
  'look-in': 'The shop may look inside',
  escrow: 'The shop’s escrow can open it too',
  keep: 'It is kept after the visit',
};

/** What was agreed last, of each kind. Nothing said is not agreed. */
export interface Agreed {
  backup: boolean;
  lookIn: boolean;
  escrow: boolean;
  /** Days; 0 when it is not kept. */
  keepDays: number;
}

/** @param said everything that was noted, the oldest first. */
export function agreedFrom(
  said: readonly { kind: AgreementKind; given: boolean; days: number | null }[],
): Agreed {
  const last = (kind: AgreementKind) => said.findLast((a) => a.kind === kind);
  const keep = last('keep');
  return {
    backup: last('backup')?.given ?? false,
    lookIn: last('look-in')?.given ?? false,
    escrow: last('escrow')?.given ?? false,
    keepDays: keep?.given ? (keep.days ?? 0) : 0,
  };
}
