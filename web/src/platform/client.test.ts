import createClient from 'openapi-fetch';
import { describe, expect, it } from 'vitest';
import { throwRefusals, unwrap } from './client';
import { ApiError } from './errors';
import type { paths } from './schema';

const PROBLEM = {
  type: 'urn:cronaca:problem:in-use',
  title: 'It is in use',
  status: 409,
  detail: 'The source has 12 tags.',
  errors: [{ field: 'tags', problem: 'there are 12', remedy: 'Remove them first.' }],
};

function answering(response: Response): ReturnType<typeof createClient<paths>> {
  const found = createClient<paths>({
    baseUrl: 'http://cronaca.test',
    fetch: () => Promise.resolve(response),
  });
  found.use(throwRefusals);
  return found;
}

function remove(response: Response): Promise<unknown> {
  return answering(response).DELETE('/api/notes/{uid}', { params: { path: { uid: 'n' } } });
}

describe('what the server refuses', () => {
  it('is thrown with its reason, remedy and fields, though nobody looks at the answer', async () => {
    const refused = await remove(Response.json(PROBLEM, { status: 409 })).catch((error: unknown) => error);
    expect(refused).toBeInstanceOf(ApiError);
    expect(refused).toMatchObject({ status: 409, detail: PROBLEM.detail, fields: PROBLEM.errors });
  });

  it.each([403, 500, 503])('is thrown without a body too (%d)', async (status) => {
    const empty = new Response(null, { status, headers: { 'Content-Length': '0' } });
    await expect(remove(empty)).rejects.toMatchObject({ status });
  });

  it('is not thrown where nothing was refused: an empty answer is fine', async () => {
    const done = new Response(null, { status: 204, headers: { 'Content-Length': '0' } });
    await expect(remove(done)).resolves.toMatchObject({ response: { status: 204 } });
  });

  it('can be read where it says more: the health of a plant whose database is away', async () => {
    const away = Response.json({ status: 'down', now_us: '1', database: {} }, { status: 503 });
    const answer = await answering(away).GET('/api/health');
    expect(answer.error).toMatchObject({ status: 'down' });
    expect(() => unwrap(answer)).toThrow(ApiError);
  });
});
