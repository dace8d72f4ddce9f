/** Something that somebody wrote to somebody. All of it is the customer's. */
export interface Message {
  /** The conversation's name on the device. */
  thread: string;
  /** UTC. */
  at: Date;
  /** A number; `me` for the device's owner. */
  from: string;
  text: string;
  /** A path on the device; null for none. */
  attachment: string | null;
}
