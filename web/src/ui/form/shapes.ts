/** Shapes of what is typed: whether a number is one. What is usable is the server's to say. */
import { zodResolver } from '@hookform/resolvers/zod';
import type { FieldValues, Resolver } from 'react-hook-form';
import * as z from 'zod/mini';
import { CLOCK_PROBLEM, DURATION_PROBLEM, NUMBER_PROBLEM } from '../fields';

export type Shape = z.core.$ZodType<FieldValues, FieldValues>;

/** A field that holds a text instead of a number was mistyped. */
export const number = z.number({ error: NUMBER_PROBLEM });
export const clock = z.number({ error: CLOCK_PROBLEM });
export const duration = z.number({ error: DURATION_PROBLEM });

/** Of these fields the numbers, whatever else there is. */
export function shape(fields: Record<string, z.core.$ZodType>): Shape {
  return z.looseObject(fields);
}

export const { nullable, optional, union, literal, array } = z;

export function resolverOf<F extends FieldValues>(of: Shape): Resolver<F> {
  return zodResolver(of, undefined, { raw: true }) as unknown as Resolver<F>;
}
