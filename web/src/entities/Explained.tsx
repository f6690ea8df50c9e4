/** How a figure was made. */
import { useQuery } from '@tanstack/react-query';
import type { ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/entities.json';
import { fill } from '../domain/fill';
import { errorText } from '../platform/errors';
import { momentText, type Span } from '../domain/time';
import { Details, Told } from '../ui';
import { explainQuery } from './figures';
import { plantQuery } from './plant';

interface ExplainedProps {
  uid: string;
  archive: string;
  stat: string;
  range: Span;
}

export function Explained({ uid, archive, stat, range }: ExplainedProps): ReactElement {
  const { data, error } = useQuery(explainQuery(uid, stat, range, archive));
  const zone = useQuery(plantQuery).data?.zone ?? 'UTC';
  if (error !== null) return <Told kind="error">{errorText(error)}</Told>;
  if (data === undefined) return <Told>{common.reading}</Told>;
  return (
    <Details
      rows={[
        [wording.figure, data.figure],
        [common.formula, data.formula],
        [common.source, data.source],
        [common.value, `${String(data.value ?? 'none')}${data.unit === '' ? '' : ` ${data.unit}`}`],
        [wording.status, data.status],
        [common.from, momentText(Number(data.window.start_us), zone)],
        [common.toLabel, momentText(Number(data.window.end_us), zone)],
        [
          common.samples,
          fill(wording.goodGoodUncertainUncertainBadBad, {
            good: data.good,
            uncertain: data.uncertain,
            bad: data.bad,
          }),
        ],
        [wording.covered, `${(data.covered * 100).toFixed(1)} %`],
        [wording.valueAtTheStart, boundText(data.start_bound)],
        [wording.valueAtTheEnd, boundText(data.end_bound)],
      ]}
    />
  );
}

function boundText(bound: { value?: string | number | boolean | null; how: string }): string {
  return bound.value == null ? bound.how : `${String(bound.value)}, ${bound.how}`;
}
