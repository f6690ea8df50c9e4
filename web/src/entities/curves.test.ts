import { afterEach, describe, expect, it, vi } from 'vitest';
import { curvesIn, fetchMade } from './curves';
import { ApiError, errorText, mayPass } from '../platform/errors';

const ASKED = { pens: [], startUs: 0, endUs: 1, width: 10 };

function answers(body: BodyInit, status = 200): void {
  vi.stubGlobal('fetch', () => Promise.resolve(new Response(body, { status })));
}

afterEach(() => vi.unstubAllGlobals());

describe('curves that cannot be read', () => {
  it('are said, and not asked for again and again', async () => {
    answers('no curves at all');
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

/** What the server writes (tests/exchange/test_columns.py), by hand. */
function written(head: object, ...columns: ArrayBufferView[]): ArrayBuffer {
  const text = JSON.stringify(head);
  const padded = new TextEncoder().encode(text + ' '.repeat((8 - ((4 + text.length) % 8)) % 8));
  const parts: Uint8Array[] = [new Uint8Array(Uint32Array.of(padded.length).buffer), padded];
  for (const one of columns) {
    parts.push(new Uint8Array(one.buffer), new Uint8Array((8 - (one.byteLength % 8)) % 8));
  }
  const whole = new Uint8Array(parts.reduce((sum, part) => sum + part.length, 0));
  let at = 0;
  for (const part of parts) {
    whole.set(part, at);
    at += part.length;
  }
  return whole.buffer;
}

describe('plain columns', () => {
  const head = { series: [{ tag: 'a' }, { tag: 'none' }, { tag: 'b' }], rows: [3, 0, 1] };
  const a = [Float64Array.of(1, 2, 9e15), Float64Array.of(1.5, NaN, -0.1), Uint16Array.of(0, 0x808c, 0x4000)];
  const b = [Float64Array.of(5), Float64Array.of(7), Uint16Array.of(1)];

  it('are read where they lie, series without samples too', () => {
    const [first, none, last] = curvesIn(written(head, ...a, ...b));
    expect(first).toEqual({ details: { tag: 'a' }, t: a[0], v: a[1], q: a[2] });
    expect(none?.t).toHaveLength(0);
    expect(last).toEqual({ details: { tag: 'b' }, t: b[0], v: b[1], q: b[2] });
  });

  it('of another length than said are refused', () => {
    expect(() => curvesIn(written(head, ...a))).toThrow(RangeError);
    expect(() => curvesIn(written(head, ...a, ...b, Float64Array.of(0)))).toThrow('bytes instead of');
  });
});
