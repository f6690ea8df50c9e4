/** Saving a form: busy while it lasts, what is wrong at its field, the lists asked for anew. */
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { ApiError, errorText } from '../../../platform/errors';
import { SETUP } from '../../../entities/setup';

export interface Saving<T> {
  run: (value: T) => void;
  busy: boolean;
  /** What is wrong with a field; it is not said again below the form. */
  problem: (field: string) => string | undefined;
  /** What is wrong with the whole, or with a field that the form does not show. */
  general: string | null;
  /** Someone else has saved another version since; the lists are asked for it. */
  refused: boolean;
  done: boolean;
  reset: () => void;
}

export function useSave<T, R>(
  work: (value: T) => Promise<R>,
  shown: readonly string[],
  onDone?: (answer: R) => void,
  /** As soon as it is saved, before the lists are asked for anew. */
  onSaved?: (answer: R, value: T) => void,
  onFailed?: (error: unknown) => void,
): Saving<T> {
  const queries = useQueryClient();
  const askAnew = async (): Promise<void> => {
    await Promise.all([
      queries.invalidateQueries({ queryKey: [SETUP] }),
      queries.invalidateQueries({ queryKey: ['tags'] }),
    ]);
  };
  const { mutate, isPending, isSuccess, error, reset } = useMutation({
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
  const fields = error instanceof ApiError ? error.fields : [];
  const problem = (field: string): string | undefined => {
    const found = fields.find((one) => one.field.split('.').includes(field));
    return found === undefined ? undefined : `${capital(found.problem)}. ${found.remedy}`;
  };
  const atField =
    fields.length > 0 && fields.every((one) => one.field.split('.').some((part) => shown.includes(part)));
  return {
    run: mutate,
    busy: isPending,
    problem,
    general: error === null || atField ? null : errorText(error),
    refused: isConflict(error),
    done: isSuccess,
    reset,
  };
}

function isConflict(error: unknown): boolean {
  return error instanceof ApiError && error.status === 409;
}

function capital(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1);
}
