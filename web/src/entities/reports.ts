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
    unwrap(await client.GET('/api/reports/made', { params: { query: { limit: 200 } }, signal })),
});

export async function addReport(body: ReportIn): Promise<Report> {
  return unwrap(await client.POST('/api/reports', { body }));
}

/** The same report, also of what began since then. */
export async function makeSince(report: Report, sinceUs: number): Promise<Report> {
  const { uid, name, kind, lines, norm, every, rule, enabled, revision } = report;
  const spec = { name, kind, lines, norm, every, enabled, revision, ...(rule === undefined ? {} : { rule }) };
  const body = { ...spec, since_us: Math.round(sinceUs) };
  return unwrap(await client.PUT('/api/reports/{uid}', { params: { path: { uid } }, body }));
}

export async function removeReport(uid: string): Promise<void> {
  await client.DELETE('/api/reports/{uid}', { params: { path: { uid } } });
}

/** Makes now what is due. */
export async function makeReports(): Promise<components['schemas']['ReportsMadeOut']> {
  return unwrap(await client.POST('/api/reports/make'));
}
