/** What a tag is now, in the cells of its row: each is drawn anew by itself when its own value is another. */
import type { ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/setup-tags.json';
import { fill } from '../../../../domain/fill';
import { valueText } from '../../../../domain/format';
import { isBad, qualityText } from '../../../../domain/quality';
import { lengthText, SECOND } from '../../../../domain/time';
import { NO_TRAIL } from '../../../../domain/trail';
import { trailPath } from '../../../../domain/trailPath';
import { TRAIL_US } from '../../../../entities/present/state';
import type { TagRow } from '../../../../entities/tags';
import type { LiveValue } from '../../../../platform/liveMessages';
import { usePresentOf } from './presentContext';

const useValue = ({ uid }: TagRow): LiveValue | undefined => usePresentOf(({ values }) => values.get(uid));

/** The present value with its unit. */
function ValueCell({ tag }: { tag: TagRow }): ReactElement {
  const value = useValue(tag);
  const bad = value !== undefined && isBad(value.q);
  const shown = value?.v ?? null;
  const state = typeof shown === 'number' ? statesOf(tag)[String(shown)] : undefined;
  return (
    <span className={bad ? 'row-bad' : undefined}>
      {state ?? valueText(shown, tag.decimals)}
      {tag.unit !== '' && <span className="row-small">{tag.unit}</span>}
    </span>
  );
}

/** The names of its values, as the set-up keeps them. */
function statesOf({ states }: TagRow): Readonly<Record<string, string>> {
  return states === '' ? {} : (JSON.parse(states) as Record<string, string>);
}

function QualityCell({ tag }: { tag: TagRow }): ReactElement | null {
  const value = useValue(tag);
  if (value === undefined) return null;
  return <span className={isBad(value.q) ? 'row-bad' : undefined}>{qualityText(value.q)}</span>;
}

/** How long ago it was read, or for how long it has been bad. */
function AgeCell({ tag }: { tag: TagRow }): ReactElement | null {
  const text = usePresentOf(({ values, nowUs }) => {
    const value = values.get(tag.uid);
    return value === undefined ? null : ageText(nowUs - value.tUs);
  });
  return text === null ? null : <>{text}</>;
}

function ageText(us: number): string {
  const seconds = Math.max(Math.round(us / SECOND), 0);
  return seconds === 0 ? common.now : lengthText(seconds * SECOND);
}

const SIZE = { width: 88, height: 18 } as const;
const PLACE = { display: 'block', width: SIZE.width, height: SIZE.height + 2 } as const;
/** Of its range: a scale is no narrower. */
const LEAST_SHARE = 0.05;

/** Its course over the last minutes. */
function TrailCell({ tag }: { tag: TagRow }): ReactElement | null {
  const trail = usePresentOf(({ trails }) => trails.get(tag.uid)) ?? NO_TRAIL;
  const problem = usePresentOf((present) => present.problem);
  const nowUs = usePresentOf((present) => present.nowUs);
  const path = trailPath(trail, {
    ...SIZE,
    startUs: nowUs - TRAIL_US,
    endUs: nowUs,
    least: LEAST_SHARE * (tag.range_high - tag.range_low),
    isStepped: tag.stepped || tag.value_type !== 'float',
  });
  if (path === '') return problem === '' ? null : <span title={problem}>–</span>;
  return (
    <svg
      role="img"
      aria-label={fill(wording.nameOverTheLast10Minutes, { name: tag.name })}
      viewBox={`0 -1 ${SIZE.width} ${SIZE.height + 2}`}
      className="row-quiet"
      style={PLACE}
    >
      <path d={path} fill="none" stroke="currentColor" strokeWidth={1.25} />
    </svg>
  );
}

const CELLS = { value: ValueCell, quality: QualityCell, age: AgeCell, course: TrailCell } as const;

export interface LiveCellProps {
  tag: TagRow;
  of: keyof typeof CELLS;
}

/** One of these cells. */
export function LiveCell({ tag, of }: LiveCellProps): ReactElement {
  const Cell = CELLS[of];
  return <Cell tag={tag} />;
}
