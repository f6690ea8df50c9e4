/** Reports as they are set up, and those that were made. */
import { queryOptions } from '@tanstack/react-query';
import { client, unwrap } from '../platform/client';
import type { components } from '../platform/schema';

export const REPORTS = 'reports';
export type Report = components['schemas']['ReportOut'];
export type ReportIn = components['schemas']['ReportIn'];
export type Issue = components['schemas']['IssueOut'];

export const reportsQuery = queryOptions({
  queryKey: [REPORTS, 'set up'],
  queryFn: async ({ signal }) => unwrap(await client.GET('/api/reports', { signal })),
});

/** The newest reports that were made. */
export const issuesQuery = queryOptions({
  queryKey: [REPORTS, 'made'],
  queryFn: async ({ signal }) =>
    unwrap(await client.GET('/api/reports/made', { params: { query: { limit: 60 } }, signal })),
});

export async function addReport(body: ReportIn): Promise<Report> {
  return unwrap(await client.POST('/api/reports', { body }));
}

export async function removeReport(uid: string): Promise<void> {
  await client.DELETE('/api/reports/{uid}', { params: { path: { uid } } });
}

/** Makes now what is due. */
export async function makeReports(): Promise<components['schemas']['ReportsMadeOut']> {
  return unwrap(await client.POST('/api/reports/make'));
}
