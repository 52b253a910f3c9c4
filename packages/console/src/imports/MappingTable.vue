<script setup lang="ts">
import type { EntryImportView } from '@wisteria/client'
import {
  fieldsAt,
  findsEntries,
  holdsParts,
  placesOf,
  shapeOf,
  typeNamed,
  type ImportColumn,
  type ImportMapping,
} from '@wisteria/core'
import { ElCheckbox, ElOption, ElSelect } from 'element-plus'
import { computed } from 'vue'
import RowTable from '../components/RowTable.vue'
import { t } from '../messages'
import type { Site } from '../session'
import { cellText, withoutUndefined } from './words'

/** Where each column of a table goes, with its first values. */
const { site, entryImport, mapping, rows, disabled } = defineProps<{
  site: Site
  entryImport: EntryImportView
  mapping: ImportMapping
  /** The cells of the first rows. */
  rows: readonly (readonly unknown[])[]
  disabled: boolean
}>()
const emit = defineEmits<{ change: [columns: ImportColumn[]] }>()

const type = computed(() => typeNamed(site.model, mapping.type))
const places = computed(() => (type.value ? placesOf(type.value, site.settings) : []))
const taken = computed(() => new Map(mapping.columns.map((column) => [column.to, column.from])))
const columnOf = (head: string): ImportColumn | undefined => mapping.columns.find(({ from }) => from === head)
const fieldOf = (column: ImportColumn) => type.value && fieldsAt(type.value, column.to.split(':')[0]!)?.at(-1)

/** The fields by which a reference can be found. */
function findable(column: ImportColumn): readonly string[] {
  const field = fieldOf(column)
  const shape = field && shapeOf(field)
  if (shape?.is !== 'reference') return []
  const fields = shape.to.flatMap((name) => typeNamed(site.model, name)?.fields ?? [])
  return [...new Set(fields.filter(findsEntries).map(({ name }) => name))]
}
const isReference = (column: ImportColumn): boolean => {
  const field = fieldOf(column)
  return field !== undefined && shapeOf(field).is === 'reference'
}
const isParted = (column: ImportColumn): boolean => {
  const field = fieldOf(column)
  return field !== undefined && holdsParts(field)
}

function put(head: string, change: Partial<ImportColumn> | undefined): void {
  const others = mapping.columns.filter(({ from, to }) => from !== head && to !== change?.to)
  const before = columnOf(head)
  const next = change && {
    ...(before?.to === (change.to ?? before?.to) ? before : {}),
    from: head,
    to: before?.to ?? '',
    ...change,
  }
  const clean = next && withoutUndefined<ImportColumn>(next)
  const order = (column: ImportColumn): number => entryImport.heads.indexOf(column.from)
  emit(
    'change',
    [...others, ...(clean ? [clean] : [])].sort((a, b) => order(a) - order(b)),
  )
}
const go = (head: string, to: string): void => put(head, to === '' ? undefined : { to })
const samples = (index: number): string =>
  rows
    .map((cells) => cellText(cells[index]))
    .filter((text) => text !== '')
    .slice(0, 3)
    .map((text) => (text.length > 30 ? `${text.slice(0, 30)}…` : text))
    .join(' · ')
const separators = ['|', ';', ',', '\n']
</script>

<template>
  <RowTable :heads="[t('imports.column'), t('imports.values'), t('imports.goesTo'), '']">
    <tr v-for="(head, index) in entryImport.heads" :key="head">
      <th scope="row">
        <bdi>{{ head }}</bdi>
      </th>
      <td class="quiet samples" dir="auto">{{ samples(index) }}</td>
      <td class="place">
        <ElSelect
          :empty-values="[null]"
          :model-value="columnOf(head)?.to ?? ''"
          filterable
          size="small"
          :disabled="disabled"
          :aria-label="t('imports.placeOf', { column: head })"
          @change="(to: string) => go(head, to)"
        >
          <ElOption value="" :label="t('imports.nowhere')" />
          <ElOption
            v-for="place in places"
            :key="place.to"
            :value="place.to"
            :label="place.label"
            :disabled="taken.has(place.to) && taken.get(place.to) !== head"
          />
        </ElSelect>
      </td>
      <td>
        <div class="more">
          <template v-if="columnOf(head) && isReference(columnOf(head)!)">
            <span class="quiet">{{ t('imports.foundBy') }}</span>
            <ElSelect
              :empty-values="[null]"
              :model-value="columnOf(head)!.by ?? ''"
              size="small"
              class="by"
              :disabled="disabled"
              :aria-label="t('imports.foundByOf', { column: head })"
              @change="(by: string) => put(head, by === '' ? { by: undefined, create: undefined } : { by })"
            >
              <ElOption value="" :label="t('imports.theId')" />
              <ElOption v-for="name in findable(columnOf(head)!)" :key="name" :value="name" :label="name" />
            </ElSelect>
            <ElCheckbox
              v-if="columnOf(head)!.by"
              :model-value="columnOf(head)!.create ?? false"
              :disabled="disabled"
              @change="(create) => put(head, { create: create === true ? true : undefined })"
              >{{ t('imports.createMissing') }}</ElCheckbox
            >
          </template>
          <template v-if="columnOf(head) && isParted(columnOf(head)!)">
            <span class="quiet">{{ t('imports.separator') }}</span>
            <ElSelect
              :model-value="columnOf(head)!.separator ?? '\n'"
              size="small"
              class="separator"
              :disabled="disabled"
              :aria-label="t('imports.separatorOf', { column: head })"
              @change="(separator: string) => put(head, { separator })"
            >
              <ElOption
                v-for="sign in separators"
                :key="sign"
                :value="sign"
                :label="sign === '\n' ? t('imports.lineBreak') : sign"
              />
            </ElSelect>
          </template>
        </div>
      </td>
    </tr>
  </RowTable>
</template>

<style scoped>
.samples {
  font-size: 13px;
}
.place {
  inline-size: 240px;
  min-inline-size: 160px;
}
.more {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
  font-size: 13px;
}
.by {
  inline-size: 128px;
}
.separator {
  inline-size: 104px;
}
</style>
