<script setup lang="ts">
/** Whose the reservoir behind the float valve is, and what part of it flows in here where it fills several systems. */
import { computed } from 'vue'
import type { Schemas } from '../api/client'
import { usePlaces } from '../api/queries'
import NumberField from '../parts/NumberField.vue'
import PickList from '../controls/PickList.vue'

type Given = Pick<Schemas['System'], 'drum_of' | 'drum_share'>
const props = defineProps<{ place: string; system?: string | undefined; wrong: (path: string) => string | undefined }>()
const given = defineModel<Given>({ required: true })
const places = usePlaces()
const beside = computed(() => {
  const here = places.data.value?.find((one) => one.card.id === props.place)
  return (here?.systems ?? []).filter((card) => card.id !== props.system && !card.archived)
})
const others = computed(() =>
  beside.value.flatMap((card) =>
    card.body.card === 'system' && card.body.traits.top_off_reservoir && !card.body.drum_of
      ? [{ key: card.id, name: `That of ${card.body.name}` }]
      : [],
  ),
)
const of = computed({
  get: () => given.value.drum_of,
  set: (id) => (given.value = { ...given.value, drum_of: id ?? null }),
})
const share = computed<number | null>({
  get: () => (given.value.drum_share == null ? null : Math.round(given.value.drum_share * 100)),
  set: (part) => (given.value = { ...given.value, drum_share: part === null ? null : part / 100 }),
})
</script>

<template>
  <div class="fields">
    <PickList
      v-if="others.length || of"
      v-model="of"
      label="Its top-off reservoir"
      :choices="others"
      none="Its own"
      :wrong="wrong('drum_of')"
    />
    <NumberField
      v-if="beside.length || share !== null"
      v-model="share"
      label="Share of the top-off reservoir that flows in here"
      unit="%"
      :hint="of ? 'By the number of plants, if nobody has measured it.' : 'Only where it fills other systems too.'"
      :wrong="wrong('drum_share')"
    />
  </div>
</template>
