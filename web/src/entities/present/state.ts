/** What is known of tags that are looked at. */
import { MINUTE } from '../../domain/time';
import type { Trail } from '../../domain/trail';
import type { LinkState, LiveValue } from '../../platform/liveMessages';

export const TRAIL_US = 10 * MINUTE;

export interface Present {
  link: LinkState;
  values: ReadonlyMap<string, LiveValue>;
  trails: ReadonlyMap<string, Trail>;
  /** The server's time, anew every second. */
  nowUs: number;
  /** Why the trails could not be read. */
  problem: string;
}

export const NOTHING: Present = {
  link: 'connecting',
  values: new Map(),
  trails: new Map(),
  nowUs: 0,
  problem: '',
};
