<script setup lang="ts">
import { decide, type WorkEntry } from '@wisteria/core'
import { computed, ref, watch } from 'vue'
import { day } from '../times'
import { t } from '../messages'
import { nameOfActor, type Site } from '../session'
import AssignPanel from './AssignPanel.vue'
import { toDo } from './sums'

/** Entries to translate, oldest first. Those that are chosen can be assigned together. */
const { entries, here, site, locale } = defineProps<{
  entries: readonly WorkEntry[]
  here: string | undefined
  hasMore: boolean
  site: Site
  locale: string
}>()
const emit = defineEmits<{
  choose: [entry: string]
  more: []
  assign: [entries: readonly string[], assignee: string | null, due: string | null]
}>()

const mayAssign = computed(() => decide(site.caller, 'entry.write').allowed)
const chosen = ref(new Set<string>())
watch(
  () => entries,
  (now) => {
    const there = new Set(now.map(({ entry }) => entry))
    chosen.value = new Set([...chosen.value].filter((entry) => there.has(entry)))
  },
)
const areAllChosen = computed(() => entries.length > 0 && entries.every(({ entry }) => chosen.value.has(entry)))
function toggle(entry: string): void {
  if (!chosen.value.delete(entry)) chosen.value.add(entry)
}
function toggleAll(): void {
  chosen.value = new Set(areAllChosen.value ? [] : entries.map(({ entry }) => entry))
}
function assign(assignee: string | null, due: string | null): void {
  emit('assign', [...chosen.value], assignee, due)
  chosen.value = new Set()
}
</script>

<template>
  <nav class="side-list" :aria-label="t('translating.entries')" data-region="margin">
    <div v-if="mayAssign && entries.length > 1" class="head">
      <label
        ><input type="checkbox" :checked="areAllChosen" @change="toggleAll" /> {{ t('translating.chooseAll') }}</label
      >
      <AssignPanel
        v-if="chosen.size > 0"
        :site="site"
        :locale="locale"
        :label="t('translating.assignChosen', { n: chosen.size })"
        @assign="assign"
      />
    </div>
    <ol>
      <li v-for="work in entries" :key="work.entry" :class="{ choosable: mayAssign }">
        <input
          v-if="mayAssign"
          type="checkbox"
          :checked="chosen.has(work.entry)"
          :aria-label="t('translating.chooseEntry', { title: work.title || t('common.noName') })"
          @change="toggle(work.entry)"
        />
        <button
          class="plain row"
          type="button"
          :aria-current="work.entry === here ? 'true' : undefined"
          @click="emit('choose', work.entry)"
        >
          <span class="serif" dir="auto">{{ work.title || t('common.noName') }}</span>
          <span class="quiet"
            >{{
              toDo(work.progress.units) === 0
                ? t('translating.allDone')
                : t('translating.textsToDo', { n: toDo(work.progress.units) })
            }}<template v-if="work.task?.assignee"
              >, <bdi>{{ nameOfActor(site, `account:${work.task.assignee}`) }}</bdi></template
            ><template v-if="work.task?.due">, {{ t('translating.dueOn', { day: day(work.task.due) }) }}</template>
            <template v-if="work.task?.readyAt">, {{ t('translating.isReady') }}</template></span
          >
        </button>
      </li>
    </ol>
    <button v-if="hasMore" class="plain link more" type="button" @click="emit('more')">
      {{ t('common.showMore') }}
    </button>
  </nav>
</template>

<style scoped>
.head {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 12px;
  padding: 4px 12px;
  font-size: 13px;
  color: var(--w-ink2);
}
.choosable {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr);
  align-items: start;
}
input {
  margin-block: 11px 0;
  margin-inline: 12px 6px;
  accent-color: var(--w-accent);
}
.head input {
  margin: 0;
  vertical-align: -2px;
}
.row .serif {
  font-size: 15px;
  line-height: 20px;
}
.more {
  padding: 8px 12px;
  color: var(--w-accent);
}
</style>
