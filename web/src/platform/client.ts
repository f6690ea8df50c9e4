import createClient, { type Middleware } from 'openapi-fetch';
import { configuration } from './configuration';
import { ApiError } from './errors';
import { fetchOrTake } from './request';
import type { components, paths } from './schema';

export type Tag = components['schemas']['TagOut'];
export type Health = components['schemas']['Health'];
export type Plant = components['schemas']['PlantOut'];
export type Reading = components['schemas']['ReadingOut'];
export type SeriesDetails = Omit<components['schemas']['SeriesOut'], 't_us' | 'v' | 'q'>;
export type Gap = components['schemas']['GapOut'];

/** What the server refuses to do is thrown, whoever asked: nothing that was refused looks done. What is only read
 * may say more by its refusal, so who reads it decides by `unwrap`. */
export const throwRefusals: Middleware = {
  onResponse: async ({ request, response }) => {
    if (response.ok || request.method === 'GET' || request.method === 'HEAD') return;
    throw ApiError.from(response.status, await response.json().catch((): unknown => null));
  },
};

export const client = createClient<paths>({ baseUrl: configuration.base, fetch: fetchOrTake });
client.use(throwRefusals);

interface Answer<T> {
  data?: T;
  error?: unknown;
  response: Response;
}

/** The data of an answer; throws ApiError otherwise. Looks at the status: an error may have no body. */
export function unwrap<T>(answer: Answer<T>): T {
  if (!answer.response.ok || answer.data === undefined) {
    throw ApiError.from(answer.response.status, answer.error);
  }
  return answer.data;
}
