import { createTheme, type Theme } from '@mui/material';
import * as common from 'texts/common.json';
import * as wording from 'texts/ui.json';
import type { ThemeName, Tokens } from './tokens';

const SANS = 'B612, "Segoe UI", "DejaVu Sans", sans-serif';

/** What is pressed by a finger is at least as high as one (WCAG 2.2, 2.5.5: 44 CSS pixels). */
const FOR_FINGERS = { '@media (pointer: coarse)': { minHeight: 44, minWidth: 44 } };

export function makeTheme(name: ThemeName, t: Tokens): Theme {
  return createTheme({
    palette: {
      mode: name === 'day' ? 'light' : 'dark',
      primary: { main: t.accent, contrastText: t.accentInk },
      error: { main: t.alert },
      background: { default: t.paper, paper: t.surface },
      text: { primary: t.ink, secondary: t.quiet },
      divider: t.rule,
      action: { selected: t.select },
    },
    typography: {
      fontFamily: SANS,
      fontSize: 13,
      button: { textTransform: 'none' },
      h1: { fontSize: 18, fontWeight: 700, lineHeight: 1.5 },
      h2: { fontSize: 15, fontWeight: 700, lineHeight: 1.5 },
      h3: { fontSize: 13, fontWeight: 700, lineHeight: 1.5 },
      /** Lines that stand out without being headings. */
      subtitle1: { fontSize: 16, fontWeight: 700, lineHeight: 1.5 },
      subtitle2: { fontSize: 13, fontWeight: 700, lineHeight: 1.5 },
      body1: { fontSize: 14, lineHeight: 1.5 },
      body2: { fontSize: 13, lineHeight: 1.5 },
      caption: { fontSize: 12, lineHeight: 1.5 },
    },
    shape: { borderRadius: 4 },
    components: {
      // Nothing ripples or glows; where the focus is says its outline.
      MuiButtonBase: {
        defaultProps: { disableRipple: true },
        styleOverrides: {
          root: { '&:focus-visible': { outline: `2px solid ${t.accent}`, outlineOffset: 1 } },
        },
      },
      MuiButton: { defaultProps: { disableElevation: true }, styleOverrides: { root: FOR_FINGERS } },
      MuiIconButton: { styleOverrides: { root: FOR_FINGERS } },
      MuiMenuItem: { styleOverrides: { root: FOR_FINGERS } },
      MuiAutocomplete: {
        defaultProps: { openText: wording.openTheList, closeText: common.close, clearText: wording.clear },
      },
      MuiTypography: { defaultProps: { variantMapping: { subtitle1: 'p', subtitle2: 'p', caption: 'p' } } },
      MuiSvgIcon: { styleOverrides: { fontSizeSmall: { fontSize: 18 } } },
      MuiDialogTitle: { styleOverrides: { root: { fontSize: 16, fontWeight: 700 } } },
      MuiFormControlLabel: { styleOverrides: { label: { fontSize: 13 } } },
      MuiPaper: { styleOverrides: { root: { backgroundImage: 'none' } } },
      MuiCssBaseline: {
        styleOverrides: {
          'html, body, #root': { height: '100%' },
          ':focus-visible': { outline: `2px solid ${t.accent}`, outlineOffset: 1 },
          // A sheet is printed by itself, drawn for paper: on A4 or A3, whatever is chosen.
          '#printed-sheet': { display: 'none' },
          '@media print': {
            '@page': { size: 'landscape', margin: '10mm' },
            'body:has(#printed-sheet) > :not(#printed-sheet)': { display: 'none !important' },
            '#printed-sheet': { display: 'block' },
            '#printed-sheet svg': { width: '100%', height: '95vh' },
          },
          '@media (prefers-reduced-motion: reduce)': {
            '*': { transition: 'none !important', animation: 'none !important' },
          },
        },
      },
    },
  });
}
