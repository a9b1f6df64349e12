<script setup lang="ts">
/** A leaf with what is seen on it, from above; what sits beneath is drawn on a leaf turned over. */
import { computed } from 'vue'

const props = defineProps<{ sign: string }>()
const LEAF = 'M3 16C11 3 34 3 45 16C34 29 11 29 3 16Z'
/** Which signs have a leaf of their own, and how it is coloured. */
const BASE: Record<string, string> = {
  lower_leaves_yellow: 'yellow',
  yellow_between_veins_old: 'yellow',
  yellow_between_veins_young: 'yellow',
  purple_old_leaves: 'purple',
  old_edges_brown: '',
  first_leaves_fade: 'pale',
  bleached_tops: 'pale',
  brown_tips: '',
  dark_stiff_leaves: 'dark',
  scorched_patches: '',
  clusters_under_leaves: 'under',
  fine_webs: '',
  silver_streaks: '',
  white_flies: 'under',
  white_powder: '',
  grey_fur: '',
}
const base = computed(() => BASE[props.sign])
const green = computed(() => /^yellow_between/.test(props.sign))
</script>

<template>
  <svg v-if="base !== undefined" class="sign" viewBox="0 0 48 32" aria-hidden="true">
    <path :d="LEAF" class="leaf" :class="base" />
    <path
      class="vein"
      :class="{ green, under: base === 'under' }"
      d="M3 16H45M13 16l6-7M13 16l6 7M24 16l6-7M24 16l6 7"
    />
    <path v-if="sign === 'old_edges_brown'" class="burn" :d="LEAF" />
    <path v-if="sign === 'brown_tips'" class="brown" d="M36 9Q42 12 45 16Q42 20 36 23Q39 16 36 9Z" />
    <g v-if="sign === 'scorched_patches'" class="brown">
      <ellipse cx="17" cy="11" rx="4" ry="2.5" />
      <ellipse cx="29" cy="20" rx="5" ry="3" />
      <ellipse cx="35" cy="12" rx="2.5" ry="1.8" />
    </g>
    <g v-if="sign === 'clusters_under_leaves'" class="pest">
      <circle v-for="n in 9" :key="n" :cx="17 + (n % 3) * 3.4" :cy="9 + Math.floor((n - 1) / 3) * 3" r="1.3" />
      <circle v-for="n in 5" :key="`b${n}`" :cx="30 + (n % 3) * 2.8" :cy="20 + (n % 2) * 2.6" r="1.3" />
    </g>
    <path
      v-if="sign === 'fine_webs'"
      class="web"
      d="M8 8L40 24M8 24L40 8M20 4L26 28M14 6Q22 14 36 10M12 22Q24 16 38 22M18 26Q26 20 34 26"
    />
    <path v-if="sign === 'silver_streaks'" class="silver" d="M12 11l8 2M20 20l10 1M28 10l8 3M15 17l6 1" />
    <g v-if="sign === 'white_flies'" class="fly">
      <path v-for="n in 4" :key="n" :d="`M${9 + n * 7} ${n % 2 ? 9 : 21}l3 -3v6z`" />
    </g>
    <g v-if="sign === 'white_powder'" class="fly">
      <circle v-for="n in 10" :key="n" :cx="9 + n * 3" :cy="[11, 18, 14, 21][n % 4]!" :r="1.6 + (n % 3) * 0.5" />
    </g>
    <path
      v-if="sign === 'grey_fur'"
      class="fur"
      d="M14 10l-2-5M17 9l0-5M20 9l2-5M23 8l1-4M15 20l-3 4M19 22l-1 5M23 22l2 5M27 22l3 4"
    />
  </svg>
</template>

<style scoped>
.sign {
  width: 42px;
  height: 28px;
  flex: none;
}
.leaf {
  fill: #a9c59a;
  stroke: #44603a;
  stroke-width: 1.2;
}
.leaf.under {
  fill: #c9dabd;
}
.leaf.yellow {
  fill: #ecd77a;
}
.leaf.pale {
  fill: #f3efd8;
}
.leaf.purple {
  fill: #8d6f95;
}
.leaf.dark {
  fill: #55734c;
}
.vein {
  fill: none;
  stroke: #44603a;
  stroke-width: 0.9;
}
.vein.green {
  stroke: #47763a;
  stroke-width: 2.4;
}
.vein.under {
  stroke-width: 2;
}
.burn {
  fill: none;
  stroke: #8a5a2b;
  stroke-width: 3.2;
}
.brown {
  fill: #8a5a2b;
}
.pest {
  fill: #33402c;
}
.web {
  fill: none;
  stroke: #f7f7f2;
  stroke-width: 0.8;
}
.silver {
  fill: none;
  stroke: #f2f2ee;
  stroke-width: 1.8;
}
.fly {
  fill: #ffffff;
  stroke: #6d7a66;
  stroke-width: 0.5;
}
.fur {
  fill: none;
  stroke: #6b6b66;
  stroke-width: 1.4;
}
</style>
