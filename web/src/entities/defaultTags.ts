/** Which tags a trend begins with when none were chosen. Apart from what asks the server: it is needed before that. */
import type { Tag } from '../platform/client';

/** They are found among the first so many. */
export const DEFAULT_TAGS_AMONG = 100;
export const DEFAULT_TAGS_PATH = `/api/tags?limit=${DEFAULT_TAGS_AMONG}`;

const ANALOG = 4;
const CONTACTS = 3;

/** The first analog tags, those recorded by the clock before others, and the first contacts of the same source. */
export function defaultTags(tags: readonly Tag[]): string[] {
  const recorded = tags.filter((tag) => tag.recorded.length > 0);
  const clocked = (tag: Tag): boolean => tag.recorded.some((one) => one.mode === 'periodic');
  const floats = recorded.filter((tag) => tag.value_type === 'float');
  const analog = [...floats.filter(clocked), ...floats.filter((tag) => !clocked(tag))].slice(0, ANALOG);
  const source = analog[0]?.source;
  const contacts = recorded
    .filter((tag) => tag.value_type === 'boolean' && (source === undefined || tag.source === source))
    .slice(0, CONTACTS);
  return [...analog, ...contacts].map((tag) => tag.uid);
}
