import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vite'

export default defineConfig({
  plugins: [vue()],
  // PrimeVue runs unstyled; its style injector would only trip over the Content-Security-Policy.
  resolve: { alias: { '@primevue/core/usestyle': new URL('./src/parts/noStyle.ts', import.meta.url).pathname } },
  build: { target: 'es2022', modulePreload: { polyfill: false }, assetsInlineLimit: 0 },
  server: { proxy: { '/api': { target: 'http://127.0.0.1:4180', changeOrigin: true } } },
})
