/** The head of a trend: its title and what can be done with it. */
import {
  Add,
  ArrowDropDown,
  CompareArrows,
  FileDownloadOutlined,
  FitScreen,
  FolderOutlined,
  Fullscreen,
  FunctionsOutlined,
  KeyboardOutlined,
  StickyNote2Outlined,
  Undo,
  ViewAgendaOutlined,
} from '@mui/icons-material';
import { Box, Button, ButtonBase, IconButton, Typography } from '@mui/material';
import { memo, useCallback, useMemo, useRef, useState, type ReactElement } from 'react';
import * as common from 'texts/common.json';
import * as wording from 'texts/trends.json';
import { fill } from '../../../domain/fill';
import { lazyPart } from '../../../ui/lazyPart';
import { usePageActions, type PageAction } from '../../../ui/pageActions';
import type { HeadProps } from '../model/headProps';
import type { Scales } from '../model/state';

export const CompareMenu = lazyPart(
  wording.theComparison,
  async () => (await import('./CompareMenu')).CompareMenu,
);
export const SisterMenu = lazyPart(
  wording.theListOfEquipment,
  async () => (await import('./SisterMenu')).SisterMenu,
);
export const ExportMenu = lazyPart(
  wording.theListOfFiles,
  async () => (await import('./ExportMenu')).ExportMenu,
);

const SCALE_WORDS: Record<Scales, string> = {
  own: wording.scalesOwnRanges,
  fit: wording.scalesFitted,
  percent: wording.scales0To100Percent,
};

export const Head = memo(function Head(props: HeadProps): ReactElement {
  const { title, beside, scales, canUndo, figuresOpen, allow, on } = props;
  const free = allow === null;
  usePageActions(useMemo(() => (props.isPart ? [] : actionsOf(on, free)), [on, free, props.isPart]));
  return (
    <Box sx={row}>
      <Box sx={{ display: 'flex', alignItems: 'center', minWidth: 0, mr: 'auto' }}>
        <Typography variant="h1" component={props.isPart ? 'h2' : 'h1'} noWrap>
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
        {free && props.equipment !== '' && <SisterButton {...props} />}
      </Box>
      {free && (
        <>
          <Button size="small" startIcon={<Add />} onClick={on.onAdd}>
            {wording.addPen}
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
        {common.figures}
      </Button>
      <Cursors cursors={props.cursors} placing={props.placing} onPlace={on.onPlace} />
      <Menus {...props} />
      {free && (
        <>
          <Button size="small" startIcon={<ViewAgendaOutlined />} onClick={on.onStrips}>
            {wording.layout}
          </Button>
          <Button size="small" startIcon={<FolderOutlined />} onClick={on.onSheets}>
            {common.sheets}
          </Button>
          <Button size="small" startIcon={<StickyNote2Outlined />} onClick={on.onNotes}>
            {wording.notes}
          </Button>
        </>
      )}
      <IconButton
        size="small"
        aria-label={wording.undoTheZoom}
        title={wording.undoTheZoom}
        disabled={!canUndo}
        onClick={on.onUndo}
      >
        <Undo fontSize="small" />
      </IconButton>
      <IconButton
        size="small"
        aria-label={wording.fullScreen}
        title={wording.fullScreen}
        onClick={on.onWhole}
      >
        <Fullscreen fontSize="small" />
      </IconButton>
      <IconButton size="small" aria-label={wording.keys} title={wording.keys} onClick={on.onKeys}>
        <KeyboardOutlined fontSize="small" />
      </IconButton>
    </Box>
  );
});

/** Close enough that all of it has room in one row beside the pens at 1280 pixels. */
const row = {
  display: 'flex',
  alignItems: 'center',
  flexWrap: 'wrap',
  columnGap: 0.25,
  px: 2,
  py: 0.75,
  '& .MuiButton-root': { px: 0.5 },
  '& .MuiButton-startIcon': { mr: 0.5, ml: 0 },
} as const;

type CursorsProps = Pick<HeadProps, 'cursors' | 'placing'> & Pick<HeadProps['on'], 'onPlace'>;

/** Puts a cursor where one clicks next, and takes it away again. */
function Cursors({ cursors, placing, onPlace }: CursorsProps): ReactElement {
  return (
    <Box role="group" aria-label={wording.cursors} sx={{ display: 'flex' }}>
      {(['A', 'B'] as const).map((name) => {
        const label = cursors.includes(name)
          ? fill(wording.removeCursorName, { name })
          : placing === name
            ? fill(wording.cursorNameClickInThePlot, { name })
            : fill(wording.placeCursorName, { name });
        return (
          <ButtonBase
            key={name}
            aria-label={label}
            title={label}
            aria-pressed={cursors.includes(name) || placing === name}
            onClick={() => onPlace(name)}
            sx={{ width: 28, height: 28, '@media (hover: none)': { width: 44, height: 44 } }}
          >
            <Box
              component="span"
              sx={{
                ...cursorFlag,
                ...(placing === name && { bgcolor: 'action.selected' }),
                ...(cursors.includes(name) && { bgcolor: 'primary.main', color: 'primary.contrastText' }),
              }}
            >
              {name}
            </Box>
          </ButtonBase>
        );
      })}
    </Box>
  );
}

/** As it stands in the plot. */
const cursorFlag = {
  typography: 'caption',
  fontWeight: 700,
  width: 20,
  lineHeight: '18px',
  textAlign: 'center',
  border: 1,
  borderColor: 'primary.main',
  color: 'primary.main',
} as const;

/** What the palette finds beside the menus; of several trends on a page it cannot tell which one is meant. */
function actionsOf(on: HeadProps['on'], free: boolean): PageAction[] {
  const changes = [
    { name: wording.addPen, run: on.onAdd },
    { name: wording.changeScales, run: on.onScales },
    { name: wording.layout, run: on.onStrips },
    { name: common.sheets, run: on.onSheets },
    { name: wording.notes, run: on.onNotes },
  ];
  return [
    ...(free ? changes : []),
    { name: common.figures, run: on.onFigures },
    { name: wording.fullScreen, run: on.onWhole },
    { name: wording.keys, run: on.onKeys },
  ];
}

/** The same trend for other equipment. */
function SisterButton(props: HeadProps): ReactElement {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const label = fill(wording.sameTrendForOtherEquipmentThan, { equipment: props.equipment });
  return (
    <>
      <IconButton
        size="small"
        aria-label={label}
        title={label}
        aria-haspopup="menu"
        aria-expanded={anchor !== null}
        onClick={(event) => setAnchor(event.currentTarget)}
      >
        <ArrowDropDown fontSize="small" />
      </IconButton>
      {anchor !== null && <SisterMenu {...props} anchor={anchor} onClose={() => setAnchor(null)} />}
    </>
  );
}

/** The buttons of both menus; what they open is loaded after the trend is there. */
function Menus(props: HeadProps): ReactElement {
  const { allow, isPart } = props;
  const [opened, setOpened] = useState<OpenedMenu | null>(null);
  const close = (): void => setOpened(null);
  const shared = { isPart, opened, setOpened };
  return (
    <>
      {(allow === null || allow.includes('time')) && (
        <MenuButton menu="compare" label={wording.compare} icon={<CompareArrows />} {...shared} />
      )}
      {(allow === null || allow.includes('files')) && (
        <MenuButton menu="export" label={common.exportLabel} icon={<FileDownloadOutlined />} {...shared} />
      )}
      {opened?.menu === 'compare' && <CompareMenu {...props} anchor={opened.anchor} onClose={close} />}
      {opened?.menu === 'export' && <ExportMenu {...props} anchor={opened.anchor} onClose={close} />}
    </>
  );
}

interface OpenedMenu {
  menu: 'compare' | 'export';
  anchor: HTMLElement;
}

interface MenuButtonProps {
  menu: OpenedMenu['menu'];
  label: string;
  icon: ReactElement;
  isPart: boolean;
  opened: OpenedMenu | null;
  setOpened: (opened: OpenedMenu) => void;
}

function MenuButton({ menu, label, icon, isPart, opened, setOpened }: MenuButtonProps): ReactElement {
  const button = useRef<HTMLButtonElement>(null);
  const open = useCallback(() => {
    if (button.current !== null) setOpened({ menu, anchor: button.current });
  }, [menu, setOpened]);
  usePageActions(useMemo(() => (isPart ? [] : [{ name: label, run: open }]), [isPart, label, open]));
  return (
    <Button
      ref={button}
      size="small"
      startIcon={icon}
      aria-haspopup={menu === 'export' ? 'menu' : 'dialog'}
      aria-expanded={opened?.menu === menu}
      onClick={open}
    >
      {label}
    </Button>
  );
}
