<script setup lang="ts">
/** What the EC figures of a meter stand for: asked once, and never guessed. */
import { useId } from 'vue'
import type { Schemas } from '../api/client'
import { useChoices } from '../api/queries'

const scale = defineModel<Schemas['EcScale'] | ''>({ required: true })
const choices = useChoices()
const id = useId()
</script>

<template>
  <div class="field">
    <label :for="id">What its EC figures stand for</label>
    <select :id="id" v-model="scale" required>
      <option value="" disabled>Look on the meter or in its leaflet</option>
      <option v-for="e in choices('ec_scale')" :key="e.key" :value="e.key">{{ e.name }}</option>
    </select>
  </div>
</template>
