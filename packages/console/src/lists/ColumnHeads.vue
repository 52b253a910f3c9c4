<script setup lang="ts">
import { SortDown, SortUp } from '@element-plus/icons-vue'
import { kindOf, type ContentType, type Field } from '@wisteria/core'
import { ElIcon } from 'element-plus'
import { computed } from 'vue'
import type { Site } from '../session'
import { t } from '../messages'
import { headingOf } from './cells'

/** The heads of a list's columns. A column that can be sorted by sorts at a click, and the other way round at the next. */
const { site, type, columns, sort } = defineProps<{
  site: Site
  type: ContentType | undefined
  columns: readonly Field[]
  sort: string
}>()
const emit = defineEmits<{ sort: [sort: string] }>()

interface Head {
  readonly name: string
  readonly label: string
  readonly isSortable: boolean
  /** Which way it sorts at the first click. */
  readonly first: 'up' | 'down'
}
const isSortable = (field: Field): boolean =>
  !field.many && !['reference', 'presence', undefined].includes(kindOf(field).comparison)
const fieldHead = (field: Field): Head => ({
  name: field.name,
  label: headingOf(field, site),
  isSortable: isSortable(field),
  first: 'up',
})
const title = computed<Head>(() => {
  const naming = type?.fields.find(({ name }) => name === type.namedBy)
  return naming
    ? { ...fieldHead(naming), label: naming.label }
    : { name: '', label: t('lists.title'), isSortable: false, first: 'up' }
})
const changed = computed<Head>(() => ({
  name: 'entry.updated',
  label: t('lists.changed'),
  isSortable: true,
  first: 'down',
}))
const way = ({ name }: Head): 'up' | 'down' | undefined =>
  sort === name ? 'up' : sort === `-${name}` ? 'down' : undefined
function toggle(head: Head): void {
  const next = way(head) === undefined ? head.first : way(head) === 'up' ? 'down' : 'up'
  emit('sort', next === 'down' ? `-${head.name}` : head.name)
}
const said = (head: Head): string =>
  way(head) === undefined
    ? t('lists.sortBy', { field: head.label })
    : t(way(head) === 'up' ? 'lists.rising' : 'lists.falling', { field: head.label })
</script>

<template>
  <div class="headings" role="group" :aria-label="t('lists.order')">
    <template v-for="head in [title, ...columns.map(fieldHead), changed]" :key="head.name">
      <span v-if="head.name === 'entry.updated'" class="locales-head">{{ t('lists.locales') }}</span>
      <button
        v-if="head.isSortable"
        class="plain head"
        type="button"
        :aria-pressed="way(head) !== undefined"
        :aria-label="said(head)"
        @click="toggle(head)"
      >
        <span class="label">{{ head.label }}</span>
        <ElIcon v-if="way(head)"><SortUp v-if="way(head) === 'up'" /><SortDown v-else /></ElIcon>
      </button>
      <span v-else class="label">{{ head.label }}</span>
    </template>
  </div>
</template>

<style scoped>
.headings {
  display: grid;
  grid-column: 1 / -1;
  grid-template-columns: subgrid;
  align-items: end;
  padding-block: 4px;
  padding-inline: 12px 16px;
  font-size: 12px;
  line-height: 16px;
  color: var(--w-ink2);
}
.headings > :first-child {
  grid-column-start: 3;
}
.head {
  display: flex;
  align-items: center;
  gap: 4px;
  min-inline-size: 0;
  font-size: 12px;
  color: inherit;
  text-align: start;
}
.head:hover,
.head[aria-pressed='true'] {
  color: var(--w-accent);
}
.label {
  min-inline-size: 0;
  overflow-wrap: anywhere;
}
@media (max-width: 900px) {
  .headings {
    display: none;
  }
}
</style>
