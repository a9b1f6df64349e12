<script setup lang="ts">
/** What grows in which ports. A shipped crop fills in how it feeds; any other is typed with its group. */
import { computed, reactive, ref, watch } from 'vue'
import type { CardView, Schemas } from '../api/client'
import { useKnowledge } from '../api/queries'
import FailNote from './FailNote.vue'
import HoldsField from './HoldsField.vue'
import { useCard } from './cards'

const props = defineProps<{ system: CardView; card?: CardView }>()
const emit = defineEmits<{ done: [] }>()
const { create, edit, fault, holdsFault, failed, current, yours, busy } = useCard()
const { data: knowledge } = useKnowledge()
const body = props.card?.body.card === 'planting' ? props.card.body : null
const ports = props.system.body.card === 'system' ? props.system.body.ports : 1
const form = reactive<Schemas['Planting']>({
  crop: body?.crop ?? '',
  group: body?.group ?? 'leafy',
  ports: body?.ports ?? (ports > 1 ? `1-${ports}` : '1'),
  stage: body?.stage ?? 'seedling',
  sown_on: body?.sown_on ?? null,
  planted_on: body?.planted_on ?? new Date().toLocaleDateString('sv'),
  note: body?.note ?? null,
})
const known = computed(() =>
  knowledge.value?.crops.find((c) => c.name.toLowerCase() === form.crop.trim().toLowerCase()),
)
watch(known, (crop) => crop && (form.group = crop.group))
const STAGES: Schemas['Stage'][] = [
  'germinating',
  'seedling',
  'vegetative',
  'flowering',
  'fruiting',
  'ripening',
  'done',
]
const holds = ref<Schemas['Holds'] | null>(null)
async function send() {
  const planting = { card: 'planting' as const, ...form, sown_on: form.sown_on || null }
  const card = props.card ? await edit(props.card, planting, holds.value) : await create(props.system.id, planting)
  if (card) emit('done')
}
</script>

<template>
  <form class="form" @submit.prevent="send">
    <div class="fields">
      <div class="field">
        <label for="crop">Crop</label>
        <input id="crop" v-model="form.crop" list="crops" required maxlength="80" autocomplete="off" />
        <datalist id="crops"><option v-for="c in knowledge?.crops ?? []" :key="c.name" :value="c.name" /></datalist>
        <p class="wrong">{{ fault('crop') }}</p>
      </div>
      <div class="field">
        <label for="group">Feeds like</label>
        <select id="group" v-model="form.group" :disabled="!!known">
          <option value="leafy">Leafy greens</option>
          <option value="herb">Herbs</option>
          <option value="fruiting">Fruiting crops</option>
          <option value="flower">Flowers</option>
        </select>
      </div>
      <div class="field">
        <label for="ports">In ports (of 1-{{ ports }})</label>
        <input id="ports" v-model="form.ports" required autocomplete="off" />
        <p class="wrong">{{ fault('ports') }}</p>
      </div>
      <div class="field">
        <label for="stage">Stage</label>
        <select id="stage" v-model="form.stage">
          <option v-for="s in STAGES" :key="s" :value="s">{{ s }}</option>
        </select>
      </div>
      <div class="field">
        <label for="planted">Planted on</label>
        <input id="planted" v-model="form.planted_on" type="date" required />
        <p class="wrong">{{ fault('planted_on') }}</p>
      </div>
      <div class="field">
        <label for="sown">Sown, if known</label>
        <input id="sown" v-model="form.sown_on" type="date" />
        <p class="wrong">{{ fault('sown_on') }}</p>
      </div>
    </div>
    <HoldsField v-if="card" v-model="holds" :began="form.planted_on" :wrong="holdsFault" />
    <FailNote :failed="failed" :current="current" :yours="yours" />
    <button class="button main" type="submit" :disabled="busy">{{ card ? 'Keep' : 'Plant it' }}</button>
  </form>
</template>

<style scoped>
.form {
  display: grid;
  gap: 12px;
}
</style>
