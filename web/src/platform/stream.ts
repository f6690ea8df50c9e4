/** Long work that tells how far it is: one JSON object a line (NDJSON). */
import * as wording from 'texts/platform.json';
import { ApiError } from './errors';
import { request } from './request';

interface Line {
  done?: number;
  of?: number;
  result?: unknown;
  problem?: { status: number };
}

/** Sends and tells progress as it comes; the result, or ApiError. Aborting ends the work: nothing is written. */
export async function putWithProgress<T>(
  path: string,
  body: unknown,
  onProgress: (done: number, of: number) => void,
  signal: AbortSignal,
): Promise<T> {
  const headers = { 'content-type': 'application/json' };
  const answer = await request(path, { method: 'PUT', headers, body: JSON.stringify(body), signal });
  if (!answer.ok || answer.body === null) {
    throw ApiError.from(answer.status, await answer.json().catch((): unknown => null));
  }
  const take = (text: string): T | undefined => {
    const line = JSON.parse(text) as Line;
    if (line.problem !== undefined) throw ApiError.from(line.problem.status, line.problem);
    if (line.done !== undefined && line.of !== undefined) onProgress(line.done, line.of);
    return line.result as T | undefined;
  };
  for await (const text of linesOf(answer.body)) {
    const result = take(text);
    if (result !== undefined) return result;
  }
  throw new ApiError(0, wording.theAnswerBrokeOff, wording.theAnswerBrokeOffLookWhether);
}

async function* linesOf(body: ReadableStream<Uint8Array>): AsyncGenerator<string> {
  // The library's types are narrower than the standard's.
  const decoder = new TextDecoderStream() as ReadableWritablePair<string, Uint8Array>;
  const reader = body.pipeThrough(decoder).getReader();
  let left = '';
  for (;;) {
    const { done, value } = await reader.read();
    left += value ?? '';
    const lines = left.split('\n');
    left = done ? '' : (lines.pop() ?? '');
    yield* lines.filter((line) => line !== '');
    if (done) return;
  }
}
