<script setup lang="ts">
import type { NewOrder } from '@wisteria/client'
import type { ConnectorView, TranslationBoard } from '@wisteria/core'
import { decide } from '@wisteria/core'
import { ElButton, ElCheckbox, ElOption, ElSelect } from 'element-plus'
import { computed, ref, watch } from 'vue'
import ConsequenceSheet from '../components/ConsequenceSheet.vue'
import { t } from '../messages'
import { useSending } from '../sending'
import type { Site } from '../session'
import { addWork, toDo } from '../translating/sums'
import TypeChoice from '../translating/TypeChoice.vue'

/** An order for translations: from which connector, into which locale, and of what. */
const open = defineModel<boolean>({ required: true })
const {
  site,
  connectors,
  board = undefined,
  filter = {},
  entry = undefined,
  into = undefined,
} = defineProps<{
  site: Site
  /** Those that are on. */
  connectors: readonly ConnectorView[]
  /** The board, where entries of types are ordered. */
  board?: TranslationBoard
  /** The entries that the board is limited to. */
  filter?: Pick<NewOrder, 'type' | 'where' | 'search'>
  /** The one entry to order. */
  entry?: { readonly id: string; readonly title: string } | undefined
  /** The locale of that entry's translation. */
  into?: string
}>()
const emit = defineEmits<{ ordered: [] }>()

const connector = ref('')
const locale = ref('')
/** A type, or all of them. */
const type = ref('*')
const publishes = ref(false)
const { problems, isBusy, send } = useSending()

const mayInto = (tag: string): boolean => decide(site.caller, 'entry.translate', { locales: [tag] }).allowed
const chosen = computed(() => connectors.find(({ id }) => id === connector.value))
const locales = computed(() =>
  site.settings.locales.filter(
    ({ tag }) => tag !== site.settings.defaultLocale && mayInto(tag) && (chosen.value?.locales?.includes(tag) ?? true),
  ),
)
const mayPublish = computed(() => decide(site.caller, 'entry.publish', { locales: [locale.value] }).allowed)
watch(
  open,
  (isOpen) => {
    if (!isOpen) return
    connector.value = connectors[0]?.id ?? ''
    publishes.value = false
    problems.value = []
  },
  { immediate: true },
)
watch(
  locales,
  (now) => {
    const wanted = into ?? locale.value
    locale.value = now.some(({ tag }) => tag === wanted) ? wanted : (now[0]?.tag ?? '')
  },
  { immediate: true },
)

const size = computed(() => {
  const sums = (board?.types ?? [])
    .filter((each) => type.value === '*' || each.type === type.value)
    .flatMap(({ work }) => work[locale.value] ?? [])
  const { units, words } = addWork(sums)
  return { texts: toDo(units), words: toDo(words) }
})

async function order(): Promise<void> {
  const scope = entry ? { ids: [entry.id] } : { ...filter, ...(type.value === '*' ? {} : { type: type.value }) }
  const isDone = await send(() =>
    site.editor.ordering.order({
      ...scope,
      connector: connector.value,
      locale: locale.value,
      ...(publishes.value ? { publish: true } : {}),
    }),
  )
  if (!isDone) return
  open.value = false
  emit('ordered')
}
</script>

<template>
  <ConsequenceSheet
    v-model="open"
    fits
    :title="entry ? t('ordering.orderOf', { title: entry.title }) : t('ordering.orderTitle')"
  >
    <div class="sheet-fields">
      <label class="choice"
        >{{ t('ordering.connector') }}
        <ElSelect v-model="connector"
          ><ElOption v-for="each in connectors" :key="each.id" :value="each.id" :label="each.label" /></ElSelect
      ></label>
      <label class="choice"
        >{{ t('translating.into') }}
        <ElSelect v-model="locale" :no-data-text="t('ordering.noLocale')"
          ><ElOption v-for="{ tag, label } in locales" :key="tag" :value="tag" :label="`${label} (${tag})`" /></ElSelect
      ></label>
      <TypeChoice v-if="board && !filter.type" v-model="type" :board="board" />
      <ElCheckbox v-model="publishes" :disabled="!mayPublish">{{ t('ordering.publish') }}</ElCheckbox>
      <p class="quiet note">
        <template v-if="board">{{ t('today.textsAndWords', size) }}<br /></template>
        {{ t(publishes ? 'ordering.publishedExplained' : 'ordering.draftExplained') }}
      </p>
    </div>
    <p v-for="problem in problems" :key="problem" class="error-text" role="alert">{{ problem }}</p>
    <template #foot>
      <span class="gap" />
      <ElButton @click="open = false">{{ t('common.notNow') }}</ElButton>
      <ElButton type="primary" :disabled="locale === ''" :loading="isBusy" @click="order">{{
        t('ordering.order')
      }}</ElButton>
    </template>
  </ConsequenceSheet>
</template>

<style scoped>
.note {
  grid-column: 1 / -1;
  margin: 0;
}
.gap {
  flex: 1;
}
</style>
