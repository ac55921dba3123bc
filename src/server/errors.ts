/** A request that cannot be done, with the reason for the person and the HTTP status. */
export class RequestError extends Error {
  constructor(
    message: string,
    readonly status = 400,
    readonly field: string | null = null,
  ) {
    super(message);
    this.name = 'RequestError';
  }
}

export const databaseDownMessage =
  'The database does not answer. Trials that run go on and are saved when it is back. Look at the terminal where Navvy was started; ./navvy start starts it again.';
