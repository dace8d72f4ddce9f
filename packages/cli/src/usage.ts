/** The command was called in a way that cannot be carried out. Its message is for the caller. */
export class UsageError extends Error {
  constructor(message: string, options?: ErrorOptions) {
    super(message, options);
    this.name = 'UsageError';
  }
}
