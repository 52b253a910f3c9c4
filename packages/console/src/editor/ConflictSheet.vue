<script setup lang="ts">
import { fieldsAt } from '@wisteria/core'
import { ElButton } from 'element-plus'
import ConsequenceSheet from '../components/ConsequenceSheet.vue'
import { nameOfActor } from '../session'
import type { Conflict } from './conflict'
import { inWords } from './inWords'
import { useWorkingCopy } from './workingCopy'

/** Shows what each of two wrote at the same place, and asks which is to stand. */
const open = defineModel<boolean>({ required: true })
const { conflicts } = defineProps<{ conflicts: readonly Conflict[] }>()
const emit = defineEmits<{ mine: []; theirs: [] }>()
const copy = useWorkingCopy()

const fieldOf = (one: Conflict) => fieldsAt(copy.type, one.place[0] ?? '')?.at(-1)
const labelOf = (one: Conflict): string =>
  `${fieldOf(one)?.label ?? one.place[0]}${one.place.length > 1 ? ', inside' : ''}${one.locale ? `, ${one.locale}` : ''}`
const doing: Record<string, string> = {
  clear: 'took it away',
  remove: 'took it away',
  move: 'moved it',
  insert: 'added',
}
function said(edit: Conflict['yours'], one: Conflict): string {
  if (edit.do in doing && !('value' in edit && edit.value !== undefined)) return doing[edit.do]!
  return inWords(edit.value, fieldOf(one)?.kind ?? 'text', {})
}
</script>

<template>
  <ConsequenceSheet v-model="open" title="Two of you wrote at the same place">
    <p class="content">Nothing is lost yet: choose which words stand. What either of you wrote elsewhere stays.</p>
    <table>
      <thead>
        <tr>
          <th scope="col">Where</th>
          <th scope="col">What you wrote</th>
          <th scope="col">What is saved</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(one, index) in conflicts" :key="index">
          <th scope="row">{{ labelOf(one) }}</th>
          <td dir="auto" class="serif">{{ said(one.yours, one) }}</td>
          <td dir="auto">
            <span class="serif">{{ said(one.theirs, one) }}</span><small v-if="one.by" class="quiet">
              {{ nameOfActor(copy.site, one.by) }}</small
            >
          </td>
        </tr>
      </tbody>
    </table>
    <template #foot>
      <ElButton @click="open = false">Not now</ElButton>
      <span class="gap" />
      <ElButton @click="emit('theirs')">Take theirs</ElButton>
      <ElButton type="primary" @click="emit('mine')">Keep mine</ElButton>
    </template>
  </ConsequenceSheet>
</template>

<style scoped>
table {
  inline-size: 100%;
  border-collapse: collapse;
}
th,
td {
  padding: 8px 12px;
  text-align: start;
  vertical-align: top;
  border-block-end: 1px solid var(--w-hair);
}
th {
  font-size: 13px;
  font-weight: 400;
  color: var(--w-ink2);
}
td {
  inline-size: 42%;
  overflow-wrap: anywhere;
}
.gap {
  flex: 1;
}
</style>
