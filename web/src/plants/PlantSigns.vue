<script setup lang="ts">
/** First where, then what: the part of the plant is picked, and what can be seen there is offered. */
import { computed, ref, watch } from 'vue'
import type { Schemas } from '../api/client'
import { useChoices, useKnowledge } from '../api/queries'
import PlantPart from './PlantPart.vue'
import SignDrawing from './SignDrawing.vue'

const plants = defineModel<Schemas['Plants'] | null | undefined>({ required: true })
const { data: knowledge } = useKnowledge()
const choices = useChoices()
type Part = Schemas['Where']
type Sign = Schemas['PlantSign']
const parts = computed(() => choices<Part>('plant_part'))
const signs = computed(() => plants.value?.signs ?? [])
const at = (part: Part) => (knowledge.value?.signs ?? []).filter((sign) => sign.where === part)
const seenAt = (part: Part) => at(part).filter((sign) => signs.value.includes(sign.key)).length
const open = ref<Part | null>(null)
/** What was seen stays in sight when the visit is taken up again. */
watch(
  () => knowledge.value && signs.value[0],
  (first) => {
    if (first && !open.value) open.value = knowledge.value?.signs.find((sign) => sign.key === first)?.where ?? null
  },
  { immediate: true },
)
const said = computed(() =>
  (knowledge.value?.signs ?? []).filter((sign) => signs.value.includes(sign.key)).map((sign) => sign.say),
)
const sound = computed(() => !!plants.value && signs.value.length === 0)

function allSound() {
  open.value = null
  plants.value = sound.value ? null : { signs: [] }
}
function turn(sign: Sign) {
  const there = signs.value.includes(sign)
  const now = there ? signs.value.filter((one) => one !== sign) : [...signs.value, sign]
  const absent = (plants.value?.absent ?? []).filter((one) => one !== sign)
  if (!now.length) return (plants.value = null)
  plants.value = { ...plants.value, signs: now, absent }
}
</script>

<template>
  <div class="signs">
    <button class="chip all" type="button" :aria-pressed="sound" @click="allSound">All look sound</button>
    <p id="where" class="small quiet">Or pick where you see something:</p>
    <div class="parts" role="group" aria-labelledby="where">
      <button
        v-for="part in parts"
        :key="part.key"
        class="part"
        type="button"
        :aria-expanded="open === part.key"
        :class="{ has: seenAt(part.key) }"
        @click="open = open === part.key ? null : part.key"
      >
        <PlantPart :part="part.key" />
        <span>{{ part.name }}</span>
        <span v-if="seenAt(part.key)" class="count">{{ seenAt(part.key) }} <span class="hidden">seen there</span></span>
      </button>
    </div>
    <div v-if="open" class="chips" role="group" :aria-label="parts.find((part) => part.key === open)?.name">
      <button
        v-for="sign in at(open)"
        :key="sign.key"
        class="chip drawn"
        type="button"
        :aria-pressed="signs.includes(sign.key)"
        @click="turn(sign.key)"
      >
        <SignDrawing :sign="sign.key" />
        <span>
          {{ sign.say }}
          <span v-if="sign.mm" class="size"
            >about {{ sign.mm }} mm: <span class="bar" aria-hidden="true" :style="{ width: `${sign.mm}mm` }"></span
          ></span>
        </span>
      </button>
    </div>
    <p v-if="said.length" class="said"><strong>Seen:</strong> {{ said.join('; ') }}</p>
  </div>
</template>

<style scoped>
.signs {
  display: grid;
  gap: 10px;
}
.all {
  justify-self: start;
}
.parts {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(80px, 1fr));
  gap: 8px;
}
.part {
  position: relative;
  display: grid;
  justify-items: center;
  align-content: start;
  gap: 2px;
  padding: 8px 6px;
  border: 1px solid var(--line-2);
  border-radius: 4px;
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
  line-height: 1.2;
  text-align: center;
  cursor: pointer;
}
.part[aria-expanded='true'] {
  border-color: var(--water-deep);
  box-shadow: inset 0 0 0 2px var(--water-deep);
}
.has {
  background: var(--water-wash);
}
.count {
  position: absolute;
  top: 4px;
  right: 6px;
  min-width: 22px;
  padding: 1px 6px;
  border-radius: 11px;
  background: var(--water-deep);
  color: var(--on-water);
  font-weight: 650;
}
.said {
  font-weight: 500;
}
.chip.drawn {
  display: inline-flex;
  align-items: center;
  gap: 8px;
  text-align: left;
}
.size {
  display: block;
  font-size: 14px;
  white-space: nowrap;
}
/* As long as the animal is. */
.size .bar {
  display: inline-block;
  height: 5px;
  border-radius: 2px;
  background: currentColor;
}
</style>
