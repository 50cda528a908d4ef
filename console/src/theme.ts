import type { ThemeDefinition } from 'vuetify'

const light: ThemeDefinition = {
  dark: false,
  colors: {
    background: '#F7F4EE', surface: '#FFFFFF', 'on-background': '#1F2A30', 'on-surface': '#1F2A30',
    primary: '#24566B', 'on-primary': '#FFFFFF', secondary: '#7A5C99', 'on-secondary': '#FFFFFF',
    error: '#A02540', 'on-error': '#FFFFFF', warning: '#865A06', 'on-warning': '#FFFFFF',
    success: '#3F6B2A', 'on-success': '#FFFFFF', info: '#24566B', 'on-info': '#FFFFFF',
    proven: '#3F6B2A', marginal: '#865A06', failed: '#A02540', stale: '#56626D', untried: '#6B6257', doubt: '#A3460B', waived: '#6E5090', line: '#D9D3C7',
  },
  variables: { 'border-color': '#1F2A30', 'border-opacity': 0.16, 'medium-emphasis-opacity': 0.78 },
}

const dark: ThemeDefinition = {
  dark: true,
  colors: {
    background: '#12191D', surface: '#1A2328', 'on-background': '#E7E2D8', 'on-surface': '#E7E2D8',
    primary: '#8CC3D8', 'on-primary': '#12191D', secondary: '#C3A8DF', 'on-secondary': '#12191D',
    error: '#F29AAC', 'on-error': '#12191D', warning: '#E7BF6B', 'on-warning': '#12191D',
    success: '#A3CF86', 'on-success': '#12191D', info: '#8CC3D8', 'on-info': '#12191D',
    proven: '#A3CF86', marginal: '#E7BF6B', failed: '#F29AAC', stale: '#A9B4BD', untried: '#BDB3A4', doubt: '#F2A877', waived: '#CDB6E6', line: '#33424B',
  },
  variables: { 'border-color': '#E7E2D8', 'border-opacity': 0.2, 'medium-emphasis-opacity': 0.8 },
}

export const themes = { defaultTheme: 'system', themes: { light, dark } }
