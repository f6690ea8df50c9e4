import { useEffect, useRef } from 'react';
import { useNavigate } from 'react-router';
import { likeTheLast } from '../model/looks';
import { MOST_TAGS, type TrendState } from '../model/state';
import type { TrendActions } from '../store/trendStore';

/** What the shell tells a trend: a tag that was found in the palette, a new object each time. */
export interface ShellRequest {
  tag: { uid: string } | null;
}

/** A tag that was found in the palette becomes a pen; where nothing may be changed, or no pen is left, its own trend is
 * opened. */
export function useAddedTag(
  { tag }: ShellRequest,
  state: TrendState,
  actions: TrendActions,
  uids: readonly string[],
): void {
  const navigate = useNavigate();
  const seen = useRef(tag);
  useEffect(() => {
    if (tag === null || tag === seen.current) return;
    seen.current = tag;
    const isFull = uids.length >= MOST_TAGS && !uids.includes(tag.uid);
    if (state.allow !== null || isFull) void navigate(`/trends?tags=${tag.uid}&last=PT10M`);
    else if (!uids.includes(tag.uid)) {
      actions.toggleTag(tag.uid, uids);
      actions.change((now) => ({ looks: likeTheLast(now.looks, uids, tag.uid) }));
    }
  }, [tag, state.allow, actions, uids, navigate]);
}
