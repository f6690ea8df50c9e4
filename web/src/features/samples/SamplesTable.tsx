/** The table of samples: as many rows as one scrolls to. */
import { Box, Button } from '@mui/material';
import { useMemo, type ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/samples.json';
import { fill } from '../../domain/fill';
import { momentText, type Span } from '../../domain/time';
import type { SampleRows } from '../../entities/samples/useSampleRows';
import { readRows, type SampleFigures, type Wish } from '../../entities/samples/rows';
import type { Tag } from '../../platform/client';
import { ApiError, errorText } from '../../platform/errors';
import { LongTable, Told } from '../../ui';
import { columnsFor, footFor } from './columns';
import { linesOf, momentOf, type Line } from './lines';
import { qualityName } from './qualities';
import type { SamplesState } from './state';

interface SamplesTableProps {
  state: SamplesState;
  wish: Wish;
  tags: readonly Tag[];
  found: SampleRows;
  /** What was typed under Value cannot be used. */
  isRefused: boolean;
  figures: readonly SampleFigures[];
  /** Why there are no figures. */
  withoutFigures: string;
  span: Span;
  zone: string;
  selected: string | null;
  onSelect: (line: Line) => void;
  /** Opens the panel of files. */
  onFiles: () => void;
}

export function SamplesTable(props: SamplesTableProps): ReactElement {
  const { state, wish, tags, found, figures, withoutFigures, span, zone, selected, onSelect, onFiles } =
    props;
  const { layout, marks, order } = state;
  const sinceUs = order === 'newest' ? span.startUs : -Infinity;
  const lines = useMemo(
    () => linesOf(found.rows, order === 'newest' ? found.gaps : [], sinceUs),
    [found.rows, found.gaps, sinceUs, order],
  );
  const columns = useMemo(() => columnsFor({ layout, marks }, tags, zone), [layout, marks, tags, zone]);
  const foot = useMemo(() => footFor({ layout }, tags, figures), [layout, tags, figures]);
  // Where a page held no row that matches, the next one is asked for by hand: it may be a long way.
  const hasMore = found.onMore !== null || found.isBusy;
  return (
    <Box sx={{ display: 'flex', flexDirection: 'column', minHeight: 0, flex: 1 }}>
      {found.error !== null && (
        <Told kind="error">
          {errorText(found.error)}{' '}
          {isTooMany(found.error) && (
            <Button size="small" color="inherit" onClick={onFiles}>
              {wording.prepareItAsAFile}
            </Button>
          )}
        </Told>
      )}
      {withoutFigures !== '' && <Told>{withoutFigures}</Told>}
      <LongTable
        // Each choice of tags has columns of its own.
        key={layout === 'sample' ? layout : `${layout} ${tags.map((tag) => tag.uid).join(' ')}`}
        label={common.samples}
        columns={columns}
        rows={lines}
        keyOf={(line) => line.key}
        empty={emptyText(props)}
        selected={selected}
        onSelect={onSelect}
        keptAs={`samples ${layout}`}
        isPartial={hasMore}
        {...(hasMore ? { total: Infinity } : {})}
        {...(found.onMore !== null && lines.length > 0 ? { onEnd: found.onMore } : {})}
        hasOwnFiles
        printed={{
          heading: headingOf(props),
          rows: async (most) => {
            const { rows, gaps, isAll } = await readRows(wish, span, most);
            const all = linesOf(rows, order === 'newest' ? gaps : [], sinceUs);
            return { rows: all.slice(0, most), isAll: isAll && all.length <= most };
          },
        }}
        {...(lines.length > 0 ? { foot } : {})}
        height="calc(100dvh - 224px)"
        leastWidth={layout === 'sample' ? 640 : 200 + tags.length * (marks ? 240 : 130)}
      />
      {found.onMore !== null && lines.length === 0 && found.reachedUs !== null && (
        <Told>
          {fill(wording.searchedBackToMomentNothingMatches, { moment: momentOf(found.reachedUs, zone) })}{' '}
          <Button size="small" onClick={found.onMore}>
            {wording.searchFurtherBack}
          </Button>
        </Told>
      )}
    </Box>
  );
}

/** More samples than are ordered while one waits: a file takes any number. */
const isTooMany = (error: Error): boolean =>
  error instanceof ApiError && error.fields.some(({ code }) => code === 'window-holds-more-samples');

/** What stands above the rows on paper: of which tags they are, of when, and which are left out. */
function headingOf({ tags, span, state, zone }: SamplesTableProps): string[] {
  const [start, end] = [span.startUs, span.endUs].map((us) => momentText(us, zone));
  const filters = [
    ...(state.value === '' ? [] : [fill(wording.valueCondition, { value: state.value })]),
    ...(state.quality === 'any'
      ? []
      : [fill(wording.qualityCondition, { quality: qualityName(state.quality) })]),
  ];
  return [
    fill(wording.samplesOfTags, { tags: tags.map(({ name }) => name).join(', ') }),
    [fill(wording.startToEnd, { start: start ?? '', end: end ?? '' }), ...filters].join(', '),
  ];
}

function emptyText({ state, found, isRefused }: SamplesTableProps): string {
  if (isRefused) return wording.whatIsTypedUnderValueCannot;
  if (found.error !== null) return wording.theSamplesCouldNotBeRead;
  if (!found.isKnown || found.isBusy) return common.reading;
  const isFiltered = state.value !== '' || state.quality !== 'any';
  return isFiltered ? wording.noSampleInThisWindowMatches : wording.noSampleInThisWindow;
}
