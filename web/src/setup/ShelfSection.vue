<script setup lang="ts">
/** Products and recipes: what ships, and one's own, which are made in a minute from a label. */
import { computed, ref } from 'vue'
import type { CardView, Schemas } from '../api/client'
import { useShelf } from '../api/queries'
import SheetDialog from '../parts/SheetDialog.vue'
import { notify } from '../parts/notice'
import ProductForm from './ProductForm.vue'
import RecipeForm from './RecipeForm.vue'
import { useCard } from './cards'

defineProps<{ away: boolean }>()
const query = useShelf()
const shelf = computed(() => query.data.value)
const { archive, failed } = useCard()
const product = ref<{ card?: CardView; from?: Schemas['Product'] } | null>(null)
const recipe = ref<{ card?: CardView; from?: Schemas['Recipe'] } | null>(null)
const productOpen = computed({ get: () => product.value !== null, set: () => (product.value = null) })
const recipeOpen = computed({ get: () => recipe.value !== null, set: () => (recipe.value = null) })
const own = <T extends { card?: CardView | null }>(list: T[]) => list.filter((x) => x.card)
const shipped = <T extends { card?: CardView | null }>(list: T[]) => list.filter((x) => !x.card)
const nameOf = (card: CardView) => ('name' in card.body ? card.body.name : '')
const rise = (p: Schemas['ProductView']) =>
  p.learnt_rise != null
    ? `${p.learnt_rise.toFixed(3)} learnt from ${p.batches}`
    : p.label.rise != null
      ? `${p.label.rise} on the label`
      : 'EC rise not known yet'

async function putAway(card: CardView) {
  const after = await archive(card, !card.archived)
  if (!after) return notify(failed.value)
  notify(after.archived ? `${nameOf(card)} is archived.` : `${nameOf(card)} is back.`, async () => {
    await archive(after, !after.archived)
  })
}
</script>

<template>
  <section class="shelf" aria-labelledby="shelf-head">
    <h2 id="shelf-head">Products and recipes</h2>
    <div v-if="shelf" class="columns">
      <div>
        <h3>Products</h3>
        <ul>
          <li v-for="p in own(shelf.products)" :key="p.id">
            <button
              class="button plain name"
              type="button"
              :aria-label="`Edit ${p.label.name}`"
              @click="product = { card: p.card! }"
            >
              {{ p.label.name }}
            </button>
            <span class="small quiet">{{ p.rate_said ?? p.what_said }}; {{ rise(p) }}</span>
            <button
              class="button plain"
              type="button"
              :aria-label="`Archive: ${p.label.name}`"
              @click="putAway(p.card!)"
            >
              Archive
            </button>
          </li>
        </ul>
        <button class="button" type="button" @click="product = {}">Add a product</button>
        <details>
          <summary>{{ shipped(shelf.products).length }} products that come with Mopsel</summary>
          <ul>
            <li v-for="p in shipped(shelf.products)" :key="p.id">
              <span class="name">{{ p.label.name }}</span>
              <span class="small quiet">{{ p.rate_said ?? p.what_said }}</span>
              <button
                class="button plain"
                type="button"
                :aria-label="`Copy ${p.label.name}`"
                @click="product = { from: p.label }"
              >
                Copy
              </button>
            </li>
          </ul>
        </details>
      </div>
      <div>
        <h3>Recipes</h3>
        <ul>
          <li v-for="r in own(shelf.recipes)" :key="r.id">
            <button
              class="button plain name"
              type="button"
              :aria-label="`Edit ${r.recipe.name}`"
              @click="recipe = { card: r.card! }"
            >
              {{ r.recipe.name }}
            </button>
            <button
              class="button plain"
              type="button"
              :aria-label="`Archive: ${r.recipe.name}`"
              @click="putAway(r.card!)"
            >
              Archive
            </button>
          </li>
        </ul>
        <button class="button" type="button" @click="recipe = {}">Add a recipe</button>
        <details>
          <summary>{{ shipped(shelf.recipes).length }} recipes that come with Mopsel</summary>
          <ul>
            <li v-for="r in shipped(shelf.recipes)" :key="r.id">
              <span class="name">{{ r.recipe.name }}</span>
              <button
                class="button plain"
                type="button"
                :aria-label="`Copy ${r.recipe.name}`"
                @click="recipe = { from: r.recipe }"
              >
                Copy
              </button>
            </li>
          </ul>
        </details>
      </div>
    </div>
    <ul v-if="away && shelf?.put_away.length">
      <li v-for="card in shelf.put_away" :key="card.id">
        <span class="name">{{ nameOf(card) }}</span>
        <button class="button plain" type="button" :aria-label="`Bring back: ${nameOf(card)}`" @click="putAway(card)">
          Bring back
        </button>
      </li>
    </ul>
    <SheetDialog v-model:open="productOpen" :title="product?.card ? 'Edit the product' : 'Add a product'">
      <ProductForm v-if="product" v-bind="product" @done="product = null" />
    </SheetDialog>
    <SheetDialog v-model:open="recipeOpen" :title="recipe?.card ? 'Edit the recipe' : 'Add a recipe'">
      <RecipeForm v-if="recipe && shelf" v-bind="recipe" :products="shelf.products" @done="recipe = null" />
    </SheetDialog>
  </section>
</template>

<style scoped>
.shelf {
  border-top: 2px solid var(--ink);
  padding: 12px 0 28px;
}
h2 {
  margin-bottom: 12px;
}
.columns {
  display: grid;
  grid-template-columns: 1.4fr 1fr;
  gap: 32px;
}
.columns > div {
  display: grid;
  gap: 6px;
  align-content: start;
  justify-items: start;
  min-width: 0;
}
ul,
details {
  width: 100%;
}
li {
  display: flex;
  align-items: center;
  gap: 8px;
  min-height: var(--touch);
  border-bottom: 1px solid var(--line);
}
li > .name {
  flex: 1;
  justify-content: flex-start;
  padding-left: 0;
  text-align: left;
  overflow-wrap: anywhere;
}
@media (max-width: 900px) {
  .columns {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
