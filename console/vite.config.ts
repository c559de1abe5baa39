/// <reference types="vitest/config" />
import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vite'
import vuetify from 'vite-plugin-vuetify'

export default defineConfig({
  plugins: [vue(), vuetify({ autoImport: true })],
  build: {
    outDir: '../src/wise_ledger/service/console',
    emptyOutDir: true,
    // Every font and icon is a file of its own: the content policy allows no data: fonts.
    assetsInlineLimit: 0,
    chunkSizeWarningLimit: 900,
  },
  server: { proxy: { '/api': 'http://127.0.0.1:8600' } },
  test: {
    server: { deps: { inline: ['vuetify'] } }, // its styles are files of their own
    testTimeout: 60_000, // when to give up, on a machine that does much else
  },
})
