/** A gap that all figures of a page share is said once, above them, and not beside each. */
import { Box } from '@mui/material';
import { createContext, type ReactElement, type ReactNode } from 'react';
import * as wording from 'texts/statistics.json';
import { fill } from '../../../domain/fill';
import { Told } from '../../../ui';
import type { Cell } from './lanes';
import { goodText, sharedGap } from '../../../entities/figureTexts';

/** Whether the page says for all figures that they rest on a part of their time. */
export const GapIsSaid = createContext(false);

export function SharedGap({
  cells,
  children,
}: {
  cells: readonly Cell[];
  children: ReactNode;
}): ReactElement {
  const share = sharedGap(cells);
  return (
    <GapIsSaid value={share !== null}>
      {share !== null && (
        <Box sx={{ px: 2, pt: 1 }}>
          <Told>{fill(wording.valuesAreMissingAlikeInAll, { good: goodText(share) })}</Told>
        </Box>
      )}
      {children}
    </GapIsSaid>
  );
}
