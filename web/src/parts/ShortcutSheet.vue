<script setup lang="ts">
import SheetDialog from './SheetDialog.vue'
import { keysOn, shortcuts } from './shortcuts'

const open = defineModel<boolean>('open', { required: true })
</script>

<template>
  <SheetDialog v-model:open="open" title="Keys" free>
    <label class="tick"><input v-model="keysOn" type="checkbox" /> Single keys do what stands beside them</label>
    <dl class="keys" :class="{ off: !keysOn }">
      <template v-for="[key, shortcut] in shortcuts" :key="key">
        <dt>
          <kbd>{{ key }}</kbd>
        </dt>
        <dd>{{ shortcut.says }}</dd>
      </template>
      <dt><kbd>Tab</kbd></dt>
      <dd>Move through everything on the page</dd>
      <dt><kbd>Esc</kbd></dt>
      <dd>Close a sheet</dd>
    </dl>
  </SheetDialog>
</template>

<style scoped>
.keys {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 10px 16px;
  align-items: baseline;
}
kbd {
  display: inline-block;
  min-width: 32px;
  text-align: center;
  border: 1.5px solid var(--line-2);
  border-radius: 4px;
  padding: 2px 8px;
  font: inherit;
  font-weight: 650;
}
</style>
