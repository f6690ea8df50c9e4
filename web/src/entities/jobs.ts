/** Jobs of the worker: files that are made in the background. */
import { queryOptions } from '@tanstack/react-query';
import { client, unwrap } from '../platform/client';
import type { components } from '../platform/schema';
import { served } from '../platform/configuration';

export type Job = components['schemas']['JobOut'];
export type ExportJob = components['schemas']['ExportJobIn'];
export const JOBS = 'jobs';

/** Whether a job has not come to its end. */
export function isOpen(job: Job): boolean {
  return job.state === 'waiting' || job.state === 'running';
}

/** All jobs, newest first. */
export const jobsQuery = queryOptions({
  queryKey: [JOBS],
  queryFn: async ({ signal }) => unwrap(await client.GET('/api/jobs', { signal })),
});

export async function askExport(body: ExportJob): Promise<Job> {
  return unwrap(await client.POST('/api/jobs', { body }));
}

export async function cancelJob(uid: string): Promise<void> {
  await client.POST('/api/jobs/{uid}/cancel', { params: { path: { uid } } });
}

export async function removeJob(uid: string): Promise<void> {
  await client.DELETE('/api/jobs/{uid}', { params: { path: { uid } } });
}

/** Where the file of a job is fetched. */
export function fileLink(job: Job): string {
  return served(`/api/jobs/${job.uid}/file`);
}
