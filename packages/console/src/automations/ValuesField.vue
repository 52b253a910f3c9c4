<script setup lang="ts">
import { flatValues, readWritten, valuesAt, writtenValue } from '@wisteria/core'
import { ElButton, ElInput } from 'element-plus'
import { ref, useId, watch } from 'vue'
import LateInput from '../components/LateInput.vue'
import { t } from '../messages'

/** Values by their names, or one value. Names within a name have a dot: `title.en`. */
const { value, label, names } = defineProps<{
  value: unknown
  label: string
  /** Names to choose from. */
  names: readonly string[]
}>()
const emit = defineEmits<{ change: [value: unknown] }>()

const isObject = (of: unknown): boolean => typeof of === 'object' && of !== null && !Array.isArray(of)
interface Row {
  name: string
  text: string
}
const rowsOf = (of: unknown): Row[] =>
  of === undefined ? [] : flatValues(of).map(([name, one]) => ({ name, text: writtenValue(one) }))
/** A row without a name or a value is only here. */
const rows = ref<Row[]>(rowsOf(value))
const written = (): unknown => {
  const full = rows.value.flatMap(({ name, text }): [string, unknown][] => {
    const read = readWritten(text)
    return read === undefined || name.trim() === '' ? [] : [[name.trim(), read]]
  })
  return full.length === 0 ? undefined : valuesAt(full)
}
watch(
  () => value,
  (now) => {
    if (JSON.stringify(now) !== JSON.stringify(isObject(now) || now === undefined ? written() : now))
      rows.value = rowsOf(now)
  },
)
const change = (): void => emit('change', written())
function remove(index: number): void {
  rows.value.splice(index, 1)
  change()
}
const list = useId()
</script>

<template>
  <div class="values" role="group" :aria-label="label">
    <datalist :id="list">
      <option v-for="name in names" :key="name" :value="name" />
    </datalist>
    <LateInput
      v-if="value !== undefined && !isObject(value)"
      :value="writtenValue(value)"
      class="code"
      dir="ltr"
      :aria-label="label"
      @change="emit('change', readWritten($event))"
    />
    <template v-else>
      <div v-for="(row, index) in rows" :key="index" class="row">
        <ElInput
          v-model="row.name"
          class="code"
          dir="ltr"
          :list="list"
          :aria-label="t('automations.nameOfValue', { n: index + 1 })"
          @change="change"
        />
        <ElInput
          v-model="row.text"
          class="code"
          dir="ltr"
          :aria-label="row.name || t('automations.value', { n: index + 1 })"
          @change="change"
        />
        <ElButton
          text
          size="small"
          :aria-label="t('automations.removeNamed', { name: row.name })"
          @click="remove(index)"
          >✕</ElButton
        >
      </div>
      <ElButton size="small" @click="rows.push({ name: '', text: '' })">{{ t('automations.addValue') }}</ElButton>
    </template>
  </div>
</template>

<style scoped>
.values {
  display: grid;
  gap: 4px;
  justify-items: start;
}
.row {
  display: grid;
  grid-template-columns: minmax(120px, 200px) minmax(0, 1fr) auto;
  align-items: center;
  gap: 4px;
  inline-size: 100%;
}
.code :deep(input) {
  font-family: var(--w-code);
}
</style>
