/** One field that cannot be used, and what to do. */
export interface FieldProblem {
  field: string;
  problem: string;
  remedy: string;
}

/** A problem document (RFC 9457) as an error. */
export class ApiError extends Error {
  constructor(
    readonly status: number,
    readonly title: string,
    readonly detail: string,
    readonly fields: readonly FieldProblem[] = [],
  ) {
    super(detail);
  }

  static from(status: number, body: unknown): ApiError {
    const facts = (typeof body === 'object' && body !== null ? body : {}) as {
      title?: string;
      detail?: string;
      errors?: FieldProblem[];
    };
    const title =
      facts.title ?? (status === 0 ? 'The server does not answer' : `The server answered ${status}`);
    return new ApiError(status, title, facts.detail ?? title, facts.errors ?? []);
  }
}

/** What to tell a person about any error. */
export function errorText(error: unknown): string {
  if (error instanceof ApiError) return error.detail;
  return error instanceof TypeError ? 'The server does not answer.' : String(error);
}
