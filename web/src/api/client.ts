import createClient from 'openapi-fetch';
import { fetchOrTake } from './early';
import { ApiError } from './errors';
import type { components, paths } from './schema';

export type Tag = components['schemas']['TagOut'];
export type Health = components['schemas']['Health'];
export type Plant = components['schemas']['PlantOut'];
export type Reading = components['schemas']['ReadingOut'];
export type SeriesFacts = Omit<components['schemas']['SeriesOut'], 't_us' | 'v' | 'q'>;
export type Gap = components['schemas']['GapOut'];

export const client = createClient<paths>({ baseUrl: '', fetch: fetchOrTake });

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
