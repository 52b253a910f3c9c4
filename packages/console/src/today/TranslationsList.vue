<script setup lang="ts">
import type { WorkEntry } from '@wisteria/core'
import { t } from '../messages'
import type { Site } from '../session'
import { day } from '../times'
import { toDo } from '../translating/sums'
import WorkBar from '../translating/WorkBar.vue'
import type { TranslationsWaiting } from './translations'

/** The translations that wait: those assigned to the user, those ready for review, and how much there is in each locale. */
const { site, waiting } = defineProps<{ site: Site; waiting: TranslationsWaiting }>()
const to = ({ entry, locale }: WorkEntry, asked: 'mine' | 'ready') => ({
  name: 'translate',
  params: { site: site.name, locale, entry },
  query: { [asked]: '1' },
})
</script>

<template>
  <section
    v-for="list in (['mine', 'ready'] as const).filter((name) => waiting[name].length > 0)"
    :key="list"
    class="day-list"
  >
    <h2>{{ t(`translating.${list}`) }}</h2>
    <ul class="paper">
      <li v-for="work in waiting[list]" :key="`${work.entry} ${work.locale}`">
        <RouterLink class="serif" dir="auto" :to="to(work, list)">{{ work.title || t('common.noName') }}</RouterLink>
        <small class="quiet"
          ><bdi>{{ work.locale }}</bdi
          >,
          {{
            toDo(work.progress.units) === 0
              ? t('translating.allDone')
              : t('translating.textsToDo', { n: toDo(work.progress.units) })
          }}<template v-if="work.task?.due"
            >, {{ t('translating.dueOn', { day: day(work.task.due) }) }}</template
          ></small
        >
      </li>
    </ul>
  </section>
  <section v-if="waiting.locales.length > 0" class="day-list">
    <h2>{{ t('today.toTranslate') }}</h2>
    <ul class="paper">
      <li v-for="{ tag, label, sum } in waiting.locales" :key="tag" class="locale">
        <RouterLink :to="{ name: 'translate', params: { site: site.name, locale: tag } }">{{ label }}</RouterLink>
        <WorkBar :units="sum.units" />
        <small class="quiet">{{
          t('today.textsAndWords', {
            texts: toDo(sum.units),
            words: toDo(sum.words),
          })
        }}</small>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.day-list .locale {
  display: grid;
  grid-template-columns: 140px minmax(40px, 1fr) auto;
}
</style>
