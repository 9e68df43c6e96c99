import { createTheme } from '@mui/material/styles';

/** The colours of the day chart; `sheet.css` holds the same as variables. */
export const chartColours = {
  paper: '#fbf9ee',
  ink: '#20242c',
  soft: '#555b66',
  buff: '#ede3bf',
  mark: '#a3155f',
  deep: '#f4efdf',
  stone: '#e2dbc8',
  shoals: ['#2f6b94', '#689ec0', '#a0c6d8', '#d0e2e4'],
} as const;

export const theme = createTheme({
  palette: {
    mode: 'light',
    primary: { main: chartColours.ink },
    secondary: { main: chartColours.mark },
    background: { default: chartColours.paper, paper: chartColours.paper },
    text: { primary: chartColours.ink, secondary: chartColours.soft },
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
      styleOverrides: { root: { border: `1px solid ${chartColours.ink}` } },
    },
    MuiTextField: { defaultProps: { size: 'small', variant: 'standard' } },
    MuiSelect: { defaultProps: { size: 'small', variant: 'standard' } },
  },
});
