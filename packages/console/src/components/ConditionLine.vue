<script setup lang="ts">
import { editFacts, publicFacts, readCondition, withTest, type ContentType, type WisteriaError } from '@wisteria/core'
import { ElInput } from 'element-plus'
import { computed, ref, useId, watch } from 'vue'
import type { Fault } from '../editor/unreadable'
import type { Site } from '../session'
import ConditionHelp from './ConditionHelp.vue'
import ConditionPieces from './ConditionPieces.vue'
import { t } from '../messages'

/** The meaning of the line: words in any of an entry's texts, or a condition. */
export interface Asked {
  readonly search?: string
  readonly where?: string
}

/** One line that finds entries: plain words search their texts; a text that parses as a condition is one. */
const {
  site,
  type,
  asked,
  trouble,
  here,
  onlyCondition = false,
  disabled = false,
  typed,
} = defineProps<{
  site: Site
  /** Undefined where entries of all types are listed. */
  type: ContentType | undefined
  asked: Asked
  trouble?: unknown
  /** The type of the entry that a list stands in, `here` in its condition. */
  here?: ContentType
  /** For conditions without a search, as in a list that fills itself: only the facts that readers may use. */
  onlyCondition?: boolean
  disabled?: boolean
  /** A typed text that is no condition: it is shown again. */
  typed?: string | undefined
}>()
const emit = defineEmits<{
  change: [asked: Asked]
  /** With `onlyCondition`: the text is no condition; undefined once it is. */
  unreadable: [fault: Fault | undefined]
}>()

const id = useId()
const owners = computed(() => (type ? [type] : site.model.types))
const written = ref(typed ?? asked.where ?? asked.search ?? '')
watch(
  () => asked,
  (now) => {
    const text = now.where ?? now.search ?? ''
    // The typed text stays as it is, with a space at its end.
    if (text !== written.value.trim() && !('error' in reading.value && onlyCondition)) written.value = text
  },
)

type Reading = { readonly asked: Asked; readonly hint: string } | { readonly error: string }

/** The meaning of the line: nothing, words, a condition, or a condition with an error. */
const reading = computed<Reading>(() => {
  const text = written.value.trim()
  if (text === '') return { asked: {}, hint: '' }
  try {
    readCondition(text, {
      model: site.model,
      owners: owners.value,
      systemFacts: onlyCondition ? publicFacts : editFacts,
      timeZone: site.settings.timeZone,
      ...(here ? { here } : {}),
    })
    return { asked: { where: text }, hint: t('conditions.condition') }
  } catch (error) {
    const looksLikeOne = /[=<>"$]|\b(contains|has value|has no value|in \[)/.test(text)
    if (looksLikeOne || onlyCondition) return { error: (error as WisteriaError).message }
    return { asked: { search: text }, hint: t('conditions.words', { text }) }
  }
})

/** A chosen test is added to the condition in the line; words are replaced by it. */
function add(test: string): void {
  const { value: now } = reading
  onInput('asked' in now && now.asked.where === undefined ? test : withTest(written.value, test))
  submit()
}

function use(condition: string): void {
  onInput(condition)
  submit()
}

/** A part of a form is read as it is typed, like every other control; a search waits for Enter. */
function onInput(text: string): void {
  written.value = text
  if (!onlyCondition) return
  const { value: now } = reading
  emit('unreadable', 'error' in now ? { text, message: now.error } : undefined)
  submit()
}

function submit(): void {
  if ('asked' in reading.value) emit('change', reading.value.asked)
}
</script>

<template>
  <component
    :is="onlyCondition ? 'div' : 'form'"
    class="line"
    :role="onlyCondition ? undefined : 'search'"
    @submit.prevent="submit"
  >
    <label :for="id" class="visually-hidden">{{
      onlyCondition
        ? t('conditions.condition')
        : t('conditions.find', { what: type?.label.toLowerCase() ?? t('conditions.entries') })
    }}</label>
    <div class="both">
      <ElInput
        :id="id"
        :model-value="written"
        class="words"
        clearable
        :disabled="disabled"
        :placeholder="onlyCondition ? t('conditions.allOrCondition') : t('conditions.wordsOrCondition')"
        @keydown.enter.prevent="submit"
        @clear="$nextTick(submit)"
        @update:model-value="onInput"
      />
      <ConditionPieces :site="site" :types="owners" :disabled="disabled" @add="add" />
      <ConditionHelp v-if="!onlyCondition" :site="site" :types="owners" @use="use" />
    </div>
    <p class="hint" :class="{ 'error-text': 'error' in reading }" aria-live="polite">
      {{
        'error' in reading
          ? reading.error
          : trouble instanceof Error
            ? trouble.message
            : reading.hint && (onlyCondition ? reading.hint : t('conditions.hint', { hint: reading.hint }))
      }}
    </p>
  </component>
</template>

<style scoped>
.both {
  display: flex;
  gap: 8px;
}
.words {
  flex: 1;
  max-inline-size: 704px;
}
.hint {
  min-block-size: 16px;
  margin: 4px 0 0;
  font-size: 12px;
  line-height: 16px;
  color: var(--w-ink2);
}
@media (max-width: 600px) {
  .both {
    flex-wrap: wrap;
  }
  .words {
    flex: 1 1 100%;
  }
}
</style>
