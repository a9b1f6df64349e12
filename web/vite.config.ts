import vue from '@vitejs/plugin-vue'
import { defineConfig } from 'vite'
import { VitePWA } from 'vite-plugin-pwa'

const here = (path: string) => new URL(path, import.meta.url).pathname

/** What a device keeps to open without a connection: all of the pages, and what was last read with them. */
const kept = VitePWA({
  registerType: 'prompt',
  injectRegister: false,
  manifest: {
    name: 'Mopsel',
    short_name: 'Mopsel',
    description: 'Looks after hydroponic systems: what to do next, how much of what, and why.',
    start_url: '/',
    display: 'standalone',
    background_color: '#f4f4f0',
    theme_color: '#1d6084',
    icons: [
      { src: '/icon-192.png', sizes: '192x192', type: 'image/png' },
      { src: '/icon-512.png', sizes: '512x512', type: 'image/png' },
      { src: '/icon-512.png', sizes: '512x512', type: 'image/png', purpose: 'maskable' },
    ],
  },
  workbox: {
    globPatterns: ['**/*.{js,css,html,svg,png,woff2}'],
    navigateFallback: '/index.html',
    navigateFallbackDenylist: [/^\/api\//, /^\/calendar\//, /^\/healthz/, /\.crt$/],
    cleanupOutdatedCaches: true,
    runtimeCaching: [
      {
        // Who is signed in is never said from memory, nor is what is large and taken along as a file.
        urlPattern: ({ url, request }) =>
          request.method === 'GET' &&
          // What is half done is worse old than not at all: it would be typed, or poured, once more.
          !/\/(draft|put-off|archive)/.test(url.pathname) &&
          /^\/api\/(round|systems|places|knowledge|shelf|outing|timers|log|compare|plantings|labels)/.test(
            url.pathname,
          ),
        handler: 'NetworkFirst',
        options: {
          cacheName: 'mopsel-read',
          // A slow answer is better than an old one: old, a task that was just done looks due.
          networkTimeoutSeconds: 20,
          expiration: { maxEntries: 600 },
          cacheableResponse: { statuses: [200] },
          plugins: [
            {
              cachedResponseWillBeUsed: async ({ cachedResponse }) => {
                if (!cachedResponse) return cachedResponse
                const headers = new Headers(cachedResponse.headers)
                headers.set('Mopsel-Kept', 'yes')
                return new Response(await cachedResponse.blob(), { status: cachedResponse.status, headers })
              },
            },
          ],
        },
      },
    ],
  },
})

export default defineConfig({
  plugins: [vue(), ...kept],
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
