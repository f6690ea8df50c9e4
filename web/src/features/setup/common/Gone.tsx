/** What an address opens may have been removed since the address was kept: that is said, the list stays. */
import type { ReactElement } from 'react';
import * as wording from 'texts/setup.json';
import { fill } from '../../../domain/fill';
import { Told } from '../../../ui';

interface GoneProps {
  /** What it is, as it stands in a sentence. */
  what: string;
  /** Of the address; null: nothing is open. */
  open: string | null;
  list: readonly { uid: string }[];
  /** The list is the newest: nothing is being asked for. */
  isKnown: boolean;
}

export function Gone({ what, open, list, isKnown }: GoneProps): ReactElement | null {
  if (!isKnown || open === null || open === 'new' || list.some(({ uid }) => uid === open)) return null;
  return <Told kind="error">{fill(wording.thereIsNoSuchWhatAny, { what })}</Told>;
}
