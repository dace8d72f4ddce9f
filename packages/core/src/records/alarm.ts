/** A time at which the device wakes somebody. */
export interface Alarm {
  /** `06:40`, wherever one is. */
  time: string;
  /** On which days, in words; empty for once. */
  days: string;
  label: string;
}
