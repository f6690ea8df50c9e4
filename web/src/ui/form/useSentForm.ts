/** A small form: what is typed is sent, and the fields are as at the beginning again. */
import { useMutation } from '@tanstack/react-query';
import { useState, type SyntheticEvent } from 'react';
import { useForm, type DefaultValues, type FieldValues, type UseFormReturn } from 'react-hook-form';
import { same } from '../../domain/merge';
import { errorText } from '../../platform/errors';
import { useUnsaved } from '../Unsaved';
import { resolverOf, type Shape } from './shapes';
import { useSubmission } from './useSubmission';

export interface SentFormOptions<F extends FieldValues, R> {
  /** What it begins with. */
  values: F;
  /** What of the values can be mistyped. */
  shape: Shape;
  /** Sends them to the server, or hands them to the page. */
  send: (values: F) => Promise<R> | R;
  /** Busy until this is over, too. */
  onDone?: (answer: R, values: F) => unknown;
  /** What was sent stays in the fields. */
  stays?: boolean;
  /** Whoever leaves what was typed is asked first. */
  asks?: boolean;
  /** The paths of what the server calls otherwise than the form. */
  also?: Readonly<Record<string, string>>;
}

export interface SentForm<F extends FieldValues> {
  form: UseFormReturn<F>;
  shown: Set<string>;
  /** For a form element. */
  onSubmit: (event: SyntheticEvent) => void;
  /** For a button, and Enter in a part of the page that is no form element. */
  send: () => void;
  onPlaced: (element: Element | null) => void;
  busy: boolean;
  /** What is wrong with the whole, or with something that the form does not show. */
  general: string | null;
  /** It was sent, and nothing was typed since. */
  done: boolean;
}

export function useSentForm<F extends FieldValues, R>(options: SentFormOptions<F, R>): SentForm<F> {
  const { values: first, shape, send, onDone, stays = false, asks = false, also } = options;
  const [resolver] = useState(() => resolverOf<F>(shape));
  const form = useForm<F>({
    defaultValues: first as DefaultValues<F>,
    resolver,
    mode: 'onChange',
    shouldFocusError: false,
  });
  const submission = useSubmission(form, also);
  const { mutate, isPending, isSuccess, error } = useMutation({
    mutationFn: async (values: F) => send(values),
    onSuccess: async (answer, values) => {
      // What was typed while it was on its way is not sent yet.
      if (same(form.getValues(), values)) form.reset(stays ? values : first);
      await onDone?.(answer, values);
    },
    onError: submission.onRefused,
  });
  const { isDirty } = form.formState;
  useUnsaved(asks && isDirty);
  const run = (values: F): void => {
    if (!isPending) mutate(values);
  };
  return {
    form,
    shown: submission.shown,
    onSubmit: (event) => submission.onSubmit(event, run),
    send: () => submission.submit(run),
    onPlaced: submission.onPlaced,
    busy: isPending,
    general: error === null || submission.isSaidAtFields ? null : errorText(error),
    done: isSuccess && !isDirty,
  };
}
