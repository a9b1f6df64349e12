<script setup lang="ts">
import { computed, defineAsyncComponent, ref, watch, type Component } from 'vue'
import { RouterLink, RouterView, useRoute, useRouter } from 'vue-router'
import { account, closed, inClass, may, session, type Act } from './door/session'
import StateBar from './parts/StateBar.vue'
import { asking } from './parts/ask'
import { notices } from './parts/notice'
import TimerBar from './parts/TimerBar.vue'
import { useShortcuts } from './parts/shortcuts'
import { theme, turnTheme } from './parts/theme'

/** Loaded when they are first needed, and again once there is a connection. */
const later = (loader: () => Promise<Component>) =>
  defineAsyncComponent({
    loader,
    onError: (_, retry) => window.addEventListener('online', retry, { once: true }),
  })
const ShortcutSheet = later(() => import('./parts/ShortcutSheet.vue'))
const NoticeBar = later(() => import('./parts/NoticeBar.vue'))
const DoorPage = later(() => import('./door/DoorPage.vue'))
const NotYours = later(() => import('./door/NotYours.vue'))
const AskSheet = later(() => import('./parts/AskSheet.vue'))
const noticed = ref(false)
const asked = ref(false)
watch(notices, () => (noticed.value = true))
watch(asking, () => (asked.value = true))

const router = useRouter()
const route = useRoute()
/** What is typed on a page stays there while somebody signs in again. */
const barred = computed(() => Boolean(session.value && route.meta.act && !may(route.meta.act as Act)))
const shut = computed(() => closed.value && !route.meta.open)
const help = ref(false)
useShortcuts({
  '?': { says: 'Show these shortcuts', run: () => (help.value = true) },
  o: { says: 'Go to the round', run: () => router.push('/') },
  w: { says: 'Go to the weeks ahead', run: () => router.push('/weeks') },
  g: { says: 'Go to the log', run: () => router.push('/log') },
  m: { says: 'Go to the mixing bench', run: () => router.push('/bench') },
  u: { says: 'Go to set-up', run: () => router.push('/set-up') },
  l: { says: 'Turn the light on or off', run: turnTheme },
})
</script>

<template>
  <a class="skip" href="#main">Skip to the page</a>
  <header class="bar">
    <RouterLink class="word" to="/">
      <svg viewBox="0 0 26 22" width="26" height="22" aria-hidden="true">
        <path
          d="M2 2l2.6 18h16.8L24 2"
          fill="none"
          stroke="currentColor"
          stroke-width="2"
          stroke-linejoin="round"
          stroke-linecap="round"
        />
        <path
          d="M3.6 11.6c2.3 0 2.3-1.5 4.7-1.5s2.4 1.5 4.7 1.5 2.4-1.5 4.7-1.5 2.4 1.5 4.7 1.5"
          fill="none"
          stroke="currentColor"
          stroke-width="2"
        />
      </svg>
      <span class="called">Mopsel</span>
    </RouterLink>
    <RouterLink v-if="inClass" class="of-class" to="/room"
      >{{ inClass.place_name }}, until {{ inClass.until }}</RouterLink
    >
    <nav v-else-if="!closed" aria-label="Main">
      <RouterLink to="/">Round</RouterLink>
      <RouterLink to="/weeks">Weeks</RouterLink>
      <RouterLink to="/log">Log</RouterLink>
      <RouterLink to="/bench">Bench</RouterLink>
      <RouterLink v-if="may('set_up') || may('devices')" to="/set-up">Set-up</RouterLink>
    </nav>
    <span class="gap"></span>
    <RouterLink
      v-if="account"
      class="bar-button me"
      to="/people"
      :aria-label="`${account.name}: your devices and people`"
    >
      <svg viewBox="0 0 20 20" width="20" height="20" aria-hidden="true">
        <circle cx="10" cy="6.5" r="3.6" fill="none" stroke="currentColor" stroke-width="2" />
        <path d="M3 18c.6-4 3.4-5.6 7-5.6s6.400 1.600 7 5.600" fill="none" stroke="currentColor" stroke-width="2" />
      </svg>
      <span class="called">{{ account.name }}</span>
    </RouterLink>
    <button
      class="bar-button"
      type="button"
      :aria-label="theme === 'dark' ? 'Light page' : 'Dark page'"
      @click="turnTheme"
    >
      <svg class="lamp" viewBox="0 0 20 20" width="20" height="20" aria-hidden="true">
        <circle cx="10" cy="10" r="7.5" fill="none" stroke="currentColor" stroke-width="2" />
        <path d="M10 2.5a7.5 7.5 0 0 1 0 15z" fill="currentColor" />
      </svg>
      <span class="called">{{ theme === 'dark' ? 'Light' : 'Dark' }}</span>
    </button>
    <button class="bar-button keys" type="button" aria-label="Keyboard shortcuts" @click="help = true">?</button>
  </header>
  <StateBar />
  <TimerBar v-if="!closed" />
  <main v-show="!shut" :id="shut ? undefined : 'main'" tabindex="-1">
    <NotYours v-if="barred" />
    <RouterView v-else />
  </main>
  <main v-if="shut" id="main" tabindex="-1"><DoorPage /></main>
  <ShortcutSheet v-if="help" v-model:open="help" />
  <NoticeBar v-if="noticed" />
  <AskSheet v-if="asked" />
</template>

<style scoped>
.bar {
  display: flex;
  align-items: center;
  gap: 8px;
  max-width: 1240px;
  margin: 0 auto;
  padding: 8px 24px;
  border-bottom: 1px solid var(--line);
}
.word {
  display: inline-flex;
  align-items: center;
  gap: 8px;
  min-height: var(--touch);
  font-weight: 750;
  font-size: 20px;
  letter-spacing: -0.01em;
  color: var(--water-deep);
  text-decoration: none;
}
nav {
  display: flex;
  margin-left: 16px;
}
nav a {
  display: inline-flex;
  align-items: center;
  min-height: var(--touch);
  padding: 0 12px;
  white-space: nowrap;
  color: var(--ink-2);
  text-decoration: none;
  font-weight: 600;
  border-bottom: 3px solid transparent;
  border-top: 3px solid transparent;
}
nav a.router-link-active[aria-current],
nav a.router-link-exact-active {
  color: var(--ink);
  border-bottom-color: var(--water);
}
.gap {
  flex: 1;
}
.bar-button {
  min-width: var(--touch);
  min-height: var(--touch);
  border: 0;
  background: none;
  color: var(--ink-2);
  cursor: pointer;
  font-weight: 600;
}
.of-class {
  display: inline-flex;
  align-items: center;
  min-height: var(--touch);
  margin-left: 12px;
  font-weight: 600;
  color: var(--ink-2);
}
.me {
  display: inline-flex;
  align-items: center;
  justify-content: center;
  gap: 6px;
  max-width: 200px;
  text-decoration: none;
}
.me .called {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.skip {
  position: absolute;
  left: 8px;
  top: -60px;
  background: var(--sheet);
  padding: 12px;
  z-index: 50;
}
.skip:focus {
  top: 8px;
}
@media (min-width: 601px) {
  .lamp {
    display: none;
  }
}
@media (max-width: 600px) {
  .bar {
    padding: 4px 12px;
    gap: 2px;
  }
  .word {
    min-width: var(--touch);
  }
  .called {
    position: absolute;
    width: 1px;
    height: 1px;
    overflow: hidden;
    clip-path: inset(50%);
  }
  nav {
    margin-left: 2px;
  }
  nav a {
    padding: 0 8px;
  }
  .keys {
    display: none;
  }
}
@media (max-width: 360px) {
  .bar {
    padding: 4px 8px;
  }
  .word {
    font-size: 0;
  }
  nav a {
    padding: 0 6px;
  }
}
@media print {
  .bar {
    display: none;
  }
}
@media (max-width: 420px) {
  .bar {
    padding: 4px 6px;
    gap: 0;
  }
  nav a {
    padding: 0 6px;
    font-size: 15px;
  }
  .bar-button {
    padding: 0 8px;
  }
}
@media (max-width: 350px) {
  nav {
    margin-left: 0;
  }
  nav a {
    padding: 0 4px;
    font-size: 14px;
  }
  .bar-button {
    padding: 0 4px;
  }
}
</style>
