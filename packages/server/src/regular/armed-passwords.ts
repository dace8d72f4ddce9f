import { HeldPassword } from '../kernel/held-password.js';

/** Long enough for a fortnight, and no longer. */
const ARMED_MS = 15 * 86_400_000;

interface Armed {
  password: HeldPassword;
  /** The technician who typed it. */
  by: string;
  /** Milliseconds since 1970. */
  until: number;
}

/** The passwords that regular backups start with, by schedule: in this memory only, overwritten when their time is over. */
export class ArmedPasswords {
  readonly #armed = new Map<string, Armed>();

  constructor() {
    setInterval(() => this.#sweep(Date.now()), 60_000).unref();
  }

  arm(schedule: string, password: string, by: string): void {
    this.forget(schedule);
    const until = Date.now() + ARMED_MS;
    this.#armed.set(schedule, { password: new HeldPassword(password), by, until });
  }

  get(schedule: string, now: Date): Armed | null {
    this.#sweep(now.getTime());
    return this.#armed.get(schedule) ?? null;
  }

  forget(schedule: string): void {
    this.#armed.get(schedule)?.password.forget();
    this.#armed.delete(schedule);
  }

  #sweep(now: number): void {
    for (const [schedule, { until }] of this.#armed) if (until <= now) this.forget(schedule);
  }
}
