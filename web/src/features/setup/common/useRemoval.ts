/** Removing an object of the set-up: it is said when it is done, with a way to take it back. */
import { useQueryClient } from '@tanstack/react-query';
import * as wording from 'texts/setup.json';
import { fill } from '../../../domain/fill';
import { SETUP, undoRemoval } from '../../../entities/setup';
import { say } from '../../../ui/toasts';
import { useSave, type Saving } from './useSave';

interface Removed {
  /** One of what is removed; what goes along comes back with it. */
  uid: string;
  /** As it is called, and what goes along. */
  name: string;
  /** More than one thing. */
  isMany?: boolean;
  /** What does not come back with it, as a sentence. */
  lost?: string;
}

/** What is said of an object that the lists have; null: it is not there yet, and cannot be removed. */
export function removedOf(object: { uid: string; name: string } | null): Removed {
  return { uid: object?.uid ?? '', name: object?.name ?? '' };
}

/** `onGone`: it is not there any more. */
export function useRemoval<T, R>(
  remove: (what: T) => Promise<R>,
  { uid, name, isMany = false, lost = '' }: Removed,
  onGone: () => void,
): Saving<T> {
  const queries = useQueryClient();
  const undo = async (): Promise<string> => {
    await undoRemoval(uid);
    await Promise.all([
      queries.invalidateQueries({ queryKey: [SETUP] }),
      queries.invalidateQueries({ queryKey: ['tags'] }),
    ]);
    return `${fill(isMany ? wording.namesAreBack : wording.nameIsBack, { name })} ${lost}`.trim();
  };
  return useSave(remove, () => {
    say(fill(isMany ? wording.namesAreRemoved : wording.nameIsRemoved, { name }), undo);
    onGone();
  });
}
