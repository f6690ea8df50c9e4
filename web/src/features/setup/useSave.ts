/** Saving a form: busy while it lasts, what is wrong at its field, the lists asked for anew. */
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { ApiError, errorText } from '../../api/errors';
import { SETUP } from './queries';

export interface Saving<T> {
  run: (value: T) => void;
  busy: boolean;
  /** What is wrong with a field; it is not said again below the form. */
  problem: (field: string) => string | undefined;
  /** What is wrong with the whole, or with a field that the form does not show. */
  general: string | null;
  done: boolean;
  reset: () => void;
}

export function useSave<T, R>(
  work: (value: T) => Promise<R>,
  shown: readonly string[],
  onDone?: (answer: R) => void,
): Saving<T> {
  const queries = useQueryClient();
  const { mutate, isPending, isSuccess, error, reset } = useMutation({
    mutationFn: work,
    onSuccess: async (answer) => {
      await Promise.all([
        queries.invalidateQueries({ queryKey: [SETUP] }),
        queries.invalidateQueries({ queryKey: ['tags'] }),
      ]);
      onDone?.(answer);
    },
  });
  const fields = error instanceof ApiError ? error.fields : [];
  const problem = (field: string): string | undefined => {
    const found = fields.find((one) => one.field === field);
    return found === undefined ? undefined : `${capital(found.problem)}. ${found.remedy}`;
  };
  const atField = fields.length > 0 && fields.every((one) => shown.includes(one.field));
  return {
    run: mutate,
    busy: isPending,
    problem,
    general: error === null || atField ? null : errorText(error),
    done: isSuccess,
    reset,
  };
}

function capital(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1);
}
