/** A tag in a list of hits: its name, and under it what tells it from its neighbours. */
import { Box, Typography } from '@mui/material';
import type { ReactElement } from 'react';
import * as common from 'texts/common.json';
import type { Tag } from '../platform/client';

export function TagLines({ tag }: { tag: Tag }): ReactElement {
  return (
    <Box sx={{ minWidth: 0, textAlign: 'left' }}>
      <Typography noWrap variant="body2">
        {tag.name}
      </Typography>
      <Typography noWrap variant="caption" sx={{ color: 'text.secondary' }}>
        {[tag.unit, tag.recorded.length > 0 ? '' : common.notRecorded, tag.description]
          .filter(Boolean)
          .join(' · ')}
      </Typography>
    </Box>
  );
}
