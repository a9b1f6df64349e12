<script setup lang="ts">
/** A link that is told once: as a code to point a camera at, and as text to be sent. */
import { ref } from 'vue'
import type { Schemas } from '../api/client'
import { dayAndTime } from '../parts/placeTime'
import QrCode from './QrCode.vue'
import { isHereOnly } from './reach'

const props = defineProps<{ link: Schemas['LinkMade']; name: string; origin: string }>()
const address = props.origin + props.link.address
const copied = ref(false)
async function copy() {
  try {
    await navigator.clipboard.writeText(address)
    copied.value = true
  } catch {
    // The address stands in the field, to be copied by hand.
  }
}
const here = isHereOnly(props.origin)
</script>

<template>
  <div class="link">
    <p>
      {{ name }} opens it on their own device and chooses a password. It works once, until {{ dayAndTime(link.ends) }}.
    </p>
    <QrCode :size="link.size" :path="link.path" :says="`QR code: a link for ${name}`" />
    <div class="row">
      <label class="hidden" for="link-address">The link</label>
      <input id="link-address" readonly :value="address" @focus="($event.target as HTMLInputElement).select()" />
      <button class="button" type="button" @click="copy">{{ copied ? 'Copied' : 'Copy' }}</button>
    </div>
    <p v-if="here" class="note small">
      It opens on this computer only. Start Mopsel with <code>--lan</code> to let phones in.
    </p>
    <p class="small quiet">Anyone with this link can use it. Show it to {{ name }} only.</p>
  </div>
</template>

<style scoped>
.link {
  display: grid;
  gap: 14px;
}
.row {
  display: flex;
  gap: 8px;
}
.row input {
  flex: 1;
  min-width: 0;
}
.note {
  padding: 8px 14px;
  border-left: 4px solid var(--watch);
  background: var(--watch-wash);
}
</style>
