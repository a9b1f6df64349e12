import '@fontsource-variable/sofia-sans/wght.css'
import './styles/tokens.css'
import './styles/base.css'
import './styles/controls.css'
import { VUE_QUERY_CLIENT } from '@tanstack/vue-query'
import PrimeVue, { defaultOptions } from 'primevue/config'
import ConfirmationService from 'primevue/confirmationservice'
import ToastService from 'primevue/toastservice'
import { createApp } from 'vue'
import App from './App.vue'
import { dress } from './controls/dress'
import { bringAlong, router } from './router'
import { applyTheme } from './parts/theme'
import { keepPages } from './door/installed'
import { loadSession } from './door/session'
import { makeClient, resume } from './writes/queue'

applyTheme()
void loadSession().catch(() => {})
// Not by the library's plugin: it would ship its development tools.
const client = makeClient()
client.mount()
void resume(client)
createApp(App)
  .use(router)
  .provide(VUE_QUERY_CLIENT, client)
  .use(PrimeVue, {
    unstyled: true,
    pt: dress,
    // The month and the year on their buttons are their names: who speaks to the page says what is seen.
    locale: { ...defaultOptions.locale, firstDayOfWeek: 1, chooseMonth: '', chooseYear: '' },
  })
  .use(ToastService)
  .use(ConfirmationService)
  .mount('#app')
void router.isReady().then(bringAlong)
window.addEventListener('load', () => void keepPages(), { once: true })
