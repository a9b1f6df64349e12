<script setup lang="ts">
/** The accounts that one decides over: whom each is, a link to choose a password, and an end. */
import { useQuery } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import { api, ApiError, ask, type Schemas } from '../api/client'
import { usePlaces } from '../api/queries'
import LoadState from '../parts/LoadState.vue'
import SheetDialog from '../parts/SheetDialog.vue'
import { notify } from '../parts/notice'
import AccountForm from './AccountForm.vue'
import LinkSheet from './LinkSheet.vue'
import { adultsOf } from './adults'
import { roleOf } from './roles'
import { isHereOnly, useReach } from './reach'
import { account, loadSession } from './session'

type Account = Schemas['AccountView']
const places = usePlaces()
const reach = useReach().data
/** The address under which others open a link. */
const origin = computed(() =>
  isHereOnly(location.origin) ? (reach.value?.addresses[0] ?? location.origin) : location.origin,
)
const query = useQuery({ queryKey: ['accounts'], queryFn: () => ask(api.GET('/api/accounts')) })
const accounts = computed(() => query.data.value ?? [])
/** Whom somebody may be who has no account yet. */
const free = (but?: Account) => {
  const taken = new Set(
    accounts.value.filter((one) => one.id !== but?.id).flatMap((one) => one.people.map((p) => p.person)),
  )
  return adultsOf(places.data.value ?? []).filter((one) => !taken.has(one.person))
}
const editing = ref<{ account?: Account }>()
const linked = ref<{ name: string; origin: string; link: Schemas['LinkMade'] }>()
const formOpen = computed({ get: () => editing.value !== undefined, set: () => (editing.value = undefined) })
const linkOpen = computed({ get: () => linked.value !== undefined, set: () => (linked.value = undefined) })

async function link(one: Account) {
  try {
    const at = origin.value
    const params = { path: { id: one.id }, query: { at } }
    linked.value = { name: one.name, origin: at, link: await ask(api.POST('/api/accounts/{id}/link', { params })) }
  } catch (error) {
    notify(error instanceof ApiError ? error.message : String(error))
  }
}
async function made(one: Account) {
  editing.value = undefined
  await query.refetch()
  // Whom oneself is now holds at once.
  if (one.id === account.value?.id) await loadSession()
  if (!one.ready) await link(one)
}
async function end(one: Account) {
  const body = { version: one.version, name: one.name, owner: one.owner, people: one.people.map((p) => p.person) }
  const path = { id: one.id }
  const put = (version: number, archived: boolean) =>
    ask(api.PUT('/api/accounts/{id}', { params: { path }, body: { ...body, version, archived } }))
  try {
    const after = await put(one.version, true)
    notify(`${one.name} is signed out everywhere, and does not sign in any more.`, async () => {
      await put(after.version, false)
      await query.refetch()
    })
    await query.refetch()
  } catch (error) {
    notify(error instanceof ApiError ? error.message : String(error))
  }
}
/** What they do, and where, in one line. */
function roles(one: Account) {
  const by = new Map<string, string[]>()
  for (const at of one.people) {
    // Whoever looks after everything looks after each place.
    if (one.owner && at.role === 'caretaker') continue
    const does = roleOf(at.role).does
    by.set(does, [...(by.get(does) ?? []), at.place_name])
  }
  return [...by].map(([does, where]) => `${does} ${where.join('; ')}`).join(', ')
}
</script>

<template>
  <section aria-label="Accounts">
    <header>
      <h2>Who signs in</h2>
      <button class="button main" type="button" @click="editing = {}">Let somebody in</button>
    </header>
    <LoadState v-if="!query.data.value" :error="query.error.value" @again="query.refetch()" />
    <ul v-else>
      <li v-for="one in accounts" :key="one.id">
        <div class="of">
          <strong>{{ one.name }}</strong>
          <span class="small">
            <template v-if="one.owner">looks after everything<template v-if="roles(one)">; </template></template
            >{{ roles(one) }}<template v-if="!one.owner && !roles(one)">is at no place yet</template>
          </span>
          <span v-if="!one.ready" class="small quiet">has not chosen a password yet</span>
        </div>
        <div class="doing">
          <button
            class="button plain"
            type="button"
            :aria-label="`Edit ${one.name}`"
            @click="editing = { account: one }"
          >
            Edit
          </button>
          <button
            class="button plain"
            type="button"
            :aria-label="`${one.ready ? 'New password' : 'New link'} for ${one.name}`"
            @click="link(one)"
          >
            {{ one.ready ? 'New password' : 'New link' }}
          </button>
          <button
            v-if="one.id !== account?.id"
            class="button plain"
            type="button"
            :aria-label="`End the account of ${one.name}`"
            @click="end(one)"
          >
            End
          </button>
        </div>
      </li>
    </ul>
    <SheetDialog v-model:open="formOpen" :title="editing?.account ? `Edit ${editing.account.name}` : 'Let somebody in'">
      <AccountForm
        v-if="editing"
        :people="free(editing.account)"
        v-bind="editing.account ? { account: editing.account } : {}"
        @done="made"
      />
    </SheetDialog>
    <SheetDialog v-model:open="linkOpen" :title="`A link for ${linked?.name ?? ''}`">
      <LinkSheet v-if="linked" :link="linked.link" :name="linked.name" :origin="linked.origin" />
    </SheetDialog>
  </section>
</template>

<style scoped>
header {
  display: flex;
  flex-wrap: wrap;
  justify-content: space-between;
  align-items: center;
  gap: 8px;
  margin-bottom: 4px;
}
li {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  justify-content: space-between;
  gap: 0 12px;
  padding: 6px 0;
  border-top: 1px solid var(--line);
}
.of {
  display: grid;
  min-width: 0;
  flex: 1 1 260px;
}
.of > * {
  overflow-wrap: anywhere;
}
.doing {
  display: flex;
  flex-wrap: wrap;
}
</style>
