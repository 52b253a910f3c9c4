<script setup lang="ts">
import type { ContentType, ListAsks } from '@wisteria/core'
import { ElButton, ElDropdown, ElDropdownItem, ElDropdownMenu } from 'element-plus'
import { t } from '../messages'
import type { Site } from '../session'

/** The entries of a list as a table: with the list's columns, or with all fields. */
const { site, type, asks } = defineProps<{ site: Site; type: ContentType; asks: ListAsks }>()

const formats = { csv: 'CSV', xlsx: 'XLSX', jsonLines: 'JSON Lines' } as const

function take(format: keyof typeof formats): void {
  const { where, search, locale = site.settings.defaultLocale, columns = [] } = asks
  const isLocalized = (name: string): boolean => type.fields.find((field) => field.name === name)?.localized === true
  const places = [...new Set([type.namedBy, ...columns])].map((name) =>
    isLocalized(name) ? `${name}:${locale}` : name,
  )
  const chosen = columns.length > 0 ? { columns: ['entry.id', ...places] } : {}
  window.location.assign(
    site.editor.imports.exportAddress({ type: type.name, format, where, search, locale: asks.locale, ...chosen }),
  )
}
</script>

<template>
  <ElDropdown trigger="click" placement="top-end">
    <ElButton>{{ t('imports.exportMore') }}</ElButton>
    <template #dropdown>
      <ElDropdownMenu>
        <ElDropdownItem v-for="(label, format) in formats" :key="format" @click="take(format)">{{
          label
        }}</ElDropdownItem>
      </ElDropdownMenu>
    </template>
  </ElDropdown>
</template>
