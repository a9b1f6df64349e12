<script setup lang="ts">
/** Lines that cannot be taken: mended where they stand, left out, or saved to be mended elsewhere. */
import { computed, reactive, ref, watch } from 'vue'
import { sayFound, type Schemas } from '../api/client'
import { saveCsv, toCsv } from '../parts/csv'

type Line = Schemas['LineSaid']
const props = defineProps<{
  lines: Line[]
  file: Blob
  name: string
  head: string[]
  how: Schemas['How']
  said: string
}>()
const emit = defineEmits<{ mended: [Blob] }>()

/** What each line says now; `null` where it is left out. */
const texts = reactive(new Map<number, string | null>())
const was = reactive(new Map<number, string>())
const SHOWN = 12
const all = ref(false)
const shown = computed(() => (all.value ? props.lines : props.lines.slice(0, SHOWN)))
watch(
  () => props.lines,
  async (lines) => {
    texts.clear()
    was.clear()
    for (const line of lines) {
      const text = (await props.file.slice(line.offset, line.offset + line.length).text()).replace(/\r?\n$/, '')
      texts.set(line.line, text)
      was.set(line.line, text)
    }
  },
  { immediate: true },
)
const left = computed(() => props.lines.filter((line) => texts.get(line.line) === null).length)
const untouched = computed(() => props.lines.filter((line) => texts.get(line.line) === was.get(line.line)).length)
const leave = (line: Line) => texts.set(line.line, texts.get(line.line) === null ? (was.get(line.line) ?? '') : null)
const leaveAll = () => props.lines.forEach((line) => texts.set(line.line, null))
/** The file with these lines as they say now; the rest of it is not even read. */
function send() {
  const parts: BlobPart[] = []
  let from = 0
  for (const line of [...props.lines].sort((a, b) => a.offset - b.offset)) {
    parts.push(props.file.slice(from, line.offset))
    const text = texts.get(line.line)
    if (text !== null && text !== undefined) parts.push(`${text}\n`)
    from = line.offset + line.length
  }
  parts.push(props.file.slice(from))
  emit('mended', new Blob(parts, { type: 'text/csv' }))
}
const cell = (line: Line) => (typeof line.column === 'number' ? props.head[line.column] : '')
const why = (line: Line) => sayFound(line.why)
const save = () =>
  saveCsv(
    `${props.name.replace(/\.\w+$/, '')} lines`,
    toCsv(
      ['line', 'what is wrong', ...props.head],
      props.lines.map((line) => [line.line, why(line), ...line.cells]),
    ),
  )
</script>

<template>
  <section class="bad" aria-labelledby="bad-head" role="alert">
    <h2 id="bad-head">Nothing was brought in yet</h2>
    <p>
      {{ said.replace(/^f/, 'F') }}{{ lines.length >= 500 ? ', of which the first 500 are shown' : '' }}. Mend them
      here, or leave them out; the file on your disk stays as it is.
    </p>
    <div class="row">
      <button class="button main" type="button" :disabled="untouched === lines.length" @click="send">
        {{ left === lines.length ? `Bring in without ${left === 1 ? 'it' : 'them'}` : 'Bring in the mended file' }}
      </button>
      <button v-if="left < lines.length" class="button" type="button" @click="leaveAll">
        Leave {{ lines.length === 1 ? 'it' : `all ${lines.length}` }} out
      </button>
      <button class="button" type="button" @click="save">Save {{ lines.length === 1 ? 'it' : 'them' }} as CSV</button>
    </div>
    <ol>
      <li v-for="line in shown" :key="line.line">
        <p :id="`why-${line.line}`" class="small">
          <strong>Line {{ line.line }}</strong
          ><template v-if="cell(line)">, {{ cell(line) }}</template
          >: {{ why(line) }}
        </p>
        <div class="mend">
          <input
            v-if="texts.get(line.line) !== null"
            :value="texts.get(line.line)"
            type="text"
            :aria-label="`Line ${line.line}`"
            :aria-describedby="`why-${line.line}`"
            spellcheck="false"
            @input="texts.set(line.line, ($event.target as HTMLInputElement).value)"
          />
          <s v-else class="quiet">{{ was.get(line.line) }}</s>
          <button class="button plain" type="button" @click="leave(line)">
            {{ texts.get(line.line) === null ? 'Take it' : 'Leave it out'
            }}<span class="hidden"> (line {{ line.line }})</span>
          </button>
        </div>
      </li>
    </ol>
    <p v-if="!all && lines.length > SHOWN">
      <button class="button plain" type="button" @click="all = true">Show all {{ lines.length }}</button>
    </p>
  </section>
</template>

<style scoped>
.bad {
  display: grid;
  gap: 12px;
  padding: 14px 16px;
  border-left: 4px solid var(--alarm);
  background: var(--alarm-wash);
}
ol {
  display: grid;
  gap: 10px;
  margin: 0;
  padding: 0;
  list-style: none;
}
.mend {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 10px;
  align-items: center;
}
.mend > input,
.mend > s {
  flex: 1 1 260px;
  min-width: 0;
  overflow-wrap: anywhere;
  font-variant-numeric: tabular-nums;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 10px 14px;
}
</style>
