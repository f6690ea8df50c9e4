/** Windows of the plant's calendar. */
import { client, unwrap } from '../platform/client';
import type { components } from '../platform/schema';

/** This or the last shift, day or week. */
export async function findWindow(
  unit: 'shift' | 'day' | 'week',
  which: 'this' | 'last',
): Promise<components['schemas']['NamedWindow']> {
  return unwrap(await client.GET('/api/windows', { params: { query: { unit, which } } }));
}
