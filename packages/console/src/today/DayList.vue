<script setup lang="ts">
import type { EntryList } from '@wisteria/client'
import type { ListAsks } from '@wisteria/core'
import EntryLink from '../components/EntryLink.vue'
import StateMark from '../components/StateMark.vue'
import { writeAsks } from '../lists/asks'
import { t } from '../messages'
import { nameOfActor, type Site } from '../session'
import { ago } from '../times'

/** The newest entries of a list, and a link to all of them. */
defineProps<{ site: Site; title: string; asks: ListAsks; list: EntryList }>()
</script>

<template>
  <section class="day-list">
    <h2>
      {{ title }} <span class="count">{{ list.count }}</span>
    </h2>
    <ul class="paper">
      <li v-for="entry in list.entries" :key="entry.id">
        <StateMark :state="(asks.locale ? entry.states[asks.locale] : undefined) ?? entry.state" />
        <EntryLink :id="entry.id" class="serif" :site="site.name" :title="entry.title" :locale="asks.locale" />
        <small class="quiet">{{ nameOfActor(site, entry.updatedBy) }}, {{ ago(entry.updatedAt) }}</small>
      </li>
    </ul>
    <RouterLink
      v-if="(list.count ?? 0) > list.entries.length"
      class="all"
      :to="{ name: 'entries', params: { site: site.name }, query: writeAsks(asks) }"
      >{{ t('today.showAll', { count: list.count ?? 0 }) }}</RouterLink
    >
  </section>
</template>

<style scoped>
.count {
  font-weight: 400;
}
.all {
  display: inline-block;
  margin-block-start: 8px;
  font-size: 13px;
  color: var(--w-accent);
}
</style>
