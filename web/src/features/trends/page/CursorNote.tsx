/** The cursor's moment, and why tags have nothing there. */
import { Box } from '@mui/material';
import type { ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/trends.json';
import { fill } from '../../../domain/fill';
import { lengthText, momentText, SECOND, type Span } from '../../../domain/time';
import { reasonText } from '../../../domain/reasons';
import type { Styled } from '../data/usePens';
import type { Blank } from '../model/model';
import { blanksAt } from '../model/pageTexts';
import { useTrendValue } from '../store/context';

interface CursorNoteProps {
  zone: string;
  span: Span;
  /** Width of the plot's place, CSS pixels. */
  width: number;
  styled: readonly Styled[];
  /** The curves are those of another window still. */
  isStale: boolean;
}

export function CursorNote({ zone, span, width, styled, isStale }: CursorNoteProps): ReactElement | null {
  const cursorUs = useTrendValue((values) => values.cursorUs);
  const placing = useTrendValue((values) => values.placing);
  const hint =
    placing === null ? null : <strong>{fill(wording.clickOrTapToPlaceCursor, { placing })}</strong>;
  if (cursorUs === null) {
    return hint === null ? null : (
      <Box role="status" sx={NOTE}>
        {hint}
      </Box>
    );
  }
  const pixelUs = (span.endUs - span.startUs) / Math.max(width, 1);
  return (
    <Box data-testid="cursor-note" sx={NOTE}>
      {hint !== null && <Box role="status">{hint}</Box>}
      <strong>{momentText(cursorUs, zone, pixelUs * 20 < SECOND ? 1 : SECOND)}</strong>
      {grouped(isStale ? [] : blanksAt(styled, cursorUs)).map(({ names, blank }) => (
        <Box key={`${blank.reason}${blank.startUs}`}>
          {reasonText(blank.reason)}
          {blank.reason === 'not_yet_recorded'
            ? ''
            : ` ${fill(wording.fromMomentLength, { moment: momentText(blank.startUs, zone), length: lengthText(blank.endUs - blank.startUs) })}`}
          {blank.detail === '' ? '' : ` · ${blank.detail}`} (
          {names.length > 2 ? fill(common.countTags, { count: names.length }) : names.join(', ')})
        </Box>
      ))}
    </Box>
  );
}

const NOTE = {
  typography: 'caption',
  position: 'absolute',
  top: 6,
  right: 28,
  px: 1,
  py: 0.5,
  bgcolor: 'background.paper',
  border: 1,
  borderColor: 'divider',
  borderRadius: 1,
  pointerEvents: 'none',
  maxWidth: 420,
} as const;
const MOST_GROUPS = 4;

/** One line per reason: a source that is down takes many tags along. */
function grouped(blanks: readonly { name: string; blank: Blank }[]): { names: string[]; blank: Blank }[] {
  const found = new Map<string, { names: string[]; blank: Blank }>();
  for (const { name, blank } of blanks) {
    const key = `${blank.reason}${Math.round(blank.startUs / 5e6)}`;
    const group = found.get(key);
    if (group === undefined) found.set(key, { names: [name], blank });
    else group.names.push(name);
  }
  return [...found.values()].slice(0, MOST_GROUPS);
}
