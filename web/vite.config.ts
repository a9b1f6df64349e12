import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vite'

const here = (path: string) => new URL(path, import.meta.url).pathname

export default defineConfig({
  plugins: [vue()],
  resolve: {
    alias: [
      // PrimeVue runs unstyled; its style injector would only trip over the Content-Security-Policy.
      { find: '@primevue/core/usestyle', replacement: here('./src/parts/noStyle.ts') },
      { find: /^@primeuix\/styles.*/, replacement: here('./src/parts/noStyles.ts') },
      // The query library's development tools are not shipped.
      { find: /^\.\/devtools\/devtools(\.js)?$/, replacement: here('./src/parts/noTools.ts') },
    ],
  },
  build: { target: 'es2022', modulePreload: { polyfill: false }, assetsInlineLimit: 0 },
  server: { proxy: { '/api': { target: 'http://127.0.0.1:4180', changeOrigin: true } } },
})
