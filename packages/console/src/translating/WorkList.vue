<script setup lang="ts">
import type { WorkEntry } from '@wisteria/core'
import { day } from '../times'
import { t } from '../messages'

/** Entries to translate, oldest first. */
const { entries, here } = defineProps<{ entries: readonly WorkEntry[]; here: string | undefined; hasMore: boolean }>()
const emit = defineEmits<{ choose: [entry: string]; more: [] }>()
const toDo = ({ progress: { units } }: WorkEntry): number => units.missing + units.outdated
</script>

<template>
  <nav class="work-list" :aria-label="t('translating.entries')" data-region="margin">
    <ol>
      <li v-for="work in entries" :key="work.entry">
        <button
          class="plain row"
          type="button"
          :aria-current="work.entry === here ? 'true' : undefined"
          @click="emit('choose', work.entry)"
        >
          <span class="serif" dir="auto">{{ work.title || t('common.noName') }}</span>
          <span class="quiet"
            >{{ toDo(work) === 0 ? t('translating.allDone') : t('translating.textsToDo', { n: toDo(work) })
            }}<template v-if="work.task?.due">, {{ t('translating.dueOn', { day: day(work.task.due) }) }}</template>
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
.work-list {
  overflow: auto;
  padding-block: 24px;
}
ol {
  list-style: none;
  margin: 0;
  padding: 0;
}
.row {
  display: grid;
  gap: 2px;
  inline-size: 100%;
  padding: 8px 12px;
  border-inline-start: 3px solid transparent;
  font-size: 12px;
  line-height: 16px;
}
.row .serif {
  font-size: 15px;
  line-height: 20px;
}
.row:hover {
  background: var(--w-sunk);
}
.row[aria-current] {
  border-color: var(--w-accent);
  background: var(--w-accent-wash);
}
.more {
  padding: 8px 12px;
  color: var(--w-accent);
}
</style>
