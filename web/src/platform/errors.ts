import * as common from 'texts/common.json';
import * as wording from 'texts/platform.json';
import refusals from 'texts/refusals.json';
import { fill } from '../domain/fill';

/** One field that cannot be used, and what to do. */
export interface FieldProblem {
  field: string;
  problem: string;
  remedy: string;
  /** What a text in another language goes by, and what stands in it. */
  code?: string;
  parameters?: Readonly<Record<string, string>>;
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
      type?: string;
      parameters?: Readonly<Record<string, string>>;
    };
    const title =
      document.title ??
      (status === 0 ? wording.theServerDoesNotAnswer : fill(wording.theServerAnsweredStatus, { status }));
    const { detail = title, errors = [], type = '', parameters } = document;
    const fields = errors.map((one) => translated(one));
    const isOther = fields.some((one, i) => one !== errors[i]);
    const said = textOf(type.replace(PROBLEM, ''), parameters);
    return new ApiError(status, title, isOther ? fields.map(sentence).join(' ') : (said ?? detail), fields);
  }
}

const PROBLEM = 'urn:cronaca:problem:';
type Texts = Readonly<Record<string, string | undefined>>;

/** What another language says by a code; English is what the server says itself. */
function textOf(
  code: string,
  parameters: FieldProblem['parameters'] = {},
  texts: Texts = refusals,
): string | undefined {
  const text = texts[code];
  return text === undefined ? undefined : fill(text, parameters);
}

/** A refusal in the language of the page, as far as that has words for it. */
export function translated(one: FieldProblem, texts: Texts = refusals): FieldProblem {
  const { code = '', parameters } = one;
  const [problem, remedy] = [code, `${code}.remedy`].map((key) => textOf(key, parameters, texts));
  if (problem === undefined && remedy === undefined) return one;
  return { ...one, problem: problem ?? one.problem, remedy: remedy ?? one.remedy };
}

function sentence({ field, problem, remedy }: FieldProblem): string {
  return `${field}: ${problem}. ${remedy}`;
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
