import type { SeriesDetails } from '../platform/client';
import type { Table } from 'apache-arrow';
import { ApiError, UnreadableAnswer } from '../platform/errors';
import { request } from '../platform/request';
import type { components } from '../platform/schema';

/** One tag's curve: columns of one length; `v` is NaN where Bad. Times in µs. */
export interface Curve {
  details: SeriesDetails;
  t: Float64Array;
  v: Float64Array;
  q: Uint16Array;
}

export interface CurvesRequest {
  tags: readonly string[];
  startUs: number;
  endUs: number;
  width: number;
  /** tag:archive, where one is chosen. */
  archives?: readonly string[];
  /** Tells readings of one window apart: it is read anew when samples were missed. */
  reading?: string;
}

const ARROW = 'application/vnd.apache.arrow.stream';

/** A pen that is made as it is looked at: its series is called `id`. */
export type MadePenIn = components['schemas']['DerivedPenIn'];

/** Reads curves of tags. */
export async function fetchCurves(request: CurvesRequest, signal: AbortSignal): Promise<Curve[]> {
  const path = curvesPath(request);
  const found = begun.get(path);
  begun.delete(path);
  return found ?? read(path, { headers: { accept: ARROW }, signal });
}

/** Curves that were asked for before there was a page to draw them. */
const begun = new Map<string, Promise<Curve[]>>();

/** Asks now for curves that a page will ask for, and takes them apart while it is being built. */
export function beginCurves(request: CurvesRequest): void {
  const path = curvesPath(request);
  const answer = read(path, { headers: { accept: ARROW } });
  begun.set(path, answer);
  // Told to who takes it.
  answer.catch(() => undefined);
}

function curvesPath(request: CurvesRequest): string {
  const query = new URLSearchParams([
    ...request.tags.map((tag): [string, string] => ['tag', tag]),
    ...(request.archives ?? []).map((one): [string, string] => ['archive', one]),
    ['start', String(Math.round(request.startUs))],
    ['end', String(Math.round(request.endUs))],
    ['width', String(request.width)],
  ]);
  return `/api/series/curves?${query.toString()}`;
}

export interface MadeRequest {
  pens: readonly MadePenIn[];
  startUs: number;
  endUs: number;
  width: number;
}

/** Reads curves of made pens. */
export async function fetchMade(request: MadeRequest, signal: AbortSignal): Promise<Curve[]> {
  const { pens, startUs, endUs, width } = request;
  const body = { pens, start_us: String(Math.round(startUs)), end_us: String(Math.round(endUs)), width };
  return read('/api/series/derived', {
    method: 'POST',
    headers: { accept: ARROW, 'content-type': 'application/json' },
    body: JSON.stringify(body),
    signal,
  });
}

/** Reads curves as Arrow IPC; the library is loaded when first needed. */
async function read(path: string, wanted: RequestInit): Promise<Curve[]> {
  const [response, { tableFromIPC }] = await Promise.all([request(path, wanted), import('apache-arrow')]);
  if (!response.ok) {
    throw ApiError.from(response.status, await response.json().catch((): unknown => null));
  }
  const bytes = new Uint8Array(await response.arrayBuffer());
  try {
    return curvesOf(tableFromIPC(bytes));
  } catch (error) {
    throw new UnreadableAnswer(error);
  }
}

function curvesOf(table: Table): Curve[] {
  const head = JSON.parse(table.schema.metadata.get('cronaca') ?? '{"series":[]}') as {
    series: SeriesDetails[];
  };
  // Batches of no rows are dropped by the reader, so series are matched by their number of samples.
  let next = 0;
  return head.series.map((details, index) => {
    const size = sizes(table.schema.metadata.get('cronaca_rows'))[index] ?? 0;
    const batch = size > 0 ? table.batches[next++] : undefined;
    if (batch === undefined)
      return { details, t: new Float64Array(), v: new Float64Array(), q: new Uint16Array() };
    return { details, ...columns(batch) };
  });
}

function sizes(text: string | undefined): number[] {
  return text === undefined ? [] : (JSON.parse(text) as number[]);
}

interface Batch {
  numRows: number;
  getChild(name: string): Column | null;
}

interface Column {
  nullCount: number;
  toArray(): ArrayLike<number | bigint>;
  get(index: number): unknown;
}

/** Whole columns at once: a value at a time takes longer than the way over the wire. */
function columns(batch: Batch): Omit<Curve, 'details'> {
  const [times, values, qualities] = ['t', 'v', 'q'].map((name) => batch.getChild(name));
  return {
    t: microseconds(times?.toArray()),
    v: values?.nullCount === 0 ? floats(values.toArray()) : oneByOne(values, batch.numRows),
    q: Uint16Array.from(qualities?.toArray() ?? [], Number),
  };
}

/** 64-bit integers as floats, by their halves: a BigInt a sample takes longer than all the rest. */
function microseconds(times: ArrayLike<number | bigint> | undefined): Float64Array {
  if (!(times instanceof BigInt64Array)) return Float64Array.from(times ?? [], Number);
  const halves = new Uint32Array(times.buffer, times.byteOffset, times.length * 2);
  return Float64Array.from(times, (_, i) => (halves[2 * i + 1] ?? 0) * 2 ** 32 + (halves[2 * i] ?? 0));
}

function floats(values: ArrayLike<number | bigint>): Float64Array {
  return values instanceof Float64Array ? values : Float64Array.from(values, Number);
}

/** Where values are missing: NaN. */
function oneByOne(column: Column | null | undefined, size: number): Float64Array {
  return Float64Array.from({ length: size }, (_, i) => {
    const value = column?.get(i);
    return typeof value === 'number' ? value : NaN;
  });
}
