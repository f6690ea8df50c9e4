import { useQuery } from '@tanstack/react-query';
import { useEffect, useMemo, useState } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/trends.json';
import { fill } from '../../../domain/fill';
import type { Scalar } from '../../../domain/format';
import type { Reading, Tag } from '../../../platform/client';
import { isBad, isUncertain } from '../../../domain/quality';
import { lengthText, SECOND, type Span } from '../../../domain/time';
import { archivesOf, type Looks } from '../model/looks';
import { drawnAt, type Trace } from '../model/model';
import type { PenCard } from '../drawer/PenCards';
import type { LiveSnapshot } from './useLive';
import type { Styled } from './usePens';
import { readingsQuery } from '../../../entities/curveQueries';
import { useRecorder } from '../../../entities/health';
import { idleText } from '../model/idle';

interface Parts {
  styled: readonly Styled[];
  selected: string | null;
  span: Span;
  cursorUs: number | null;
  live: LiveSnapshot;
  looks: Looks;
  /** All that are followed: pens, and those that only scales and guide lines need. */
  tags: readonly Tag[];
}

const REST_MS = 250;
const OLD_US = 10 * SECOND;

/** The cards' details: the live value, or the one at the cursor; at rest the server's own reading. */
export function useCards(parts: Parts): PenCard[] {
  const { styled, selected, span, cursorUs, live, looks, tags } = parts;
  const restUs = useRest(cursorUs);
  const uids = useMemo(
    () => styled.filter(({ trace }) => trace.origin === 'tag').map(({ trace }) => trace.tag.uid),
    [styled],
  );
  const { data } = useQuery(readingsQuery(uids, restUs, archivesOf(looks, uids)));
  const known = restUs === cursorUs ? data : undefined;
  const { data: recorder } = useRecorder();
  const guides = useMemo(() => guidesOf(looks, tags), [looks, tags]);
  // They are drawn anew when something of them is another, not whenever the trend is.
  return useMemo(() => {
    const readings = new Map(known?.map((reading) => [reading.tag, reading]));
    return styled.map((one) => ({
      ...one,
      archive: looks[one.trace.tag.uid]?.archive ?? '',
      idle: recorder === undefined ? '' : idleText(one.trace, recorder),
      selected: selected === one.trace.tag.uid,
      guides: guides.get(one.trace.tag.uid) ?? NO_GUIDES,
      guideValues: (guides.get(one.trace.tag.uid) ?? NO_GUIDES).map(({ uid }) => presentOf(live, uid)),
      ...(cursorUs === null
        ? one.trace.origin === 'tag'
          ? liveValue(one.trace, live, span)
          : madeValue(one.trace, span)
        : {
            ...cursorValue(one.trace, cursorUs, readings.get(one.trace.tag.uid)),
            now: one.trace.origin === 'tag' ? liveValue(one.trace, live, span).value : null,
          }),
    }));
  }, [styled, looks, selected, cursorUs, live, span, known, recorder, guides]);
}

const NO_GUIDES: readonly Tag[] = [];

/** The tags of guide lines by the pen on whose scale they are. */
function guidesOf(looks: Looks, tags: readonly Tag[]): ReadonlyMap<string, readonly Tag[]> {
  const byUid = new Map(tags.map((tag) => [tag.uid, tag]));
  return new Map(
    Object.entries(looks).map(([uid, { guides = [] }]) => [
      uid,
      guides.flatMap((one) => byUid.get(one) ?? []),
    ]),
  );
}

function presentOf({ link, values }: LiveSnapshot, uid: string): Scalar {
  const found = values.get(uid);
  return link !== 'open' || found === undefined || isBad(found.q) ? null : found.v;
}

type CardValue = Pick<PenCard, 'value' | 'note' | 'bad' | 'now'>;

function liveValue(trace: Trace, live: LiveSnapshot, span: Span): CardValue {
  const found = live.values.get(trace.tag.uid);
  if (live.link !== 'open') return { value: null, note: wording.noConnection, bad: true };
  if (found === undefined || live.knownUntilUs === 0)
    return { value: null, note: wording.waiting, bad: false };
  if (isBad(found.q))
    return {
      value: null,
      note: fill(wording.badSinceLength, { length: lengthText(Math.max(live.knownUntilUs - found.tUs, 0)) }),
      bad: true,
    };
  const behind = Math.max(span.endUs, live.knownUntilUs) - live.knownUntilUs;
  if (span.endUs > live.knownUntilUs && behind > OLD_US) {
    return { value: found.v, note: fill(wording.lengthOld, { length: lengthText(behind) }), bad: true };
  }
  return { value: found.v, note: isUncertain(found.q) ? common.uncertain : common.now, bad: false };
}

/** What is no tag has no live value: the newest that was made. */
function madeValue(trace: Trace, span: Span): CardValue {
  const value = drawnAt(trace, Math.min(span.endUs, trace.heldUntilUs));
  return { value, note: value === null ? common.noValue : wording.newest, bad: value === null };
}

function cursorValue(trace: Trace, cursorUs: number, reading: Reading | undefined): CardValue {
  if (reading === undefined) {
    const value = drawnAt(trace, cursorUs);
    return { value, note: value === null ? common.noValue : wording.nearest, bad: value === null };
  }
  if (reading.value === null) return { value: null, note: shortQuality(reading.quality_text), bad: true };
  return {
    value: reading.value,
    note: isUncertain(reading.quality) ? common.uncertain : reading.how,
    bad: false,
  };
}

function shortQuality(text: string): string {
  return text.replace(/^Bad, /, '');
}

/** A moment once it has stood still for a while. */
function useRest(atUs: number | null): number | null {
  const [rest, setRest] = useState<number | null>(null);
  useEffect(() => {
    const timer = window.setTimeout(() => setRest(atUs), REST_MS);
    return () => window.clearTimeout(timer);
  }, [atUs]);
  return rest;
}
