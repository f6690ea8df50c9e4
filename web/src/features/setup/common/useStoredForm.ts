/** A form whose values are saved on the server: busy meanwhile, and what is wrong is said at its field. */
import { useState, type SyntheticEvent } from 'react';
import type { FieldValues } from 'react-hook-form';
import { resolverOf, useSubmission, type Shape } from '../../../ui/form';
import { useRevisedForm, type RevisedForm } from './useRevisedForm';
import { useSave } from './useSave';

export interface StoredFormOptions<B, F extends FieldValues, R> {
  /** The version that the lists have now; null: a new one. */
  stored: B | null;
  valuesOf: (stored: B | null) => F;
  /** What of the values can be mistyped. */
  shape: Shape;
  save: (values: F, base: B | null) => Promise<R>;
  /** The version that an answer is; null: the lists bring it. */
  versionOf: (answer: R) => B | null;
  onDone?: (answer: R) => void;
  /** The paths of what the server calls otherwise than the form. */
  also?: Readonly<Record<string, string>>;
}

export interface StoredForm<B, F extends FieldValues> extends RevisedForm<B, F> {
  onSubmit: (event: SyntheticEvent) => void;
  busy: boolean;
  /** What is wrong with the whole, or with something that the form does not show. */
  general: string | null;
  /** Someone else has saved another version since; the lists are asked for it. */
  refused: boolean;
  done: boolean;
  /** The names of the fields that are on the page. */
  shown: Set<string>;
}

export function useStoredForm<B extends { revision: number }, F extends FieldValues, R>(
  options: StoredFormOptions<B, F, R>,
): StoredForm<B, F> {
  const { stored, valuesOf, shape, save, versionOf, onDone, also } = options;
  const [resolver] = useState(() => resolverOf<F>(shape));
  const revised = useRevisedForm(stored, valuesOf, resolver);
  const { form, base } = revised;
  const submission = useSubmission(form, also);
  const saving = useSave(
    (values: F) => save(values, base),
    onDone,
    (answer, values) => revised.saved(values, versionOf(answer)),
    submission.onRefused,
  );
  return {
    ...revised,
    onSubmit: (event) => submission.onSubmit(event, saving.run),
    busy: saving.busy,
    general: submission.isSaidAtFields ? null : saving.general,
    refused: saving.refused,
    done: saving.done && !form.formState.isDirty,
    shown: submission.shown,
  };
}
