import { definePreset } from '@primeuix/themes';
import Aura from '@primeuix/themes/aura';

const scale = (main: string, pale: string): Record<string, string> => ({
  50: pale,
  100: pale,
  200: pale,
  300: main,
  400: main,
  500: main,
  600: main,
  700: main,
  800: main,
  900: main,
  950: main,
});

/** A notice in the page's own ink: the shades it comes with are too pale to be read. */
const notice = (edge: string, paper: string): Record<string, string> => ({
  background: paper,
  borderColor: edge,
  color: 'var(--ink)',
  detailColor: 'var(--ink)',
  shadow: 'none',
});
const notices = {
  success: notice('var(--sea)', 'var(--sea-pale)'),
  info: notice('var(--sea)', 'var(--sea-pale)'),
  warn: notice('var(--amber)', 'var(--amber-pale)'),
  error: notice('var(--brick)', 'var(--brick-pale)'),
};

/** PrimeVue's controls in Iskel's colours: square, flat, dense. The tokens are the page's own variables. */
export const theme = {
  preset: definePreset(Aura, {
    primitive: { borderRadius: { none: '0', xs: '2px', sm: '3px', md: '3px', lg: '4px', xl: '4px' } },
    components: {
      toast: { colorScheme: { light: notices, dark: notices } },
      // Its own grey is a shade too dark to be read on dark paper.
      button: { colorScheme: { dark: { outlined: { secondary: { color: '{surface.300}' } } } } },
    },
    semantic: {
      primary: scale('var(--sea)', 'var(--sea-pale)'),
      formField: { paddingX: '0.6rem', paddingY: '0.4rem', shadow: 'none' },
      colorScheme: {
        light: {
          surface: {
            0: '#fbf9f4',
            50: '#f3f0e8',
            100: '#ebe6da',
            200: '#d9d3c4',
            300: '#c6beab',
            400: '#9aa8a8',
            500: '#5e6e70',
            600: '#4b5b5d',
            700: '#1d2b2e',
            800: '#1d2b2e',
            900: '#142022',
            950: '#0d1517',
          },
        },
        dark: {
          surface: {
            0: '#e9e6dc',
            50: '#e9e6dc',
            100: '#d5d2c8',
            200: '#b9bdb6',
            300: '#9dabA9',
            400: '#7d8d8c',
            500: '#5f7071',
            600: '#33413f',
            700: '#33413f',
            800: '#243134',
            900: '#1b2629',
            950: '#141d1f',
          },
        },
      },
    },
  }),
  options: { darkModeSelector: 'system' },
};
