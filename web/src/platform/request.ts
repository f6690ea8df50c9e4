/** The one way to the server: it knows the path before all addresses, takes answers that were begun early, and tells the
 * session when somebody is refused. */
import { served } from './configuration';
import { session } from './session';

const begun = new Map<string, Promise<Response>>();

/** Asks now for what will be asked for soon, by its path on the server; whoever asks first gets the answer, or its
 * failure. */
export function begin(path: string): Promise<Response> {
  const answer = request(path);
  begun.set(served(path), answer);
  // Told to who takes it.
  answer.catch(() => undefined);
  return answer;
}

/** `fetch`, with the answer that was begun for this address, once. */
export async function fetchOrTake(asked: Request): Promise<Response> {
  const { pathname, search } = new URL(asked.url);
  const path = pathname + search;
  const answer = asked.method === 'GET' ? begun.get(path) : undefined;
  begun.delete(path);
  return answer ?? noted(await fetch(asked));
}

/** Asks for a path on the server. */
export async function request(path: string, init?: RequestInit): Promise<Response> {
  return noted(await fetch(served(path), init));
}

function noted(answer: Response): Response {
  session.note(answer.status);
  return answer;
}
