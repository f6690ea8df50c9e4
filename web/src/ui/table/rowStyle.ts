/** How rows of tables look: one style for all of them, by the classes of their parts. Of what stands in cells, `row-bad`
 * is a bad value, `row-quiet` what is said by the way, `row-small` in small letters. */
import { alpha, type Theme } from '@mui/material/styles';

const tint = ({ palette }: Theme): string => alpha(palette.primary.main, palette.action.selectedOpacity);

/** For the table in which they stand. */
export const ROW_STYLE = {
  '& .row-opens': { cursor: 'pointer' },
  '& .row-opens:hover': { bgcolor: 'action.hover' },
  '& .row-selected, & .row-selected:hover': { bgcolor: tint },
  '& .row-cell, & .row-choice': {
    borderBottom: 1,
    borderColor: 'divider',
    px: 2,
  },
  '& .row-cell': { typography: 'body2', overflow: 'hidden', textOverflow: 'ellipsis' },
  '& .row-bad': { color: 'error.main' },
  '& .row-quiet': { color: 'text.secondary' },
  '& .row-small': { typography: 'caption', ml: 0.5 },
  '& .row-right': { textAlign: 'right' },
  '& .row-choice': { width: 48, pl: 1.5, pr: 1 },
  // Rows are far enough apart for a finger (WCAG 2.2, 2.5.8, spacing).
  '& .row-choice > input': {
    display: 'block',
    width: 18,
    height: 18,
    accentColor: ({ palette }: Theme) => palette.primary.main,
  },
  // Of a wide table it stays said what the row is of.
  '& .row-head': {
    textAlign: 'left',
    position: 'sticky',
    left: 0,
    zIndex: 1,
    minWidth: 150,
    whiteSpace: { xs: 'normal', md: 'nowrap' },
  },
  // What scrolls below it must not show through: its tint lies on the ground of the table.
  '& .row-selected > .row-head': {
    backgroundImage: (theme: Theme) => `linear-gradient(${tint(theme)}, ${tint(theme)})`,
  },
  '& .row-button': {
    font: 'inherit',
    color: 'inherit',
    background: 'none',
    border: 0,
    p: 0,
    cursor: 'inherit',
    textAlign: 'left',
    display: 'inline-block',
    maxWidth: '100%',
    overflow: 'hidden',
    textOverflow: 'ellipsis',
    verticalAlign: 'bottom',
  },
} as const;
