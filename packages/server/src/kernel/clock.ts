/** Where the time comes from: passed in, so that a test can say what time it is. */
export interface Clock {
  now(): Date;
}

export const systemClock: Clock = { now: () => new Date() };
