/** Who is in a conversation, as its application keeps it. */
export interface Thread {
  /** The conversation's name on the device. */
  name: string;
  isGroup: boolean;
  /** Numbers of the others in it. */
  members: string[];
}
