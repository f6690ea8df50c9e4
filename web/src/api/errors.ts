/** A problem document (RFC 9457) as an error. */
export class ApiError extends Error {
  constructor(
    readonly status: number,
    readonly title: string,
    readonly detail: string,
  ) {
    super(detail);
  }

  static from(status: number, body: unknown): ApiError {
    const facts = (typeof body === 'object' && body !== null ? body : {}) as {
      title?: string;
      detail?: string;
    };
    const title =
      facts.title ?? (status === 0 ? 'The server does not answer' : `The server answered ${status}`);
    return new ApiError(status, title, facts.detail ?? title);
  }
}

/** What to tell a person about any error. */
export function errorText(error: unknown): string {
  if (error instanceof ApiError) return error.detail;
  return error instanceof TypeError ? 'The server does not answer.' : String(error);
}
