<script setup lang="ts">
import { onMounted, onUpdated, useTemplateRef } from 'vue'
import { t } from '../messages'

/** A table with a line below each row; its rows are its content. The cell of a row's buttons has the class `actions`. */
const { heads, hasActions = false } = defineProps<{
  heads: readonly string[]
  /** Whether the last column has buttons: its head is for screen readers only. */
  hasActions?: boolean
}>()

/** Where there is no room for columns, a row is a card: each cell then shows its head. */
const body = useTemplateRef<HTMLTableSectionElement>('body')
function nameCells(): void {
  for (const row of body.value?.rows ?? [])
    for (const [index, cell] of [...row.cells].entries()) cell.dataset['head'] = index > 0 ? (heads[index] ?? '') : ''
}
onMounted(nameCells)
onUpdated(nameCells)
</script>

<template>
  <table>
    <thead>
      <tr>
        <th v-for="head in heads" :key="head" scope="col">{{ head }}</th>
        <th v-if="hasActions" scope="col">
          <span class="visually-hidden">{{ t('common.actions') }}</span>
        </th>
      </tr>
    </thead>
    <tbody ref="body">
      <slot />
    </tbody>
  </table>
</template>

<style scoped>
table {
  inline-size: 100%;
  border-collapse: collapse;
}
th,
table :deep(th),
table :deep(td) {
  padding: 8px 16px 8px 0;
  text-align: start;
  vertical-align: top;
  border-block-end: 1px solid var(--w-hair);
  overflow-wrap: break-word;
}
thead th {
  font-size: 13px;
  font-weight: 500;
  color: var(--w-ink2);
}
tbody :deep(th) {
  font-weight: 400;
}
table :deep(td.actions) {
  text-align: end;
  white-space: nowrap;
  padding-inline-end: 0;
}
table :deep(td.actions .el-button + .el-button) {
  margin-inline-start: 8px;
}
@media (max-width: 600px) {
  table,
  tbody,
  table :deep(tr),
  table :deep(tbody th),
  table :deep(td) {
    display: block;
  }
  thead {
    display: none;
  }
  table :deep(tr) {
    padding-block: 12px;
    border-block-end: 1px solid var(--w-hair);
  }
  table :deep(tbody th),
  table :deep(td),
  table :deep(td.actions) {
    inline-size: auto;
    padding: 4px 0;
    border: 0;
    text-align: start;
    white-space: normal;
    overflow-wrap: anywhere;
  }
  tbody :deep(th) {
    font-weight: 600;
  }
  table :deep(td[data-head]:not([data-head=''])::before) {
    content: attr(data-head);
    display: block;
    font-size: 12px;
    color: var(--w-ink2);
  }
}
</style>
