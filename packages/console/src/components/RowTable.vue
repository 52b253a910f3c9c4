<script setup lang="ts">
import { t } from '../messages'

/** A table with a line below each row; its rows are its content. The cell of a row's buttons has the class `actions`. */
const { heads, hasActions = false } = defineProps<{
  heads: readonly string[]
  /** Whether the last column holds buttons: its head is for screen readers alone. */
  hasActions?: boolean
}>()
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
    <tbody>
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
</style>
