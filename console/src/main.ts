import 'vuetify/styles/core'
import './style.css'
import { createApp, watch } from 'vue'
import { createVuetify } from 'vuetify'
import { aliases, mdi } from 'vuetify/iconsets/mdi-svg'
import App from './App.vue'
import { first } from './first'
import { router } from './router'
import { themes } from './theme'

const vuetify = createVuetify({
  icons: { defaultSet: 'mdi', aliases, sets: { mdi } },
  theme: themes,
  defaults: {
    global: { ripple: false, density: 'comfortable' },
    VBtn: { variant: 'flat', rounded: '6px' },
    VCard: { flat: true, border: true },
    VTextField: { variant: 'outlined', hideDetails: 'auto' },
    VTextarea: { variant: 'outlined', hideDetails: 'auto', rows: 2, autoGrow: true },
    VSelect: { variant: 'outlined', hideDetails: 'auto' },
    VCombobox: { variant: 'outlined', hideDetails: 'auto' },
    VAppBar: { flat: true, density: 'compact' },
  },
})

// The theme as an adopted sheet: no inline style, so the strict policy holds.
const sheet = new CSSStyleSheet()
document.adoptedStyleSheets = [...document.adoptedStyleSheets, sheet]
watch(vuetify.theme.styles, (css: string) => sheet.replaceSync(css), { immediate: true })

createApp(App).use(vuetify).use(router).directive('first', first).mount('#app')
