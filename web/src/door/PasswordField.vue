<script setup lang="ts">
/** A password, shown while it is typed if that is wished. */
import { ref } from 'vue'

const text = defineModel<string>({ required: true })
const props = withDefaults(
  defineProps<{ label?: string; wrong?: string; hint?: string; chosen?: boolean; name: string }>(),
  { label: 'Password', wrong: '', hint: '', chosen: false },
)
const shown = ref(false)
</script>

<template>
  <div class="field">
    <label :for="props.name">{{ label }}</label>
    <div class="row">
      <input
        :id="props.name"
        v-model="text"
        :type="shown ? 'text' : 'password'"
        :autocomplete="chosen ? 'new-password' : 'current-password'"
        :aria-describedby="`${props.name}-says`"
        :aria-invalid="wrong ? true : undefined"
        autocapitalize="off"
        spellcheck="false"
        maxlength="200"
        required
      />
      <button
        class="button"
        type="button"
        :aria-pressed="shown"
        :aria-label="shown ? 'Hide the password' : 'Show the password'"
        @click="shown = !shown"
      >
        {{ shown ? 'Hide' : 'Show' }}
      </button>
    </div>
    <p :id="`${props.name}-says`">
      <span v-if="wrong" class="wrong" role="alert">{{ wrong }}</span>
      <span v-else-if="hint" class="small quiet">{{ hint }}</span>
    </p>
  </div>
</template>

<style scoped>
.row {
  display: flex;
  gap: 8px;
}
.row input {
  flex: 1;
  min-width: 0;
}
</style>
