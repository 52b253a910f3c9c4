<script setup lang="ts">
import { canBeKey, fieldsAt, idPlace, importableTypes, typeNamed, type ImportMapping } from '@wisteria/core'
import { ElCheckbox, ElOption, ElSelect } from 'element-plus'
import { computed } from 'vue'
import { t } from '../messages'
import type { Site } from '../session'

/** What an import does with its rows: the type, the key, and how numbers and dates are read. */
const { site, mapping, disabled } = defineProps<{ site: Site; mapping: ImportMapping; disabled: boolean }>()
const emit = defineEmits<{ change: [change: Partial<ImportMapping>]; type: [name: string] }>()

const types = computed(() => importableTypes(site.model))
const keys = computed(() => {
  const type = typeNamed(site.model, mapping.type)
  const fields = (to: string) => (to === idPlace ? [] : type && fieldsAt(type, to.split(':')[0]!))
  return mapping.columns.filter(({ to }) => {
    const place = fields(to)
    return place !== undefined && canBeKey({ fields: place })
  })
})
const modes = ['both', 'create', 'update'] as const
const orders = ['dmy', 'mdy', 'ymd'] as const
</script>

<template>
  <div class="options">
    <label for="mapping-type">{{ t('imports.type') }}</label>
    <ElSelect
      id="mapping-type"
      :model-value="mapping.type"
      size="small"
      filterable
      :disabled="disabled"
      @change="(name: string) => emit('type', name)"
    >
      <ElOption v-for="{ name, label } in types" :key="name" :value="name" :label="label" />
    </ElSelect>
    <label for="mapping-key">{{ t('imports.key') }}</label>
    <ElSelect
      id="mapping-key"
      :empty-values="[null]"
      :model-value="mapping.key ?? ''"
      size="small"
      :disabled="disabled"
      @change="(key: string) => emit('change', { key: key === '' ? undefined : key })"
    >
      <ElOption value="" :label="t('imports.noKey')" />
      <ElOption v-for="{ from, to } in keys" :key="to" :value="to" :label="from" />
    </ElSelect>
    <label for="mapping-mode">{{ t('imports.mode') }}</label>
    <ElSelect
      id="mapping-mode"
      :model-value="mapping.mode"
      size="small"
      :disabled="disabled"
      @change="(mode: ImportMapping['mode']) => emit('change', { mode })"
    >
      <ElOption v-for="mode in modes" :key="mode" :value="mode" :label="t(`imports.modes.${mode}`)" />
    </ElSelect>
    <label for="mapping-dates">{{ t('imports.dates') }}</label>
    <ElSelect
      id="mapping-dates"
      :model-value="mapping.dates"
      size="small"
      :disabled="disabled"
      @change="(dates: ImportMapping['dates']) => emit('change', { dates })"
    >
      <ElOption v-for="order in orders" :key="order" :value="order" :label="t(`imports.orders.${order}`)" />
    </ElSelect>
    <label for="mapping-decimal">{{ t('imports.decimal') }}</label>
    <ElSelect
      id="mapping-decimal"
      :model-value="mapping.decimal"
      size="small"
      :disabled="disabled"
      @change="(decimal: ImportMapping['decimal']) => emit('change', { decimal })"
    >
      <ElOption value="," :label="t('imports.comma')" />
      <ElOption value="." :label="t('imports.dot')" />
    </ElSelect>
    <span />
    <ElCheckbox
      :model-value="mapping.emptyClears"
      :disabled="disabled"
      @change="(emptyClears) => emit('change', { emptyClears: emptyClears === true })"
      >{{ t('imports.emptyClears') }}</ElCheckbox
    >
  </div>
</template>

<style scoped>
.options {
  display: grid;
  grid-template-columns: max-content minmax(0, 280px) max-content minmax(0, 280px);
  align-items: center;
  gap: 8px 16px;
  font-size: 13px;
}
@media (max-width: 900px) {
  .options {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
