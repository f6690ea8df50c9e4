/** What a table is told of its rows and columns. */
import type { DragEvent, ReactNode } from 'react';
import type { Choosing, Column, Order } from './columns';

/** Rows on paper. */
export interface Paper<T> {
  rows: readonly T[];
  /** There are no more of them. */
  isAll: boolean;
}

export interface TableProps<T> {
  label: string;
  columns: readonly Column<T>[];
  rows: readonly T[];
  keyOf: (row: T) => string;
  /** What is said where there is no row. */
  empty: string;
  selected?: string | null;
  onSelect?: (row: T) => void;
  choosing?: Choosing<T>;
  /** Under this name the browser keeps its columns; with it the table has its tools. */
  keptAs?: string;
  /** What stands beside its tools. */
  tools?: ReactNode;
  /** Not all rows are loaded: they cannot be ordered, nor copied as a whole. */
  isPartial?: boolean;
  /** How many there are (infinity: more than these), and what loads more of them. */
  total?: number;
  onEnd?: () => void;
  /** The page offers files of all of it: the table offers none beside them. */
  hasOwnFiles?: boolean;
  /** On paper: what stands above it, and what brings its first rows where they are not all loaded. */
  printed?: { heading: readonly string[]; rows?: (most: number) => Promise<Paper<T>> };
  /** The keys of the rows that are drawn, one after the other, separated by blanks: whenever they are others. */
  onDrawn?: (keys: string) => void;
  onDrag?: (event: DragEvent, row: T) => void;
  onDragEnd?: (event: DragEvent) => void;
  /** The page keeps the order, and brings the rows in it; null: as they come. */
  order?: Order | null;
  /** The head of a column was pressed, where the page keeps the order. */
  onOrder?: (id: string) => void;
  /** Narrower than so many CSS pixels it is moved sideways, at any width of the page. */
  leastWidth?: number;
  /** It stands on a panel, row close to row. */
  isInPanel?: boolean;
  /** Lines below the rows: a name, and a text for each column, by its id. */
  foot?: readonly { name: string; cells: ReadonlyMap<string, string> }[];
}
