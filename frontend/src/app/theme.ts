import { createTheme, type Theme } from '@mui/material/styles';

import type { Light } from './light';

/** The colours of a chart; `sheet.css` holds the same as variables. */
export interface ChartColours {
  paper: string;
  ink: string;
  soft: string;
  mark: string;
  stone: string;
  /** Depth tints from the thinnest wall on. By night the shoals shine, as by day they darken. */
  shoals: readonly [string, string, string, string];
  /** Ink that can be read on each tint, and on stone. */
  inks: readonly [string, string, string, string, string];
}

export const CHARTS: Record<Light, ChartColours> = {
  day: {
    paper: '#fbf9ee',
    ink: '#20242c',
    soft: '#555b66',
    mark: '#a3155f',
    stone: '#e2dbc8',
    shoals: ['#2f6b94', '#689ec0', '#a0c6d8', '#d0e2e4'],
    inks: ['#fbf9ee', '#20242c', '#20242c', '#20242c', '#20242c'],
  },
  night: {
    paper: '#10202c',
    ink: '#ece6d3',
    soft: '#a9b3b4',
    mark: '#ff8abb',
    stone: '#49545c',
    shoals: ['#a5e3ff', '#5fb2db', '#2b678c', '#2b5068'],
    inks: ['#10202c', '#10202c', '#ece6d3', '#ece6d3', '#ece6d3'],
  },
};

/** The component library in the colours of a chart. */
export function themeFor(light: Light): Theme {
  const { paper, ink, soft, mark } = CHARTS[light];
  return createTheme({
    palette: {
      mode: light === 'day' ? 'light' : 'dark',
      primary: { main: ink },
      secondary: { main: mark },
      background: { default: paper, paper },
      text: { primary: ink, secondary: soft },
    },
    shape: { borderRadius: 0 },
    typography: {
      fontFamily: "'Atkinson Hyperlegible Next Variable', sans-serif",
      fontSize: 13,
      button: { textTransform: 'none', fontWeight: 600 },
    },
    components: {
      MuiButtonBase: { defaultProps: { disableRipple: true } },
      MuiPaper: {
        defaultProps: { elevation: 0 },
        styleOverrides: { root: { border: `1px solid ${ink}`, backgroundImage: 'none' } },
      },
      MuiDialog: { styleOverrides: { paper: { boxShadow: 'none' } } },
      MuiPopover: { styleOverrides: { paper: { boxShadow: 'none' } } },
      MuiTextField: { defaultProps: { size: 'small', variant: 'standard' } },
      MuiSelect: { defaultProps: { size: 'small', variant: 'standard' } },
    },
  });
}
