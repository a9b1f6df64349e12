import '@fontsource-variable/sofia-sans/wght.css'
import './styles/tokens.css'
import './styles/base.css'
import { VueQueryPlugin } from '@tanstack/vue-query'
import PrimeVue from 'primevue/config'
import ToastService from 'primevue/toastservice'
import { createApp } from 'vue'
import App from './App.vue'
import { ApiError } from './api/client'
import { router } from './router'
import { applyTheme } from './parts/theme'

applyTheme()
createApp(App)
  .use(router)
  .use(VueQueryPlugin, {
    queryClientConfig: {
      defaultOptions: {
        queries: { staleTime: 2_000, retry: (count, error) => error instanceof ApiError && error.offline && count < 3 },
      },
    },
  })
  .use(PrimeVue, { unstyled: true })
  .use(ToastService)
  .mount('#app')
