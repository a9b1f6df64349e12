<script setup lang="ts">
/** How a phone gets here: the address, and how it learns to trust it. */
import QrCode from './QrCode.vue'
import { useReach } from './reach'

const reach = useReach().data
/** What the device trusts, it may keep pages of. */
const trusted = window.isSecureContext && 'serviceWorker' in navigator
</script>

<template>
  <section v-if="reach" aria-label="On a phone">
    <h2>On a phone</h2>
    <template v-if="reach.addresses.length">
      <div class="way">
        <QrCode :size="reach.size" :path="reach.path" :says="`QR code: ${reach.addresses[0]}`" />
        <div class="says">
          <p class="wide-only">On the same network, point its camera at this, or open one of these:</p>
          <p class="narrow-only">On the same network, a phone opens one of these:</p>
          <ul>
            <li v-for="address in reach.addresses" :key="address">
              <a :href="address">{{ address }}</a>
            </li>
          </ul>
          <template v-if="reach.fingerprint">
            <p>
              The phone shows a warning at first, because it does not know this computer. You can go on anyway. Two
              steps stop the warning:
            </p>
            <ol>
              <li><a href="/mopsel-authority.crt" download>Download this certificate</a> on the phone.</li>
              <li>Install it there as a certificate authority, if the phone shows this SHA-256:</li>
            </ol>
            <code class="print">{{ reach.fingerprint }}</code>
            <p class="small quiet">
              The certificate works on your own network only. Its key stays on this computer, next to your data.
            </p>
          </template>
        </div>
      </div>
    </template>
    <p v-else>
      Only this computer opens Mopsel now. Start it with <code>mopsel serve --lan</code>, and phones on the same network
      open it too.
    </p>
    <p v-if="!trusted && reach.addresses.length" class="small quiet">
      This device does not trust the certificate yet. Mopsel works here, but only with a connection.
    </p>
  </section>
</template>

<style scoped>
section {
  display: grid;
  gap: 10px;
  border-top: 2px solid var(--ink);
  padding-top: 12px;
}
.way {
  display: grid;
  grid-template-columns: 200px minmax(0, 1fr);
  gap: 24px;
  align-items: start;
}
.says {
  display: grid;
  gap: 8px;
}
.says li a {
  display: inline-flex;
  align-items: center;
  min-height: var(--touch);
  overflow-wrap: anywhere;
}
ol {
  padding-left: 20px;
  list-style: decimal;
}
.print {
  overflow-wrap: anywhere;
  font-size: 14px;
}
@media (min-width: 601px) {
  .narrow-only {
    display: none;
  }
}
@media (max-width: 600px) {
  .way {
    grid-template-columns: minmax(0, 1fr);
  }
  .wide-only {
    display: none;
  }
  /* No phone points its camera at itself. */
  .way > svg {
    display: none;
  }
}
</style>
