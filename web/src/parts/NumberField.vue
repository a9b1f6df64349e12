<script setup lang="ts">
/** A number typed by hand, with comma or point, its unit in sight and its fault below it. */
import { computed, ref, useId, watch } from 'vue'
import { padded } from './pad'

const props = defineProps<{
  label: string
  unit?: string
  wrong?: string | undefined
  hint?: string | undefined
  /** Label and last value beside the number: several of them fit on one screen. */
  row?: boolean
}>()
const value = defineModel<number | null>({ required: true })
const id = useId()
const text = ref(value.value === null ? '' : String(value.value))
const typed = computed(() => Number(text.value.trim().replace(',', '.')))
const unread = computed(() => text.value.trim() !== '' && !Number.isFinite(typed.value))
const fault = computed(() =>
  unread.value ? 'That is not a number. Type digits, with a point or a comma.' : props.wrong,
)

watch(value, (now) => {
  if (now === null && !unread.value && text.value !== '') text.value = ''
  if (now !== null && now !== typed.value) text.value = String(now)
})
function put(event: Event) {
  text.value = (event.target as HTMLInputElement).value
  value.value = text.value.trim() === '' || unread.value ? null : typed.value
}
</script>

<template>
  <div class="field" :class="{ row }">
    <label :for="id">{{ label }}</label>
    <div class="box">
      <input
        :id="id"
        :value="text"
        :inputmode="row && padded ? 'none' : 'decimal'"
        autocomplete="off"
        enterkeyhint="next"
        :class="{ units: !!unit }"
        :data-pad="row || undefined"
        :aria-invalid="!!fault"
        :aria-describedby="`${id}-more`"
        @input="put"
      />
      <span v-if="unit" class="unit">{{ unit }}</span>
    </div>
    <p :id="`${id}-more`" class="more" :class="fault ? 'wrong' : 'quiet small'">{{ fault ?? hint }}</p>
  </div>
</template>

<style scoped>
.box {
  position: relative;
}
input.units {
  padding-right: 76px !important;
}
input {
  font-size: 22px;
  font-weight: 650;
}
.unit {
  position: absolute;
  right: 12px;
  top: 50%;
  transform: translateY(-50%);
  color: var(--ink-2);
  pointer-events: none;
}
.field.row {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 176px);
  gap: 0 12px;
  align-items: center;
}
.field.row .box {
  grid-row: 1 / span 2;
  grid-column: 2;
}
.field.row label {
  align-self: end;
}
.field.row .more {
  align-self: start;
  line-height: 1.25;
}
.field.row input {
  min-height: 52px;
  font-size: 26px;
}
</style>
