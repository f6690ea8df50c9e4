/** The columns of a table of samples. */
import { Box } from '@mui/material';
import type { ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/samples.json';
import { isBad } from '../../domain/quality';
import type { SampleCell } from '../../entities/samples/rows';
import type { Tag } from '../../platform/client';
import type { Column } from '../../ui';
import { cellText, gapText, momentOf, scalarText, stampOf, type Line } from './lines';
import type { SamplesState } from './state';

/** One column for each tag, or one row for each sample. */
export function columnsFor(
  { layout, marks }: Pick<SamplesState, 'layout' | 'marks'>,
  tags: readonly Tag[],
  zone: string,
): Column<Line>[] {
  const time: Column<Line> = {
    name: common.time,
    of: ({ tUs }) => <Unbroken text={momentOf(tUs, zone)} />,
    value: ({ tUs }) => stampOf(tUs, zone),
    isHead: true,
    width: 190,
  };
  return layout === 'sample'
    ? [time, ...singleColumns(tags)]
    : [time, ...tags.flatMap((tag, i) => tagColumns(tag, i, marks))];
}

function tagColumns(tag: Tag, i: number, marks: boolean): Column<Line>[] {
  const of = (line: Line): SampleCell | undefined => line.row?.cells[i];
  const value: Column<Line> = {
    id: tag.uid,
    name: tag.name,
    note: tag.unit,
    right: tag.value_type !== 'text',
    isNumber: tag.value_type === 'float',
    of: (line, digits = tag.decimals) =>
      line.gap === null ? (
        <Value cell={of(line)} tag={{ ...tag, decimals: digits }} />
      ) : (
        line.gap.tag === tag.uid && <Quiet text={gapText(line.gap)} />
      ),
    value: (line) => of(line)?.value ?? null,
  };
  const quality: Column<Line> = {
    id: `${tag.uid} quality`,
    name: common.quality,
    note: tag.name,
    of: (line) => of(line)?.quality_text ?? '',
    value: (line) => of(line)?.quality_text ?? null,
  };
  return marks ? [value, quality] : [value];
}

function singleColumns(tags: readonly Tag[]): Column<Line>[] {
  const byUid = new Map(tags.map((tag) => [tag.uid, tag]));
  const tagOf = ({ row, gap }: Line): Tag | undefined => byUid.get(row?.tag ?? gap?.tag ?? '');
  const cellOf = ({ row }: Line): SampleCell | undefined => row?.cells[0];
  return [
    {
      name: common.tag,
      of: (line) => tagOf(line)?.name,
      value: (line) => tagOf(line)?.name ?? null,
      width: '36%',
    },
    {
      name: common.value,
      right: true,
      width: 120,
      isNumber: true,
      of: (line, digits) => {
        const tag = tagOf(line);
        return (
          tag !== undefined && (
            <Value cell={cellOf(line)} tag={{ ...tag, decimals: digits ?? tag.decimals }} />
          )
        );
      },
      value: (line) => cellOf(line)?.value ?? null,
    },
    {
      name: common.unit,
      of: (line) => tagOf(line)?.unit,
      value: (line) => tagOf(line)?.unit ?? null,
      width: 80,
    },
    {
      name: common.quality,
      of: (line) => (line.gap === null ? cellOf(line)?.quality_text : <Quiet text={gapText(line.gap)} />),
      value: (line) => (line.gap === null ? (cellOf(line)?.quality_text ?? null) : gapText(line.gap)),
    },
  ];
}

const HOW: Readonly<Record<string, string>> = {
  held: wording.heldSinceTheLastSample,
  interpolated: wording.interpolatedBetweenTwoSamples,
  none: common.noValue,
};

/** A value; what was not recorded at this very time is slanted. */
function Value({ cell, tag }: { cell: SampleCell | undefined; tag: Tag }): ReactElement | null {
  if (cell === undefined) return null;
  const how = HOW[cell.how];
  return (
    <Box
      component="span"
      title={
        [how, cell.quality === 0 ? undefined : cell.quality_text].filter(Boolean).join(', ') || undefined
      }
      sx={{
        color: isBad(cell.quality) && cell.how !== 'none' ? 'error.main' : undefined,
        fontStyle: how === undefined ? undefined : 'italic',
      }}
    >
      {cellText(cell, tag)}
    </Box>
  );
}

function Unbroken({ text }: { text: string }): ReactElement {
  return (
    <Box component="span" sx={{ whiteSpace: 'nowrap' }}>
      {text}
    </Box>
  );
}

function Quiet({ text }: { text: string }): ReactElement {
  return (
    <Box component="span" sx={{ fontStyle: 'italic' }}>
      {text}
    </Box>
  );
}

/** The lines below the table: of each tag all samples that match. */
export function footFor(
  { layout }: Pick<SamplesState, 'layout'>,
  tags: readonly Tag[],
  figures: readonly { tag: string; count: number; low: unknown; high: unknown; mean: number | null }[],
): { name: string; cells: Map<string, string> }[] {
  // Values of several tags in one column have no figure in common.
  if (layout === 'sample' && tags.length !== 1) return [];
  const line = (name: string, of: (figure: (typeof figures)[number], tag: Tag) => string) => ({
    name,
    cells: new Map(
      tags.flatMap((tag) => {
        const figure = figures.find((one) => one.tag === tag.uid);
        if (figure === undefined) return [];
        return [[layout === 'sample' ? common.value : tag.uid, of(figure, tag)] as const];
      }),
    ),
  });
  const number = (value: unknown, tag: Tag): string =>
    value === null ? '' : scalarText(asScalar(value), tag);
  return [
    line(common.samples, ({ count }) => String(count)),
    line(common.mean, ({ mean }, tag) => number(mean, { ...tag, value_type: 'float' })),
    line(common.min, ({ low }, tag) => number(low, tag)),
    line(common.max, ({ high }, tag) => number(high, tag)),
  ];
}

const asScalar = (value: unknown): number | string | null =>
  typeof value === 'number' || typeof value === 'string' ? value : null;
