import type { SeriesDetails } from '../platform/client';
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

const COLUMNS = 'application/vnd.cronaca.columns';

/** A pen that is made as it is looked at: its series is called `id`. */
export type MadePenIn = components['schemas']['DerivedPenIn'];

/** Reads curves of tags. */
export async function fetchCurves(request: CurvesRequest, signal: AbortSignal): Promise<Curve[]> {
  const path = curvesPath(request);
  const found = begun.get(path);
  begun.delete(path);
  return found ?? read(path, { headers: { accept: COLUMNS }, signal });
}

/** Curves that were asked for before there was a page to draw them. */
const begun = new Map<string, Promise<Curve[]>>();

/** Asks now for curves that a page will ask for, and takes them apart while it is being built. */
export function beginCurves(request: CurvesRequest): void {
  const path = curvesPath(request);
  const answer = read(path, { headers: { accept: COLUMNS } });
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
    headers: { accept: COLUMNS, 'content-type': 'application/json' },
    body: JSON.stringify(body),
    signal,
  });
}

async function read(path: string, wanted: RequestInit): Promise<Curve[]> {
  const response = await request(path, wanted);
  if (!response.ok) {
    throw ApiError.from(response.status, await response.json().catch((): unknown => null));
  }
  const bytes = await response.arrayBuffer();
  try {
    return curvesIn(bytes);
  } catch (error) {
    throw new UnreadableAnswer(error);
  }
}

interface Head {
  series: SeriesDetails[];
  /** Samples of each series. */
  rows: number[];
}

const SAMPLE_BYTES = 8 + 8 + 2;

/** Curves in the layout of plain columns (docs/architecture.md): a head in JSON, then the columns of each series,
 * which are used where they lie. */
export function curvesIn(bytes: ArrayBuffer): Curve[] {
  const headBytes = new DataView(bytes).getUint32(0, true);
  const head = JSON.parse(new TextDecoder().decode(new Uint8Array(bytes, 4, headBytes))) as Head;
  let at = 4 + headBytes;
  const curves = head.series.map((details, index) => {
    const rows = head.rows[index] ?? 0;
    const t = new Float64Array(bytes, at, rows);
    const v = new Float64Array(bytes, at + rows * 8, rows);
    const q = new Uint16Array(bytes, at + rows * 16, rows);
    at += Math.ceil((rows * SAMPLE_BYTES) / 8) * 8;
    return { details, t, v, q };
  });
  if (at !== bytes.byteLength) throw new RangeError(`${bytes.byteLength} bytes instead of ${at}`);
  return curves;
}
