import { afterEach, describe, expect, it, vi } from 'vitest';
import { fetchMade } from './curves';
import { ApiError, errorText, mayPass } from '../platform/errors';

const ASKED = { pens: [], startUs: 0, endUs: 1, width: 10 };

function answers(body: BodyInit, status = 200): void {
  vi.stubGlobal('fetch', () => Promise.resolve(new Response(body, { status })));
}

afterEach(() => vi.unstubAllGlobals());

describe('curves that cannot be read', () => {
  it('are said, and not asked for again and again', async () => {
    answers('no Arrow at all');
    const error: unknown = await fetchMade(ASKED, new AbortController().signal).catch((one: unknown) => one);
    expect(errorText(error)).toContain('What the server sent cannot be read');
    expect(mayPass(error)).toBe(false);
  });

  it('are told from a refusal and from a server that is away', async () => {
    answers(JSON.stringify({ title: 'x', status: 503, detail: 'The database is away.' }), 503);
    const error: unknown = await fetchMade(ASKED, new AbortController().signal).catch((one: unknown) => one);
    expect(error).toBeInstanceOf(ApiError);
    expect(mayPass(error)).toBe(true);
    expect(errorText(error)).toBe('The database is away.');
  });
});
