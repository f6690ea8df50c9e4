/** A form beside the version it was opened with: two people may have it open. */
import { useEffect, useState } from 'react';
import { useForm } from 'react-hook-form';
import type { DefaultValues, FieldValues, Resolver, UseFormReturn } from 'react-hook-form';
import { merge, same, type Clash } from '../../../domain/merge';
import { useUnsaved } from '../../../ui';

interface Revised {
  revision: number;
}

export interface RevisedForm<B, F extends FieldValues> {
  form: UseFormReturn<F>;
  /** The version that the form shows changes of; this one's revision is sent. */
  base: B | null;
  /** Where somebody else has saved something else meanwhile. */
  clashes: readonly Clash[];
  onTake: (clashes: readonly Clash[]) => void;
  /** `values` were saved, as this version; null: the lists bring it. */
  saved: (values: F, version: B | null) => void;
}

interface Held<B, F> {
  base: B | null;
  /** What was saved last, or the form began with: what differs from it was typed. */
  kept: F;
  clashes: readonly Clash[];
  /** A newer version, and the form with it. */
  arrived: { values: F; typed: F } | null;
}

/** `stored` is the version that the lists have now. One that is newer than the form's is merged into it: what was
 * typed stays, what was not touched becomes theirs. `resolver` says what was mistyped; without one nothing can be. */
export function useRevisedForm<B extends Revised, F extends FieldValues>(
  stored: B | null,
  valuesOf: (stored: B | null) => F,
  resolver?: Resolver<F>,
): RevisedForm<B, F> {
  const [first] = useState(() => valuesOf(stored));
  const form = useForm<F>({
    defaultValues: first as DefaultValues<F>,
    ...(resolver === undefined ? {} : { resolver }),
    mode: 'onChange',
    // The field that is wrong is found by what the page says of it: not all belong to the form by themselves.
    shouldFocusError: false,
  });
  const [held, setHeld] = useState<Held<B, F>>({ base: stored, kept: first, clashes: [], arrived: null });
  if (stored !== null && held.base !== null && stored.revision > held.base.revision) {
    const theirs = valuesOf(stored);
    const { form: typed, clashes } = merge(held.kept, form.getValues(), theirs);
    setHeld({ base: stored, kept: theirs, clashes, arrived: { values: theirs, typed } });
  }
  const { arrived } = held;
  useEffect(() => {
    if (arrived !== null) put(form, arrived.values, arrived.typed);
  }, [form, arrived]);
  useUnsaved(form.formState.isDirty);
  return {
    form,
    base: held.base,
    clashes: held.clashes,
    onTake: (taken) => {
      for (const { field, theirs } of taken) change(form, field, theirs);
      setHeld((now) => ({ ...now, clashes: now.clashes.filter((one) => !taken.includes(one)) }));
    },
    saved: (values, version) => {
      const now = version === null ? values : valuesOf(version);
      put(form, now, merge(values, form.getValues(), now).form);
      setHeld(({ base }) => ({ base: version ?? base, kept: now, clashes: [], arrived: null }));
    },
  };
}

/** The form begins anew with values that are stored; where what was typed differs from them it stays. */
function put<F extends FieldValues>(form: UseFormReturn<F>, values: F, typed: F): void {
  form.reset(values, { keepErrors: true });
  for (const [name, value] of Object.entries(typed)) {
    if (!same(value, values[name])) change(form, name, value);
  }
}

function change<F extends FieldValues>(form: UseFormReturn<F>, name: string, value: unknown): void {
  form.setValue(name as never, value as never, { shouldDirty: true });
}
