import '@fontsource/jetbrains-mono/400.css'
import '@fontsource/source-sans-3/400.css'
import '@fontsource/source-sans-3/600.css'
import '@fontsource/source-serif-4/600.css'
import 'vuetify/styles/layers'
import 'vuetify/styles/core'
import './styles.css'

import { createPinia } from 'pinia'
import { createApp } from 'vue'

import App from './App.vue'
import { readWhole } from './figures/whole'
import { router } from './router'
import { vuetify } from './theme'

readWhole(document)
createApp(App).use(createPinia()).use(router).use(vuetify).mount('#app')
