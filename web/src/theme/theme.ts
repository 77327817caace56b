'use client';

import { createTheme, type Palette, useTheme } from '@mui/material/styles';

/** The sheet's own colours beyond MUI's roles. */
declare module '@mui/material/styles' {
  interface Palette {
    sheet: {
      paper: string;
      ink: string;
      muted: string;
      line: string;
      faint: string;
      tint: string;
      near: string;
      over: string;
      ok: string;
      info: string;
      plate: string;
    };
  }
  interface PaletteOptions {
    sheet?: Palette['sheet'];
  }
}

export const PAPER = {
  paper: '#F4F0E6',
  sheet: '#FCFAF4',
  ink: '#1B2A33',
  muted: '#59676F',
  line: '#D9D1BF',
  faint: '#E8E2D3',
  accent: '#0C706F',
  tint: '#DDEBE6',
  ok: '#3C7A4B',
  near: '#A2650A',
  over: '#B23440',
  info: '#38588A',
  plate: '#F4F0E6',
};
export const NIGHT = {
  paper: '#10191E',
  sheet: '#162229',
  ink: '#E9E4D6',
  muted: '#9DABB1',
  line: '#2F3F47',
  faint: '#24323A',
  accent: '#63BDB4',
  tint: '#1C3A3C',
  ok: '#7DBE8B',
  near: '#DDA552',
  over: '#F08A8F',
  info: '#93B4E2',
  plate: '#121D23',
};

const scheme = (c: typeof PAPER) => ({
  palette: {
    background: { default: c.paper, paper: c.sheet },
    text: { primary: c.ink, secondary: c.muted },
    primary: { main: c.accent, contrastText: c === NIGHT ? '#0B1B1D' : '#FFFFFF' },
    error: { main: c.over },
    warning: { main: c.near },
    success: { main: c.ok },
    info: { main: c.info },
    divider: c.line,
    sheet: {
      paper: c.paper,
      ink: c.ink,
      muted: c.muted,
      line: c.line,
      faint: c.faint,
      tint: c.tint,
      near: c.near,
      over: c.over,
      ok: c.ok,
      info: c.info,
      plate: c.plate,
    },
  },
});

export const SANS = '"Archivo Variable", Archivo, system-ui, sans-serif';
export const MONO = '"Spline Sans Mono Variable", "Spline Sans Mono", ui-monospace, monospace';

export const theme = createTheme({
  cssVariables: { colorSchemeSelector: 'data-sheet' },
  colorSchemes: { light: scheme(PAPER), dark: scheme(NIGHT) },
  shape: { borderRadius: 4 },
  typography: {
    fontFamily: SANS,
    fontSize: 13,
    body1: { fontSize: 13.5, lineHeight: 1.45 },
    body2: { fontSize: 12.5, lineHeight: 1.4 },
    button: { textTransform: 'none', fontWeight: 600, fontSize: 13, letterSpacing: 0 },
    h1: { fontSize: 21, fontWeight: 680, lineHeight: 1.2, letterSpacing: '-0.01em' },
    h2: { fontSize: 15.5, fontWeight: 660, lineHeight: 1.3 },
    h3: { fontSize: 13, fontWeight: 660, lineHeight: 1.4 },
  },
  components: {
    // A bar that glides is drawn sixty times a second for as long as the work takes.
    MuiLinearProgress: { styleOverrides: { bar: { transition: 'none' } } },
    MuiCssBaseline: {
      styleOverrides: {
        html: { fontSynthesis: 'none' },
        body: { fontVariantNumeric: 'tabular-nums' },
        '.narrow': { fontStretch: '84%', fontFamily: SANS },
        '.mono': { fontFamily: MONO, fontVariantNumeric: 'tabular-nums' },
        '@media (prefers-reduced-motion: reduce)': { '*': { transition: 'none !important', animation: 'none !important' } },
      },
    },
    MuiButtonBase: { defaultProps: { disableRipple: true } },
    MuiButton: {
      defaultProps: { disableElevation: true, size: 'small' },
      styleOverrides: {
        root: ({ theme: t }) => ({
          paddingInline: 12,
          minHeight: 30,
          '&:focus-visible': { outline: `2px solid ${t.vars?.palette.primary.main}`, outlineOffset: 2 },
        }),
        contained: ({ theme: t }) => ({
          // Of a button that isn't ready the words can still be read.
          '&.Mui-disabled': { color: t.vars?.palette.text.secondary, background: t.vars?.palette.sheet.faint },
        }),
        outlined: ({ theme: t }) => ({
          '&.Mui-disabled': { color: t.vars?.palette.text.secondary },
          borderColor: t.vars?.palette.text.primary,
          color: t.vars?.palette.text.primary,
          background: t.vars?.palette.background.paper,
        }),
      },
    },
    MuiPaper: { defaultProps: { elevation: 0 }, styleOverrides: { root: { backgroundImage: 'none' } } },
    MuiDialog: { styleOverrides: { paper: ({ theme: t }) => ({ border: `1px solid ${t.vars?.palette.divider}` }) } },
    MuiTextField: { defaultProps: { size: 'small', variant: 'outlined' } },
    MuiOutlinedInput: {
      styleOverrides: {
        root: ({ theme: t }) => ({
          fontSize: 13,
          background: t.vars?.palette.background.paper,
          '& fieldset': { borderColor: t.vars?.palette.divider },
        }),
        input: { paddingBlock: 5.5, paddingInline: 9 },
      },
    },
    MuiSelect: {
      defaultProps: { size: 'small' },
      styleOverrides: { root: { lineHeight: 1.4 }, select: { paddingBlock: 3.5, fontSize: 13 } },
    },
    // What opens stands at once: while it grows, a press and its release can meet two entries, and nothing is chosen.
    MuiMenu: { defaultProps: { transitionDuration: 0 } },
    MuiPopover: { defaultProps: { transitionDuration: 0 } },
    MuiCollapse: { defaultProps: { timeout: 0 } },
    MuiMenuItem: { styleOverrides: { root: { fontSize: 13 } } },
    MuiNativeSelect: { styleOverrides: { select: { minHeight: 0, '&&': { paddingBlock: 3 } } } },
    MuiCheckbox: { defaultProps: { size: 'small' }, styleOverrides: { root: { padding: 3 } } },
    MuiFormControlLabel: { styleOverrides: { root: { marginLeft: -3 }, label: { fontSize: 13 } } },
    MuiTableRow: {
      styleOverrides: {
        root: ({ theme: t }) => ({ '&.Mui-selected, &.Mui-selected:hover': { backgroundColor: t.vars?.palette.sheet.tint } }),
      },
    },
    MuiTableCell: {
      styleOverrides: {
        root: ({ theme: t }) => ({
          padding: '2px 0 2px 6px',
          fontSize: 12,
          lineHeight: 1.5,
          borderBottom: `1px solid ${t.vars?.palette.sheet.faint}`,
          '&:first-of-type': { paddingLeft: 0 },
        }),
        head: ({ theme: t }) => ({ fontWeight: 400, lineHeight: 1.3, color: t.vars?.palette.text.secondary }),
      },
    },
    MuiAlert: {
      styleOverrides: {
        root: ({ theme: t }) => ({
          alignItems: 'center',
          paddingBlock: 2,
          fontSize: 13.5,
          color: t.vars?.palette.text.primary,
          background: t.vars?.palette.background.paper,
          borderLeftWidth: 4,
          variants: [
            { props: { severity: 'info' }, style: { borderColor: t.vars?.palette.primary.main } },
            { props: { severity: 'error' }, style: { borderColor: t.vars?.palette.error.main } },
          ],
        }),
        action: { paddingTop: 0 },
      },
    },
    MuiTooltip: { defaultProps: { enterDelay: 500 } },
    MuiToggleButtonGroup: { defaultProps: { size: 'small', exclusive: true } },
    MuiToggleButton: {
      styleOverrides: {
        root: ({ theme: t }) => ({
          padding: '3px 12px',
          fontSize: 12.5,
          fontWeight: 500,
          lineHeight: 1.5,
          color: t.vars?.palette.text.primary,
          borderColor: t.vars?.palette.divider,
          background: t.vars?.palette.background.paper,
          '&.Mui-selected, &.Mui-selected:hover': { background: t.vars?.palette.text.primary, color: t.vars?.palette.background.paper },
          '&:focus-visible': { outline: `2px solid ${t.vars?.palette.primary.main}`, outlineOffset: 1 },
        }),
      },
    },
  },
});

/** Colours as CSS variables, so that drawings follow the theme without drawing again. */
export function usePalette(): Pick<Palette, 'text' | 'background' | 'primary' | 'error' | 'sheet'> {
  const t = useTheme();
  return t.vars?.palette ?? t.palette;
}
