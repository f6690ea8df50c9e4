/** The head of a trend: its title and what can be done with it. */
import {
  Add,
  CompareArrows,
  FileDownloadOutlined,
  FitScreen,
  FolderOutlined,
  FunctionsOutlined,
  KeyboardOutlined,
  StickyNote2Outlined,
  Undo,
  ViewAgendaOutlined,
} from '@mui/icons-material';
import { Box, Button, IconButton, Typography } from '@mui/material';
import { memo, useState, type ReactElement } from 'react';
import { lazyPart } from '../../../ui/lazyPart';
import type { HeadProps } from '../model/headProps';
import type { Scales } from '../model/state';

export const CompareMenu = lazyPart(
  'The comparison',
  async () => (await import('./CompareMenu')).CompareMenu,
);
export const ExportMenu = lazyPart(
  'The list of files',
  async () => (await import('./ExportMenu')).ExportMenu,
);

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
      <Typography variant="h1" component={props.isPart ? 'h2' : 'h1'} noWrap sx={{ mr: 'auto' }}>
        {title}
        {beside !== '' && (
          <Box
            component="span"
            sx={{ typography: 'caption', fontWeight: 400, color: 'text.secondary', ml: 1 }}
          >
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
      <Menus {...props} />
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
        <Undo fontSize="small" />
      </IconButton>
      <IconButton size="small" aria-label="Keys" title="Keys" onClick={on.onKeys}>
        <KeyboardOutlined fontSize="small" />
      </IconButton>
    </Box>
  );
});

type MenuName = 'compare' | 'export';

/** The buttons of both menus; what they open is loaded after the trend is there. */
function Menus(props: HeadProps): ReactElement {
  const { allow } = props;
  const [opened, setOpened] = useState<{ name: MenuName; anchor: HTMLElement } | null>(null);
  const close = (): void => setOpened(null);
  const button = (name: MenuName, label: string, icon: ReactElement): ReactElement => (
    <Button
      size="small"
      startIcon={icon}
      aria-haspopup={name === 'export' ? 'menu' : 'dialog'}
      aria-expanded={opened?.name === name}
      onClick={(event) => setOpened({ name, anchor: event.currentTarget })}
    >
      {label}
    </Button>
  );
  return (
    <>
      {(allow === null || allow.includes('time')) && button('compare', 'Compare', <CompareArrows />)}
      {(allow === null || allow.includes('files')) && button('export', 'Export', <FileDownloadOutlined />)}
      {opened?.name === 'compare' && <CompareMenu {...props} anchor={opened.anchor} onClose={close} />}
      {opened?.name === 'export' && <ExportMenu {...props} anchor={opened.anchor} onClose={close} />}
    </>
  );
}
