<script setup lang="ts">
/** Which place a page is about, where there is more than one. */
defineProps<{ names: { key: string; name: string }[] }>()
const place = defineModel<string>({ required: true })
</script>

<template>
  <div v-if="names.length > 1" class="field">
    <label for="place-pick">Place</label>
    <select id="place-pick" v-model="place">
      <option v-for="one in names" :key="one.key" :value="one.key">{{ one.name }}</option>
    </select>
  </div>
</template>
