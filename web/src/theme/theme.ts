import { createTheme } from '@mui/material/styles';

const SANS = "'Commissioner Variable', sans-serif";
const flat = { styleOverrides: { root: { boxShadow: 'none', '&:hover': { boxShadow: 'none' } } } };

/** MUI in our own hand: tokens.css holds the colours, this tells MUI of them. */
export const theme = createTheme({
  cssVariables: { colorSchemeSelector: 'data-mode' },
  colorSchemes: {
    light: {
      palette: {
        primary: { main: '#1f6f5c', contrastText: '#ffffff' },
        secondary: { main: '#8e2a62' },
        warning: { main: '#8f5d08' },
        error: { main: '#8e2a62' },
        info: { main: '#3e5f8a' },
        text: { primary: '#1c2a27', secondary: '#56625e' },
        background: { default: '#f6f4ee', paper: '#fffef9' },
        divider: '#dcd7c9',
      },
    },
    dark: {
      palette: {
        primary: { main: '#6fc3ab', contrastText: '#0d1413' },
        secondary: { main: '#e68cba' },
        warning: { main: '#e0a94a' },
        error: { main: '#e68cba' },
        info: { main: '#93b4e0' },
        text: { primary: '#eceae2', secondary: '#aab5b0' },
        background: { default: '#141d1b', paper: '#1b2624' },
        divider: '#34423f',
      },
    },
  },
  shape: { borderRadius: 6 },
  spacing: 8,
  typography: {
    fontFamily: SANS,
    fontSize: 13,
    h1: { fontSize: 20, fontWeight: 650, lineHeight: 1.3 },
    h2: { fontSize: 16, fontWeight: 650, lineHeight: 1.35 },
    h3: { fontSize: 14, fontWeight: 650, lineHeight: 1.4 },
    body1: { fontSize: 14, lineHeight: 1.45 },
    body2: { fontSize: 13, lineHeight: 1.45 },
    button: { textTransform: 'none', fontWeight: 650, fontSize: 13 },
  },
  components: {
    MuiButton: { defaultProps: { disableElevation: true, size: 'small' }, ...flat },
    MuiPaper: { defaultProps: { elevation: 0 }, styleOverrides: { root: { backgroundImage: 'none' } } },
    MuiTooltip: { defaultProps: { arrow: true, enterDelay: 300 } },
    MuiTextField: { defaultProps: { size: 'small' } },
    MuiButtonBase: { defaultProps: { disableRipple: true } },
    // What turns or slides is moved as a whole, by the part of the browser that puts layers together: MUI's own bar is laid out and
    // painted anew in each frame, which takes a third of a core from the work that it stands for.
    MuiCircularProgress: { defaultProps: { disableShrink: true } },
    MuiLinearProgress: {
      styleOverrides: {
        root: {
          '&.MuiLinearProgress-indeterminate > .MuiLinearProgress-bar1': {
            left: 0,
            right: 'auto',
            width: '40%',
            transition: 'none',
            animation: 'slide-across 1.8s linear infinite',
            willChange: 'transform',
          },
          '&.MuiLinearProgress-indeterminate > .MuiLinearProgress-bar2': { display: 'none' },
        },
      },
    },
  },
});
