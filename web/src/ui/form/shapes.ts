/** Shapes of what is typed: whether a number is one. What is usable is the server's to say. */
import { zodResolver } from '@hookform/resolvers/zod';
import type { FieldValues, Resolver } from 'react-hook-form';
import { array, literal, looseObject, nullable, number as numberShape, optional, union } from 'zod/mini';
import type { $ZodType } from 'zod/v4/core';
import { CLOCK_PROBLEM, DURATION_PROBLEM, NUMBER_PROBLEM } from '../fields';

export type Shape = $ZodType<FieldValues, FieldValues>;

/** A field that holds a text instead of a number was mistyped. */
export const number = numberShape({ error: NUMBER_PROBLEM });
export const clock = numberShape({ error: CLOCK_PROBLEM });
export const duration = numberShape({ error: DURATION_PROBLEM });

/** Of these fields the numbers, whatever else there is. */
export function shape(fields: Record<string, $ZodType>): Shape {
  return looseObject(fields);
}

// By their names: the whole library is ten times as large.
export { array, literal, nullable, optional, union };

export function resolverOf<F extends FieldValues>(of: Shape): Resolver<F> {
  return zodResolver(of, undefined, { raw: true }) as unknown as Resolver<F>;
}
