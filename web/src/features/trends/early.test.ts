import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { DEFAULT_TAGS_PATH } from '../../entities/defaultTags';
import { fetchCurves } from '../../entities/curves';
import { fetchOrTake } from '../../platform/request';
import { beginTrend, takeBegunUs } from './early';
import { GUTTER_AXIS, GUTTER_LEFT, GUTTER_RIGHT } from '../../chart/strip';

const A = '00000000-0000-4000-8000-00000000000a';
const B = '00000000-0000-4000-8000-00000000000b';
const LIMIT = '00000000-0000-4000-8000-00000000000c';

describe('what a trend begins early', () => {
  const asked: string[] = [];
  let sheets: unknown;
  let tags: unknown;

  beforeEach(() => {
    asked.length = 0;
    sheets = [];
    tags = { tags: [], total: 0 };
    vi.stubGlobal('fetch', (input: string | Request) => {
      const path = typeof input === 'string' ? input : input.url;
      asked.push(path);
      if (path.includes('refused')) return Promise.reject(new TypeError('no answer'));
      const found = { '/api/sheets': sheets, [DEFAULT_TAGS_PATH]: tags }[path] ?? {};
      return Promise.resolve(new Response(JSON.stringify(found)));
    });
  });
  afterEach(() => {
    takeBegunUs();
    vi.unstubAllGlobals();
  });

  const curves = (): URLSearchParams =>
    new URL(asked.find((path) => path.startsWith('/api/series/curves')) ?? '', 'http://here').searchParams;

  it('asks for names and curves of the pens, and of the tags that their scales need', async () => {
    const look = JSON.stringify({ [A]: { highTag: LIMIT } });
    await beginTrend(`?tags=${A},${B}&last=PT1H&look=${encodeURIComponent(look)}`, 1280);
    expect(asked).toContain(`/api/tags?uid=${A}&uid=${B}&uid=${LIMIT}`);
    expect(curves().getAll('tag')).toEqual([A, B, LIMIT]);
  });

  it('asks for the tags that it begins with where none were chosen, and for their curves', async () => {
    const recorded = [{ mode: 'periodic' }];
    tags = { tags: [A, B].map((uid) => ({ uid, value_type: 'float', source: 'a', recorded })), total: 2 };
    await beginTrend('?last=PT1H', 1280);
    expect(curves().getAll('tag')).toEqual([A, B]);
  });

  it('asks for the width that the plot will have, with and without an axis at the right', async () => {
    await beginTrend(`?tags=${A}`, 1280);
    expect(curves().get('width')).toBe(String(1280 - 300 - GUTTER_LEFT - GUTTER_RIGHT));
    asked.length = 0;
    const look = JSON.stringify({ [A]: { axis: 'right' } });
    await beginTrend(`?tags=${A}&look=${encodeURIComponent(look)}`, 400);
    expect(curves().get('width')).toBe(String(400 - GUTTER_LEFT - GUTTER_AXIS));
  });

  it('asks for a live window that ends with the moment that the page begins with', async () => {
    await beginTrend(`?tags=${A}&last=PT1H`, 1280);
    const endUs = Number(curves().get('end'));
    expect(endUs - Number(curves().get('start'))).toBe(3_600_000_000);
    expect(takeBegunUs()).toBe(endUs);
  });

  it('opens a sheet as it was saved, and asks for no curves of one that is gone', async () => {
    sheets = [{ uid: B, view: `tags=${A}&last=P1D` }];
    await beginTrend(`?sheet=${A}`, 1280);
    expect(asked.some((path) => path.startsWith('/api/series/curves'))).toBe(false);
    await beginTrend(`?sheet=${B}`, 1280);
    expect(curves().getAll('tag')).toEqual([A]);
    asked.length = 0;
    sheets = [{ uid: B, view: JSON.stringify({ version: 2, tags: A, last: 'P2D' }) }];
    await beginTrend(`?sheet=${B}`, 1280);
    expect(curves().getAll('tag')).toEqual([A]);
  });

  it('asks where a window of the calendar lies, and leaves its curves to the page', async () => {
    await beginTrend(`?tags=${A}&window=this+shift`, 1280);
    expect(asked).toContain('/api/windows?unit=shift&which=this');
    expect(asked.some((path) => path.startsWith('/api/series/curves'))).toBe(false);
  });

  it('gives an answer to the first who asks, and asks anew for the second', async () => {
    await beginTrend(`?tags=${A}`, 1280);
    const before = asked.length;
    await fetchOrTake(new Request('http://here/api/plant'));
    expect(asked.length).toBe(before);
    await fetchOrTake(new Request('http://here/api/plant'));
    expect(asked.length).toBe(before + 1);
  });

  it('tells a failure to who asks for the curves', async () => {
    const signal = new AbortController().signal;
    const request = { tags: ['refused'], startUs: 0, endUs: 1, width: 5 };
    await expect(fetchCurves(request, signal)).rejects.toThrow('no answer');
  });
});
