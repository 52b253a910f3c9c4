<script setup lang="ts">
import { makeItemId } from '@wisteria/core'
import { ElButton } from 'element-plus'
import { computed } from 'vue'
import type { ControlProps } from './control'
import { moved, random } from './reordering'
import { t } from '../messages'

/** Many values of one kind, in order: each in that kind's own control, which the form around renders in the slot. */
const props = defineProps<ControlProps>()
const emit = defineEmits<{ change: [value: unknown] }>()

interface Item {
  readonly id: string
  readonly value: unknown
}
const items = computed<readonly Item[]>(() => (Array.isArray(props.value) ? (props.value as Item[]) : []))
const single = computed(() => ({ ...props.field, many: false }))

function put(next: readonly Item[]): void {
  const filled = next.filter((item) => item.value !== undefined)
  emit('change', filled.length > 0 ? filled : undefined)
}

function change(id: string, value: unknown): void {
  put(items.value.map((item) => (item.id === id ? { id, value } : item)))
}

function add(value: unknown): void {
  if (value !== undefined) put([...items.value, { id: makeItemId({ random }), value }])
}

function move(index: number, step: 1 | -1): void {
  const next = moved(items.value, index, step)
  if (next) put(next)
}
</script>

<template>
  <ol class="values">
    <li
      v-for="(item, index) in items"
      :key="item.id"
      @keydown.alt.up.prevent="move(index, -1)"
      @keydown.alt.down.prevent="move(index, 1)"
    >
      <slot
        :id="`${id}-${item.id}`"
        name="value"
        :field="single"
        :value="item.value"
        :part="`/${index}`"
        :change="(value: unknown) => change(item.id, value)"
      />
      <ElButton size="small" :disabled="disabled" @click="put(items.filter((other) => other.id !== item.id))">{{
        t('common.remove')
      }}</ElButton>
    </li>
    <li :key="`new-${items.length}`">
      <slot :id="id" name="value" :field="single" :value="undefined" part="" :change="add" />
    </li>
  </ol>
</template>

<style scoped>
.values {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 8px;
}
.values li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
  gap: 12px;
  align-items: center;
}
</style>
