/** Saving something: busy while it lasts, the lists asked for anew. */
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { ApiError, errorText } from '../../../platform/errors';
import { SETUP } from '../../../entities/setup';

export interface Saving<T> {
  run: (value: T) => void;
  busy: boolean;
  /** What is wrong with it. */
  general: string | null;
  /** Someone else has saved another version since; the lists are asked for it. */
  refused: boolean;
  done: boolean;
}

export function useSave<T, R>(
  work: (value: T) => Promise<R>,
  onDone?: (answer: R) => void,
  /** As soon as it is saved, before the lists are asked for anew. */
  onSaved?: (answer: R, value: T) => void,
  onFailed?: (error: unknown) => void,
): Saving<T> {
  const askAnew = useAskAnew();
  const { mutate, isPending, isSuccess, error } = useMutation({
    mutationFn: work,
    onSuccess: async (answer, value) => {
      onSaved?.(answer, value);
      await askAnew();
      onDone?.(answer);
    },
    onError: async (failure) => {
      onFailed?.(failure);
      if (isConflict(failure)) await askAnew();
    },
  });
  return {
    run: mutate,
    busy: isPending,
    general: error === null ? null : errorText(error),
    refused: isConflict(error),
    done: isSuccess,
  };
}

/** Asks for the lists of the set-up and the tags anew. */
export function useAskAnew(): () => Promise<void> {
  const queries = useQueryClient();
  return async () => {
    await Promise.all([
      queries.invalidateQueries({ queryKey: [SETUP] }),
      queries.invalidateQueries({ queryKey: ['tags'] }),
    ]);
  };
}

function isConflict(error: unknown): boolean {
  return error instanceof ApiError && error.status === 409;
}
