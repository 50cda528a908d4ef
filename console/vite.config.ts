import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vite'
import vuetify from 'vite-plugin-vuetify'

export default defineConfig({
  plugins: [vue(), vuetify({ autoImport: true })],
  build: { target: 'es2022', modulePreload: { polyfill: false }, assetsInlineLimit: 0, emptyOutDir: true, manifest: true },
  server: { proxy: { '/api': 'http://127.0.0.1:7440' } },
})
