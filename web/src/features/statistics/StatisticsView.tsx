import { Box } from '@mui/material';
import type { ReactElement, ReactNode } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/statistics.json';
import { Boundary, Told } from '../../ui';

interface StatisticsViewProps {
  head: ReactNode;
  failure: string;
  /** There is no equipment. */
  empty: boolean;
  /** What is shown is of the window before. */
  stale: boolean;
  panel: ReactNode;
  /** What is opened under the lanes. */
  below: ReactNode;
  children: ReactNode;
}

/** The page: head, lanes, and beside them what is chosen. */
export function StatisticsView(props: StatisticsViewProps): ReactElement {
  const { head, failure, empty, stale, panel, below, children } = props;
  return (
    <Box
      sx={{
        display: 'grid',
        height: { md: '100%' },
        minHeight: 0,
        gridTemplateColumns: {
          xs: 'minmax(0, 1fr)',
          md: panel === false || panel === null ? '1fr' : 'minmax(0, 1fr) 300px',
        },
        gridTemplateRows: 'auto minmax(0, 1fr) auto',
      }}
    >
      <Box sx={{ gridColumn: '1 / -1' }}>{head}</Box>
      <Box sx={{ overflow: 'auto', minHeight: 0, opacity: stale ? 0.6 : 1 }}>
        {failure !== '' && (
          <Box sx={{ px: 2 }}>
            <Told kind="error">{failure}</Told>
          </Box>
        )}
        {empty ? (
          <Box sx={{ p: 2 }}>
            <Told>{wording.noTagBelongsToEquipmentYet}</Told>
          </Box>
        ) : (
          children
        )}
      </Box>
      <Boundary what={common.thisPanel}>{panel}</Boundary>
      <Box sx={{ gridColumn: '1 / -1' }}>
        <Boundary what={wording.thisPicture}>{below}</Boundary>
      </Box>
    </Box>
  );
}
