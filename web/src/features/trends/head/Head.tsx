/** The head of a trend: its title and what can be done with it. */
import {
  Add,
  FitScreen,
  FolderOutlined,
  FunctionsOutlined,
  KeyboardOutlined,
  StickyNote2Outlined,
  Undo,
  ViewAgendaOutlined,
} from '@mui/icons-material';
import { Box, Button, IconButton, Typography } from '@mui/material';
import { memo, type ReactElement } from 'react';
import { ExportMenu } from './ExportMenu';
import { WindowMenu } from './WindowMenu';
import type { HeadProps } from '../model/headProps';
import type { Scales } from '../model/state';

const SCALE_WORDS: Record<Scales, string> = {
  own: 'Scales: own ranges',
  fit: 'Scales: fitted',
  percent: 'Scales: 0 to 100 %',
};

export const Head = memo(function Head(props: HeadProps): ReactElement {
  const { title, beside, scales, canUndo, figuresOpen, allow, on } = props;
  const free = allow === null;
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', flexWrap: 'wrap', gap: 0.5, px: 2, py: 0.75 }}>
      <Typography component="h1" noWrap sx={{ fontSize: 18, fontWeight: 700, mr: 'auto' }}>
        {title}
        {beside !== '' && (
          <Box component="span" sx={{ fontSize: 12, fontWeight: 400, color: 'text.secondary', ml: 1 }}>
            {beside}
          </Box>
        )}
      </Typography>
      {free && (
        <>
          <Button size="small" startIcon={<Add />} onClick={on.onAdd}>
            Add pen
          </Button>
          <Button size="small" startIcon={<FitScreen />} onClick={on.onScales}>
            {SCALE_WORDS[scales]}
          </Button>
        </>
      )}
      <Button
        size="small"
        startIcon={<FunctionsOutlined />}
        aria-pressed={figuresOpen}
        onClick={on.onFigures}
      >
        Figures
      </Button>
      {(free || allow.includes('time')) && <WindowMenu {...props} />}
      {(free || allow.includes('files')) && <ExportMenu {...props} />}
      {free && (
        <>
          <Button size="small" startIcon={<ViewAgendaOutlined />} onClick={on.onStrips}>
            Strips
          </Button>
          <Button size="small" startIcon={<FolderOutlined />} onClick={on.onSheets}>
            Sheets
          </Button>
          <Button size="small" startIcon={<StickyNote2Outlined />} onClick={on.onNotes}>
            Notes
          </Button>
        </>
      )}
      <IconButton
        size="small"
        aria-label="Undo zoom"
        title="Undo zoom"
        disabled={!canUndo}
        onClick={on.onUndo}
      >
        <Undo sx={{ fontSize: 18 }} />
      </IconButton>
      <IconButton size="small" aria-label="Keys" title="Keys" onClick={on.onKeys}>
        <KeyboardOutlined sx={{ fontSize: 18 }} />
      </IconButton>
    </Box>
  );
});
