export const callKinds = ['incoming', 'outgoing', 'missed'] as const;

/** One call, as a device logs it. */
export interface Call {
  /** UTC. */
  at: Date;
  kind: (typeof callKinds)[number];
  /** The other one. */
  number: string;
  seconds: number;
}
