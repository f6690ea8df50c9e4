/** The columns of a table: what stands in their cells, and what that is as a plain value. */
import type { ReactNode } from 'react';
import { quoted } from '../../platform/download';

export type Plain = string | number | boolean | null;

export interface Column<T> {
  /** Tells it from the others, whatever it is called; its name where it is left out. */
  id?: string;
  name: string;
  /** Stands below its name in the head. */
  note?: string;
  /** `digits`: decimals of its numbers, where somebody has chosen them. */
  of: (row: T, digits?: number) => ReactNode;
  /** It has numbers whose decimals can be chosen. */
  isNumber?: boolean;
  /** What rows are ordered by, copied and written to files; a column without it can be neither. */
  value?: (row: T) => Plain;
  right?: boolean;
  /** It says what the row is of: in a wide table it stays in view. */
  isHead?: boolean;
  width?: number | string;
}

/** By which column rows are ordered. */
export interface Order {
  id: string;
  desc: boolean;
}

/** Rows that are chosen, to do something with all of them. */
export interface Choosing<T> {
  chosen: ReadonlySet<string>;
  onToggle: (key: string) => void;
  onToggleAll: () => void;
  /** What a row is called, for who hears it. */
  nameOf: (row: T) => string;
}

export const idOf = <T>({ id, name }: Column<T>): string => id ?? name;

const collator = new Intl.Collator('en', { numeric: true, sensitivity: 'base' });

/** The order of two values: numbers by size, texts as people count (Unit 2 before Unit 10). */
export function compared(one: Plain, two: Plain): number {
  if (typeof one === 'number' && typeof two === 'number') return one - two;
  return collator.compare(String(one), String(two));
}

/** Rows as text with a head, a line each: values in full, by tabs for a clipboard, by commas for a file. */
export function tableText<T>(
  columns: readonly Column<T>[],
  rows: readonly T[],
  separator: ',' | '\t',
): string {
  const told = columns.filter((column) => column.value !== undefined);
  const lines = rows.map((row) => told.map((column) => plainText(column.value?.(row) ?? null)));
  return [told.map(({ name }) => name), ...lines].map((line) => line.map(quoted).join(separator)).join('\n');
}

function plainText(value: Plain): string {
  return value === null ? '' : String(value);
}
