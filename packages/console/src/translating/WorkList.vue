<script setup lang="ts">
import type { WorkEntry } from '@wisteria/core'
import { day } from '../times'
import { t } from '../messages'
import { toDo } from './sums'

/** Entries to translate, oldest first. */
const { entries, here } = defineProps<{ entries: readonly WorkEntry[]; here: string | undefined; hasMore: boolean }>()
const emit = defineEmits<{ choose: [entry: string]; more: [] }>()
</script>

<template>
  <nav class="side-list" :aria-label="t('translating.entries')" data-region="margin">
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
            >{{
              toDo(work.progress.units) === 0
                ? t('translating.allDone')
                : t('translating.textsToDo', { n: toDo(work.progress.units) })
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
.row .serif {
  font-size: 15px;
  line-height: 20px;
}
.more {
  padding: 8px 12px;
  color: var(--w-accent);
}
</style>
