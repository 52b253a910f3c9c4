<script setup lang="ts">
import type { ListedEntry } from '@wisteria/client'
import type { ContentType } from '@wisteria/core'
import { typeNamed } from '@wisteria/core'
import { computed } from 'vue'
import FreshnessMark from '../components/FreshnessMark.vue'
import StateMark from '../components/StateMark.vue'
import { nameOfActor, type Site } from '../session'
import { ago } from '../times'
import { cellWords } from './cells'
import { t } from '../messages'

/** An entry in a list: its state, its title over its path, its locales, the chosen columns, and who changed it. */
const {
  site,
  entry,
  type,
  columns,
  isChosen,
  locale = undefined,
} = defineProps<{
  site: Site
  entry: ListedEntry
  /** Undefined where entries of all types are listed. */
  type: ContentType | undefined
  columns: readonly string[]
  /** The locale in which it is listed, and opened; the default one when left out. */
  locale?: string | undefined
  isChosen: boolean
}>()
const emit = defineEmits<{ choose: [isRange: boolean] }>()
const label = computed(() => typeNamed(site.model, entry.type)?.label ?? entry.type)
const titleId = computed(() => `row-${entry.id}`)
const saidOf = (tag: string): string => {
  const fresh = entry.freshness[tag]
  const state = t(`lists.stateInLocale.${entry.states[tag] ?? 'new'}`)
  return fresh ? `${state}, ${t(`lists.freshness.${fresh}`)}` : state
}
</script>

<template>
  <li class="row paper" :class="{ chosen: isChosen }">
    <input
      type="checkbox"
      class="choose"
      :checked="isChosen"
      :aria-labelledby="titleId"
      @click="emit('choose', $event.shiftKey)"
    />
    <StateMark :state="entry.state" />
    <RouterLink
      :to="{ name: 'entry', params: { site: site.name, id: entry.id }, query: locale ? { locale } : {} }"
      @keydown.space.prevent="emit('choose', $event.shiftKey)"
    >
      <span :id="titleId" class="title serif" dir="auto" :title="entry.title">{{
        entry.title || t('common.noName')
      }}</span>
      <span v-if="!type" class="type">{{ label }}</span>
      <bdi v-else-if="entry.path" class="path" dir="ltr">{{ entry.path }}</bdi>
    </RouterLink>
    <span
      v-for="name in columns"
      :key="name"
      class="cell"
      dir="auto"
      :title="cellWords(entry.columns?.[name], site, type, name)"
      >{{ cellWords(entry.columns?.[name], site, type, name) }}</span
    >
    <span class="locales">
      <span
        v-for="{ tag, label: name } in site.settings.locales"
        :key="tag"
        class="locale"
        :class="entry.states[tag]"
        :style="{ '--letters': tag.length }"
        :title="`${name}: ${saidOf(tag)}`"
      >
        <StateMark :state="entry.states[tag] ?? 'new'" :label="`${name}: ${saidOf(tag)}`" />
        {{ tag }}<FreshnessMark :freshness="entry.freshness[tag]" />
      </span>
    </span>
    <span class="changed"
      >{{ nameOfActor(site, entry.updatedBy) }}<br /><time :datetime="entry.updatedAt">{{
        ago(entry.updatedAt)
      }}</time></span
    >
  </li>
</template>

<style scoped>
.row {
  display: grid;
  grid-column: 1 / -1;
  grid-template-columns: subgrid;
  align-items: center;
  min-block-size: 48px;
  padding-inline: 12px 16px;
  border-radius: 0;
}
.row:hover,
.row:focus-within {
  background: var(--w-accent-wash);
}
.row.chosen {
  background: var(--w-accent-wash);
  box-shadow: inset 3px 0 var(--w-accent);
}
[dir='rtl'] .row.chosen {
  box-shadow: inset -3px 0 var(--w-accent);
}
.choose {
  margin: 0;
  accent-color: var(--w-accent);
}
.row a {
  display: grid;
  color: inherit;
  text-decoration: none;
  padding-block: 3px;
}
.title,
.path,
.cell {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
/* Two lines: most values of a column are whole in them. */
.cell {
  display: -webkit-box;
  -webkit-box-orient: vertical;
  -webkit-line-clamp: 2;
  white-space: normal;
}
.title {
  font-size: 17px;
  line-height: 24px;
}
.type {
  font-size: 12px;
  line-height: 16px;
  color: var(--w-ink2);
}
.path {
  font: 12px/16px var(--w-code);
  color: var(--w-ink3);
}
.cell {
  font-size: 13px;
  line-height: 18px;
  color: var(--w-ink2);
}
.locales {
  display: flex;
  gap: 10px;
}
.locale {
  display: flex;
  align-items: center;
  gap: 4px;
  /* The same in every row, so that a locale has one column: its state, its tag and its freshness. */
  inline-size: calc(var(--letters) * 1ch + 36px);
  font-size: 12px;
  color: var(--w-ink3);
}
.changed {
  font-size: 12px;
  line-height: 16px;
  color: var(--w-ink2);
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
@media (max-width: 900px) {
  .title {
    white-space: normal;
  }
  .locales {
    grid-column: 3 / -1;
    flex-wrap: wrap;
    padding-block-end: 6px;
  }
  .cell,
  .changed {
    display: none;
  }
}
</style>
