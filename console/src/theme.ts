import { createVuetify } from 'vuetify'
import { aliases, mdi } from 'vuetify/iconsets/mdi-svg'

/** The tokens of a well-kept paper ledger; `styles.css` reads them as --v-theme-*. */
const light = {
  background: '#F7F5EF',
  surface: '#FFFFFF',
  'on-background': '#1D2733',
  'on-surface': '#1D2733',
  primary: '#1F6F5C',
  'on-primary': '#FFFFFF',
  ink: '#1D2733',
  soft: '#5B6775',
  rule: '#DDD8CB',
  faint: '#ECE8DD',
  spruce: '#1F6F5C',
  plum: '#6B3F6E',
  brick: '#A63D2F',
  error: '#A63D2F',
  ochre: '#B07A1E',
  'ochre-ink': '#875708',
  chosen: '#EDF4F0',
}

const dark = {
  background: '#14181D',
  surface: '#1B2027',
  'on-background': '#E8E6DF',
  'on-surface': '#E8E6DF',
  primary: '#58B79F',
  'on-primary': '#10231E',
  ink: '#E8E6DF',
  soft: '#9AA5B1',
  rule: '#2C333C',
  faint: '#232A32',
  spruce: '#58B79F',
  plum: '#C39BC6',
  brick: '#E08475',
  error: '#E08475',
  ochre: '#D9AE5F',
  'ochre-ink': '#D9AE5F',
  chosen: '#1D2B2A',
}

const KEPT = 'wise-ledger-theme'

function atFirst(): 'light' | 'dark' {
  const kept = localStorage.getItem(KEPT)
  if (kept === 'light' || kept === 'dark') return kept
  return matchMedia('(prefers-color-scheme: dark)').matches ? 'dark' : 'light'
}

export function keepTheme(name: string): void {
  localStorage.setItem(KEPT, name)
}

export const vuetify = createVuetify({
  theme: {
    defaultTheme: atFirst(),
    themes: { light: { dark: false, colors: light }, dark: { dark: true, colors: dark } },
  },
  icons: { defaultSet: 'mdi', aliases, sets: { mdi } },
  defaults: {
    VBtn: { variant: 'outlined', density: 'comfortable', size: 'default' },
  },
})
