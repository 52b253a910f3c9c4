<script setup lang="ts">
import { readCondition, type ContentType, type WisteriaError } from '@wisteria/core'
import { ElInput } from 'element-plus'
import { computed, ref, watch } from 'vue'
import type { Site } from '../session'

/** One line that finds entries: plain words look in the name; anything that reads as a condition is one. */
const { site, type, condition, trouble } = defineProps<{
  site: Site
  type: ContentType
  condition: string
  trouble?: unknown
}>()
const emit = defineEmits<{ change: [where: string] }>()

const wordsIn = (where: string): string => {
  const found = new RegExp(`^${type.namedBy} contains ("(?:[^"\\\\]|\\\\.)*")$`).exec(where)
  return found ? (JSON.parse(found[1]!) as string) : where
}
const written = ref(wordsIn(condition))
watch(
  () => condition,
  (now) => (written.value = wordsIn(now)),
)

type Reading = { readonly where: string; readonly hint: string } | { readonly error: string }

/** What the line means: nothing, words, a condition, or a condition with a mistake in it. */
const reading = computed<Reading>(() => {
  const text = written.value.trim()
  if (text === '') return { where: '', hint: '' }
  try {
    readCondition(text, {
      model: site.model,
      owners: [type],
      systemFacts: ['type', 'state', 'updated', 'published'],
      timeZone: site.settings.timeZone,
    })
    return { where: text, hint: 'Condition' }
  } catch (error) {
    const looksLikeOne = /[=<>"$]|\b(contains|has value|has no value|in \[)/.test(text)
    if (looksLikeOne) return { error: (error as WisteriaError).message }
    return { where: `${type.namedBy} contains ${JSON.stringify(text)}`, hint: `Name contains “${text}”` }
  }
})

function submit(): void {
  if ('where' in reading.value) emit('change', reading.value.where)
}
</script>

<template>
  <form class="line" role="search" @submit.prevent="submit">
    <label for="condition" class="visually-hidden">Find {{ type.label.toLowerCase() }}</label>
    <ElInput
      id="condition"
      v-model="written"
      clearable
      :placeholder="`Words, or a condition such as $state = &quot;edited&quot;`"
      @clear="$nextTick(submit)"
    />
    <p class="hint" :class="{ 'error-text': 'error' in reading }" aria-live="polite">
      {{
        'error' in reading
          ? reading.error
          : trouble instanceof Error
            ? trouble.message
            : reading.hint && `${reading.hint}. Enter finds.`
      }}
    </p>
  </form>
</template>

<style scoped>
.line {
  max-inline-size: 704px;
}
.hint {
  min-block-size: 16px;
  margin: 4px 0 0;
  font-size: 12px;
  line-height: 16px;
  color: var(--w-ink2);
}
</style>
