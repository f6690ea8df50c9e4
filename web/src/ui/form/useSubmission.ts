/** A form on its way to the server: what is mistyped stops it, what is refused is said at its field. */
import { useCallback, useEffect, useRef, useState, type SyntheticEvent } from 'react';
import type { FieldValues, UseFormReturn } from 'react-hook-form';
import { ApiError, type FieldProblem } from '../../platform/errors';
import { focusWrong } from '../fields/unusable';
import { placeOf } from './shown';

export interface Submission<F extends FieldValues> {
  /** The names of the fields that are on the page. */
  shown: Set<string>;
  /** Hands the values on, unless one was mistyped: that one gets the focus. */
  submit: (run: (values: F) => void) => void;
  /** For a form element. */
  onSubmit: (event: SyntheticEvent, run: (values: F) => void) => void;
  /** For a part of the page that is no form element. */
  onPlaced: (element: Element | null) => void;
  /** Puts what was refused at its fields. */
  onRefused: (error: unknown) => void;
  /** All of what was refused last is said at fields. */
  isSaidAtFields: boolean;
}

const NOTHING = {};

/** `also`: the paths of what the server calls otherwise than the form. */
export function useSubmission<F extends FieldValues>(
  form: UseFormReturn<F>,
  also: Readonly<Record<string, string>> = NOTHING,
): Submission<F> {
  const [shown] = useState(() => new Set<string>());
  const [isSaidAtFields, setSaidAtFields] = useState(false);
  const element = useRef<Element | null>(null);
  const [wrong, setWrong] = useState(0);
  // Once the page says what is wrong.
  useEffect(() => {
    if (wrong > 0 && element.current !== null) focusWrong(element.current);
  }, [wrong]);
  const focus = (): void => setWrong((times) => times + 1);
  const submit = (run: (values: F) => void): void => {
    let isWrong = false;
    void form
      .handleSubmit(run, () => void (isWrong = true))()
      .then(() => isWrong && focus());
  };
  return {
    shown,
    submit,
    onSubmit: (event, run) => {
      event.preventDefault();
      element.current = event.currentTarget;
      submit(run);
    },
    onPlaced: useCallback((next: Element | null) => void (element.current = next), []),
    onRefused: (error) => {
      const problems = error instanceof ApiError ? error.fields : [];
      const places = problems.map((problem) => placeOf(problem.field, shown, also));
      problems.forEach((problem, i) => {
        const place = places[i] ?? null;
        if (place !== null) form.setError(place as never, { type: 'server', message: problemText(problem) });
      });
      setSaidAtFields(places.length > 0 && !places.includes(null));
      focus();
    },
    isSaidAtFields,
  };
}

export function problemText({ problem, remedy }: FieldProblem): string {
  return `${problem.charAt(0).toUpperCase()}${problem.slice(1)}. ${remedy}`;
}
