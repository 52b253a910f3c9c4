<script setup lang="ts">
import type { TranslationExport, TranslationFormat } from '@wisteria/client'
import type { TranslationBoard } from '@wisteria/core'
import { ElButton, ElCheckbox, ElOption, ElSelect } from 'element-plus'
import { computed, ref, watch } from 'vue'
import ConsequenceSheet from '../components/ConsequenceSheet.vue'
import type { Site } from '../session'
import { t } from '../messages'
import { addWork, toDo } from './sums'
import TypeChoice from './TypeChoice.vue'

/** A file for translators: into which locale, of what, and in which format. */
const open = defineModel<boolean>({ required: true })
const { site, board, filter } = defineProps<{
  site: Site
  board: TranslationBoard
  /** The entries that the board is limited to. */
  filter: Pick<TranslationExport, 'type' | 'where' | 'search'>
}>()

const formats: readonly TranslationFormat[] = ['xliff', 'csv', 'xlsx']
const locale = ref('')
const format = ref<TranslationFormat>('xliff')
/** A type, or all of them. */
const type = ref('*')
const everything = ref(false)
const follow = ref(0)
watch(
  open,
  (isOpen) => {
    if (isOpen && locale.value === '') locale.value = board.locales[0]?.tag ?? ''
  },
  { immediate: true },
)

const order = computed<TranslationExport>(() => ({
  ...filter,
  locale: locale.value,
  format: format.value,
  ...(type.value === '*' ? {} : { type: type.value }),
  units: everything.value ? 'all' : 'todo',
  ...(follow.value === 0 ? {} : { follow: follow.value }),
}))
const address = computed(() => site.editor.translations.exportAddress(order.value))
const size = computed(() => {
  const sums = board.types
    .filter((each) => type.value === '*' || each.type === type.value)
    .flatMap(({ work }) => work[locale.value] ?? [])
  const { units, words } = addWork(sums)
  const done = everything.value ? { texts: units.done, words: words.done } : { texts: 0, words: 0 }
  return { texts: toDo(units) + done.texts, words: toDo(words) + done.words }
})
const linkedLabel = (depth: number): string =>
  depth === 0 ? t('translating.linkedNone') : t('translating.linkedDepth', { n: depth })
</script>

<template>
  <ConsequenceSheet v-model="open" fits :title="t('translating.exportTitle')">
    <div class="sheet-fields">
      <label class="choice"
        >{{ t('translating.into') }}
        <ElSelect v-model="locale"
          ><ElOption
            v-for="{ tag, label } in board.locales"
            :key="tag"
            :value="tag"
            :label="`${label} (${tag})`" /></ElSelect
      ></label>
      <TypeChoice v-if="!filter.type" v-model="type" :board="board" />
      <label class="choice"
        >{{ t('translating.format') }}
        <ElSelect v-model="format"
          ><ElOption
            v-for="each in formats"
            :key="each"
            :value="each"
            :label="t(`translating.formats.${each}`)" /></ElSelect
      ></label>
      <label class="choice"
        >{{ t('translating.linkedEntries') }}
        <ElSelect v-model="follow"
          ><ElOption v-for="depth in [0, 1, 2, 3]" :key="depth" :value="depth" :label="linkedLabel(depth)" /></ElSelect
      ></label>
      <ElCheckbox v-model="everything">{{ t('translating.exportAll') }}</ElCheckbox>
      <p class="quiet">{{ t('today.textsAndWords', size) }}</p>
    </div>
    <template #foot>
      <span class="gap" />
      <ElButton @click="open = false">{{ t('common.notNow') }}</ElButton>
      <ElButton tag="a" type="primary" :href="address" download @click="open = false">{{
        t('translating.export')
      }}</ElButton>
    </template>
  </ConsequenceSheet>
</template>

<style scoped>
.gap {
  flex: 1;
}
a.el-button {
  text-decoration: none;
}
</style>
