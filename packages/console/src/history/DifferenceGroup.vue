<script setup lang="ts">
import { directionOf, fieldAnywhere } from '@wisteria/core'
import { Sort } from '@element-plus/icons-vue'
import { ElButton, ElIcon } from 'element-plus'
import ChangedWords from '../components/ChangedWords.vue'
import { inWords, type Reading } from '../editor/inWords'
import { howOfItem, isItem, type Group } from './groups'
import { t } from '../messages'

/** The differences of one field, in its form, with Restore in the margin. */
const { group, reading, mayRestore, called } = defineProps<{
  group: Group
  reading: Reading
  mayRestore: boolean
  /** Its name for those who do not see where it is; its labels when left out. */
  called?: string
}>()
defineEmits<{ restore: [] }>()
function inside(value: unknown): string {
  const { fieldId, kind } = group.differences[0]!
  return inWords(value, fieldAnywhere(reading.model, fieldId) ?? kind, reading)
}
const nameOfItem = (labels: readonly string[]) => labels.slice(group.labels.length).join(' › ')
</script>

<template>
  <section class="group" :aria-label="called ?? group.labels.join(', ')">
    <div class="text" :lang="group.locale ?? undefined">
      <h2>
        <span v-for="label in group.labels.slice(0, -1)" :key="label" class="outer">{{ label }} › </span
        >{{ group.labels.at(-1) }} <b v-if="group.locale" class="locale">{{ group.locale }}</b>
      </h2>
      <div v-for="difference in group.differences" :key="difference.at.join('/')" class="one">
        <p v-if="isItem(difference)" class="how">
          <ElIcon v-if="difference.how === 'moved'" aria-hidden="true"><Sort /></ElIcon>
          <b v-if="nameOfItem(difference.labels)">{{ nameOfItem(difference.labels) }}</b> {{ howOfItem(difference) }}
        </p>
        <p
          v-if="difference.words"
          class="content"
          :class="{ moved: difference.how === 'moved' }"
          :dir="group.locale ? directionOf(group.locale) : 'auto'"
        >
          <ChangedWords :pieces="difference.words" />
        </p>
        <p v-else-if="difference.how === 'moved'" class="content moved" dir="auto">{{ inside(difference.after) }}</p>
        <p v-else class="content" dir="auto">
          <del v-if="difference.before !== null">{{ inside(difference.before) }}</del>
          {{ ' ' }}
          <ins v-if="difference.after !== null">{{ inside(difference.after) }}</ins>
        </p>
      </div>
    </div>
    <aside v-if="mayRestore">
      <ElButton
        size="small"
        :aria-label="t('history.restoreNamed', { field: group.labels.join(', ') })"
        @click="$emit('restore')"
        >{{ t('history.restoreField') }}</ElButton
      >
    </aside>
  </section>
</template>

<style scoped>
.group {
  display: grid;
  grid-template-columns: 704px minmax(0, 272px);
  gap: 24px;
  align-items: start;
}
.text {
  padding: 12px 40px;
}
h2 {
  font-size: 13px;
  line-height: 20px;
  font-weight: 400;
  color: var(--w-ink2);
}
.outer {
  color: var(--w-ink3);
}
.locale {
  margin-inline-start: 6px;
  font-size: 12px;
}
.how {
  margin: 4px 0 0;
  font-size: 13px;
  color: var(--w-ink2);
}
.content {
  margin: 2px 0 0;
  overflow-wrap: anywhere;
}
.moved {
  color: var(--w-ink2);
}
aside {
  padding-block: 12px;
}
</style>
