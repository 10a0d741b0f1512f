import { createTheme, type MantineColorsTuple } from '@mantine/core'

/** The one accent: beet. Shade 7 on paper, and white on shade 6 in the dark, pass AA. */
const beet: MantineColorsTuple = [
  '#faeef3',
  '#f0d5e0',
  '#e3b0c6',
  '#d88fae',
  '#c4658d',
  '#ab3f6c',
  '#942a58',
  '#7d1845',
  '#651238',
  '#4d0c2a',
]

/** Ink greys with the warmth of paper. */
const ink: MantineColorsTuple = [
  '#f7f6f1',
  '#ebe8df',
  '#d9d5ca',
  '#bfbaad',
  '#9c978a',
  '#78746a',
  '#5a574f',
  '#403e39',
  '#2a2926',
  '#1b1c1a',
]

export const theme = createTheme({
  primaryColor: 'beet',
  primaryShade: { light: 7, dark: 6 },
  autoContrast: true,
  luminanceThreshold: 0.3,
  colors: { beet, gray: ink },
  defaultRadius: 2,
  fontFamily: "'Public Sans Variable', system-ui, sans-serif",
  headings: { fontFamily: "'Literata Variable', Georgia, serif", fontWeight: '600' },
  fontSizes: { xs: '0.75rem', sm: '0.84rem', md: '0.93rem', lg: '1.05rem', xl: '1.25rem' },
  focusRing: 'auto',
  cursorType: 'pointer',
})
