<script setup lang="ts">
/** The plantings of a system: added, edited, put away. */
import { computed, ref } from 'vue'
import type { CardView } from '../api/client'
import { useSystem } from '../api/queries'
import { meterScale } from '../api/units'
import SheetDialog from '../parts/SheetDialog.vue'
import { notify } from '../parts/notice'
import PlantGoes from './PlantGoes.vue'
import PlantingForm from './PlantingForm.vue'
import { useCard } from './cards'

const props = defineProps<{ system: CardView }>()
const query = useSystem(computed(() => props.system.id))
const plantings = computed(() => query.data.value?.plantings.filter((p) => !p.archived) ?? [])
/** What a planting is set up in. */
const around = computed(() => ({
  system: props.system,
  others: plantings.value,
  zone: query.data.value?.place_body.zone ?? 'UTC',
  scale: query.data.value ? meterScale(query.data.value) : ('ms_cm' as const),
}))
/** Counts up where a form is begun anew. */
const turn = ref(0)
const { archive, failed } = useCard()
const adding = ref(false)
const editing = ref<CardView | null>(null)
const open = computed({ get: () => editing.value !== null, set: () => (editing.value = null) })
const going = ref<CardView | null>(null)
const gone = computed({ get: () => going.value !== null, set: () => (going.value = null) })
const say = (card: CardView) =>
  card.body.card === 'planting'
    ? `${card.body.stage}, ${/[-,]/.test(card.body.ports) ? 'ports' : 'port'} ${card.body.ports}`
    : ''
const name = (card: CardView) => (card.body.card === 'planting' ? card.body.crop : '')
async function putAway(card: CardView) {
  const after = await archive(card, true)
  if (!after) return notify(failed.value)
  notify(`${name(card)} is archived.`, async () => {
    await archive(after, false)
  })
}
</script>

<template>
  <section class="part" aria-labelledby="plant-head">
    <h2 id="plant-head">What grows in it</h2>
    <ul>
      <li v-for="p in plantings" :key="p.id">
        <button class="button plain" type="button" :aria-label="`Edit ${name(p)}`" @click="editing = p">
          {{ name(p) }}
        </button>
        <span class="quiet">{{ say(p) }}</span>
        <button class="button plain" type="button" :aria-label="`What became of it: ${name(p)}`" @click="going = p">
          What became of it
        </button>
        <button class="button plain" type="button" :aria-label="`Archive: ${name(p)}`" @click="putAway(p)">
          Archive
        </button>
      </li>
    </ul>
    <p v-if="plantings.length === 0" class="quiet">
      Nothing yet. What grows here decides how strong the water should be.
    </p>
    <PlantingForm
      v-if="query.data.value && (plantings.length === 0 || adding)"
      :key="`${plantings.length}.${turn}`"
      v-bind="around"
      @done="adding = false"
      @again="turn++"
    />
    <button v-else-if="query.data.value" class="button" type="button" @click="adding = true">Plant something</button>
    <SheetDialog v-model:open="open" title="Edit a planting"
      ><PlantingForm v-if="editing" v-bind="around" :card="editing" @done="editing = null"
    /></SheetDialog>
    <SheetDialog v-model:open="gone" :title="going ? `What became of ${name(going)}?` : ''"
      ><PlantGoes v-if="going" :system="system" :card="going" @done="going = null"
    /></SheetDialog>
  </section>
</template>

<style scoped>
.part {
  display: grid;
  gap: 10px;
  justify-items: start;
}
ul {
  width: 100%;
}
li {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0 12px;
  border-bottom: 1px solid var(--line);
}
li span {
  flex: 1 1 auto;
}
</style>
