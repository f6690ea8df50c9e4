/** Formulas: what they may use, and what one would be now. */
import { keepPreviousData, queryOptions } from '@tanstack/react-query';
import { client, unwrap } from '../platform/client';

/** What a formula needs, and what it would be now. */
export const formulaQuery = (formula: string, inputs: Readonly<Record<string, string>>) =>
  queryOptions({
    queryKey: ['formula-check', formula, inputs],
    queryFn: async ({ signal }) =>
      unwrap(await client.POST('/api/formulas/check', { body: { formula, inputs: { ...inputs } }, signal })),
    enabled: formula.trim() !== '',
    retry: false,
    placeholderData: keepPreviousData,
  });

/** What formulas may use. */
export const functionsQuery = queryOptions({
  queryKey: ['formula-functions'],
  queryFn: async ({ signal }) => unwrap(await client.GET('/api/formulas/functions', { signal })),
  staleTime: Infinity,
});
