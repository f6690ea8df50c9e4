/** Answers that are asked for before the program that reads them is there. */

const begun = new Map<string, Promise<Response>>();

/** Asks now for what will be asked for soon; whoever asks first gets the answer, or its failure. */
export function begin(path: string): Promise<Response> {
  const answer = fetch(path);
  begun.set(path, answer);
  // Told to who takes it.
  answer.catch(() => undefined);
  return answer;
}

/** `fetch`, with the answer that was begun for this address, once. */
export async function fetchOrTake(request: Request): Promise<Response> {
  const { pathname, search } = new URL(request.url);
  const path = pathname + search;
  const answer = request.method === 'GET' ? begun.get(path) : undefined;
  begun.delete(path);
  return answer ?? fetch(request);
}
