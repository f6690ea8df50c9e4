/** How a figure was made. */
import { useQuery } from '@tanstack/react-query';
import type { ReactElement } from 'react';
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
  if (data === undefined) return <Told>Reading …</Told>;
  return (
    <Details
      rows={[
        ['Figure', data.figure],
        ['Formula', data.formula],
        ['Source', data.source],
        ['Value', `${String(data.value ?? 'none')}${data.unit === '' ? '' : ` ${data.unit}`}`],
        ['Status', data.status],
        ['From', momentText(Number(data.window.start_us), zone)],
        ['To', momentText(Number(data.window.end_us), zone)],
        ['Samples', `${data.good} good, ${data.uncertain} uncertain, ${data.bad} bad`],
        ['Covered', `${(data.covered * 100).toFixed(1)} %`],
        ['Value at the start', boundText(data.start_bound)],
        ['Value at the end', boundText(data.end_bound)],
      ]}
    />
  );
}

function boundText(bound: { value?: string | number | boolean | null; how: string }): string {
  return bound.value == null ? bound.how : `${String(bound.value)}, ${bound.how}`;
}
