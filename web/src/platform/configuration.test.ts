// @vitest-environment jsdom
import { afterEach, describe, expect, it, vi } from 'vitest';
import { readConfiguration } from './configuration';
import { request } from './request';
import { session } from './session';

const page = (text: string): Document => {
  const found = document.implementation.createHTMLDocument();
  const meta = found.createElement('meta');
  Object.assign(meta, { name: 'configuration', content: text });
  found.head.append(meta);
  return found;
};

describe('the configuration of a page', () => {
  it('is what the server has written into it', () => {
    const told = { base: '/plant', person: { name: 'Ada', permissions: ['view'] }, counts: { runs: '4' } };
    expect(readConfiguration(page(JSON.stringify(told)))).toMatchObject(told);
  });

  it('is that of a server at the root where nothing is written', () => {
    expect(readConfiguration(page('{}'))).toMatchObject({ base: '', person: null });
    expect(readConfiguration(undefined).brand.name).toBe('Cronaca');
  });
});

describe('the session', () => {
  afterEach(() => vi.unstubAllGlobals());

  it('hears of refusals from every request: 403 concerns rights, 401 ends it', async () => {
    const heard: string[] = [];
    const end = session.subscribe((refusal) => heard.push(refusal));
    for (const status of [200, 404, 403, 401]) {
      vi.stubGlobal('fetch', () => Promise.resolve(new Response(null, { status })));
      await request('/api/tags');
    }
    end();
    expect(heard).toEqual(['not-permitted', 'signed-out']);
    expect(session.signedOut).toBe(true);
    session.signedOut = false;
  });
});
