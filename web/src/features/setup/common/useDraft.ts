/** A form's form beside the version they were opened with: two people may have it open. */
import { useState } from 'react';
import { merge, same, type Clash } from '../../../domain/merge';
import { useUnsaved } from '../../../ui';

interface Revised {
  revision: number;
}

interface Held<B, F> {
  base: B | null;
  form: F;
  clashes: readonly Clash[];
  /** The form were saved, and the version that they became is still to come. */
  settled: boolean;
}

export interface Draft<B, F> {
  form: F;
  set: (change: Partial<F>) => void;
  /** The version that the form shows changes of; this one's revision is sent. */
  base: B | null;
  /** Where somebody else has saved something else meanwhile. */
  clashes: readonly Clash[];
  takeTheirs: (fields: readonly Clash[]) => void;
  /** What the form shows was saved, as this version or as the one that comes next. */
  saved: (now: B | null) => void;
}

/** `stored` is the version that the lists have now. One that is newer than the form's is merged into it: what was
 * typed stays, what was not touched becomes theirs. */
export function useDraft<B extends Revised, F extends object>(
  stored: B | null,
  formOf: (stored: B | null) => F,
): Draft<B, F> {
  const [held, setHeld] = useState<Held<B, F>>(() => ({
    base: stored,
    form: formOf(stored),
    clashes: [],
    settled: false,
  }));
  if (stored !== null && held.base !== null && stored.revision > held.base.revision) {
    const theirs = formOf(stored);
    const { form, clashes } = held.settled
      ? { form: theirs, clashes: [] }
      : merge(formOf(held.base), held.form, theirs);
    setHeld({ base: stored, form, clashes, settled: false });
  }
  useUnsaved(!held.settled && !same(held.form, formOf(held.base)));
  return {
    form: held.form,
    base: held.base,
    clashes: held.clashes,
    set: (change) => setHeld((now) => ({ ...now, settled: false, form: { ...now.form, ...change } })),
    takeTheirs: (fields) =>
      setHeld((now) => ({
        ...now,
        form: { ...now.form, ...Object.fromEntries(fields.map((one) => [one.field, one.theirs])) },
        clashes: now.clashes.filter((one) => !fields.includes(one)),
      })),
    saved: (now) =>
      setHeld((before) =>
        now === null
          ? { ...before, clashes: [], settled: true }
          : { base: now, form: formOf(now), clashes: [], settled: false },
      ),
  };
}
