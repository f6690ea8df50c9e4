import * as common from 'texts/common.json';
import * as wording from 'texts/platform.json';
import { fill } from '../domain/fill';

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

  /** The same where the form calls a field otherwise. */
  at(field: string, own: string): ApiError {
    const fields = this.fields.map((one) => (one.field === field ? { ...one, field: own } : one));
    return new ApiError(this.status, this.title, this.detail, fields);
  }

  static from(status: number, body: unknown): ApiError {
    const document = (typeof body === 'object' && body !== null ? body : {}) as {
      title?: string;
      detail?: string;
      errors?: FieldProblem[];
    };
    const title =
      document.title ??
      (status === 0 ? wording.theServerDoesNotAnswer : fill(wording.theServerAnsweredStatus, { status }));
    return new ApiError(status, title, document.detail ?? title, document.errors ?? []);
  }
}

/** An answer that cannot be taken apart. To ask again would bring the same. */
export class UnreadableAnswer extends Error {
  constructor(cause: unknown) {
    super(
      fill(wording.whatTheServerSentCannotBe, {
        part: cause instanceof Error ? cause.message : String(cause),
      }),
    );
  }
}

/** Whether to ask again: a refusal stays one, a server that is away may come back. */
export function mayPass(error: unknown): boolean {
  if (error instanceof UnreadableAnswer) return false;
  return !(error instanceof ApiError && error.status < 500);
}

/** What to tell a person about any error. */
export function errorText(error: unknown): string {
  if (error instanceof ApiError) return error.detail;
  if (error instanceof UnreadableAnswer) return error.message;
  return error instanceof TypeError ? common.theServerDoesNotAnswer : String(error);
}
