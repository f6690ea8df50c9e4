/** A form whose values are saved on the server: busy meanwhile, and what is wrong is said at its field. */
import { useRef, useState, type SyntheticEvent } from 'react';
import type { FieldValues } from 'react-hook-form';
import { ApiError, type FieldProblem } from '../../../platform/errors';
import { placeOf, resolverOf, type Shape } from '../../../ui/form';
import { focusWrong } from '../../../ui/unusable';
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

const NOTHING = {};

export function useStoredForm<B extends { revision: number }, F extends FieldValues, R>(
  options: StoredFormOptions<B, F, R>,
): StoredForm<B, F> {
  const { stored, valuesOf, shape, save, versionOf, onDone, also = NOTHING } = options;
  const [resolver] = useState(() => resolverOf<F>(shape));
  const revised = useRevisedForm(stored, valuesOf, resolver);
  const { form, base } = revised;
  const [shown] = useState(() => new Set<string>());
  const [isSaidAtFields, setSaidAtFields] = useState(false);
  const element = useRef<Element | null>(null);
  const onFailed = (error: unknown): void => {
    const problems = error instanceof ApiError ? error.fields : [];
    let isSaid = problems.length > 0;
    for (const problem of problems) {
      const place = placeOf(problem.field, shown, also);
      if (place === null) isSaid = false;
      else form.setError(place as never, { type: 'server', message: problemText(problem) });
    }
    setSaidAtFields(isSaid);
    // Once the page says it.
    window.setTimeout(() => element.current !== null && focusWrong(element.current));
  };
  const saving = useSave(
    (values: F) => save(values, base),
    [],
    onDone,
    (answer, values) => revised.saved(values, versionOf(answer)),
    onFailed,
  );
  const onSubmit = (event: SyntheticEvent): void => {
    const { currentTarget } = event;
    element.current = currentTarget;
    void form.handleSubmit(
      (values) => saving.run(values),
      () => focusWrong(currentTarget),
    )(event);
  };
  return {
    ...revised,
    onSubmit,
    busy: saving.busy,
    general: isSaidAtFields ? null : saving.general,
    refused: saving.refused,
    done: saving.done && !form.formState.isDirty,
    shown,
  };
}

export function problemText({ problem, remedy }: FieldProblem): string {
  return `${problem.charAt(0).toUpperCase()}${problem.slice(1)}. ${remedy}`;
}
