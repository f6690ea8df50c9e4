/** Shapes of what is typed: whether a number is one. What is usable is the server's to say. */
import { zodResolver } from '@hookform/resolvers/zod';
import type { FieldValues, Resolver } from 'react-hook-form';
import {
  array,
  literal,
  looseObject,
  nullable,
  number as numberShape,
  optional,
  string,
  union,
} from 'zod/mini';
import type { $ZodType } from 'zod/v4/core';
import { CLOCK_PROBLEM, DURATION_PROBLEM, NUMBER_PROBLEM } from '../fields/lines';

export type Shape = $ZodType<FieldValues, FieldValues>;

/** A field that holds a text instead of a number was mistyped. */
export const number = numberShape({ error: NUMBER_PROBLEM });
export const clock = numberShape({ error: CLOCK_PROBLEM });
export const duration = numberShape({ error: DURATION_PROBLEM });

/** A text of which `problemOf` says what is wrong with it. */
export function text(problemOf: (text: string) => string | null): $ZodType {
  return string().check(({ value, issues }) => {
    const message = problemOf(value);
    if (message !== null) issues.push({ code: 'custom', message, input: value });
  });
}

/** A text that has to be there. */
export function filled(problem: string): $ZodType {
  return text((typed) => (typed.trim() === '' ? problem : null));
}

/** Of these fields what can be mistyped, whatever else there is; `problemsOf`: what is wrong with fields beside each
 * other, by their names. */
export function shape(
  fields: Record<string, $ZodType>,
  problemsOf?: (values: never) => Readonly<Record<string, string>>,
): Shape {
  const all = looseObject(fields);
  if (problemsOf === undefined) return all;
  return all.check(({ value, issues }) => {
    for (const [field, message] of Object.entries(problemsOf(value as never))) {
      issues.push({ code: 'custom', path: [field], message, input: value });
    }
  });
}

// By their names: the whole library is ten times as large.
export { array, literal, nullable, optional, union };

export function resolverOf<F extends FieldValues>(of: Shape): Resolver<F> {
  return zodResolver(of, undefined, { raw: true }) as unknown as Resolver<F>;
}
