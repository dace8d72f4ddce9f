/** Something about somebody's body, measured. */
export interface Measurement {
  /** UTC. */
  at: Date;
  /** What was measured, in words: `steps`, `pulse`, `sleep`. */
  what: string;
  value: number;
  /** What it is measured in; empty for a count. */
  unit: string;
}
