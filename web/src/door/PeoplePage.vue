<script setup lang="ts">
/** People and phones: who signs in, on what they do, and how a phone gets here. */
import { computed } from 'vue'
import { RouterLink } from 'vue-router'
import AccountList from './AccountList.vue'
import ClassList from './ClassList.vue'
import DeviceList from './DeviceList.vue'
import FirstAccount from './FirstAccount.vue'
import PhoneWay from './PhoneWay.vue'
import RemindForm from './RemindForm.vue'
import { account, may, session } from './session'

const alone = computed(() => session.value && !session.value.asked)
</script>

<template>
  <div class="page">
    <p v-if="may('set_up')"><RouterLink class="button plain" to="/set-up">Back to set-up</RouterLink></p>
    <h1>People and phones</h1>
    <template v-if="alone">
      <p class="quiet">Mopsel opens on this computer only, and nobody has to sign in. That is enough for one person.</p>
      <RemindForm />
      <FirstAccount />
    </template>
    <template v-else-if="account">
      <AccountList v-if="may('people')" />
      <ClassList v-if="may('people')" />
      <RemindForm />
      <DeviceList />
      <PhoneWay />
    </template>
  </div>
</template>

<style scoped>
.page {
  display: grid;
  gap: 20px;
  max-width: 860px;
  justify-items: start;
}
.page > * {
  width: 100%;
}
</style>
