<script setup lang="ts">
import { readCondition, type ContentType, type WisteriaError } from '@wisteria/core'
import { ElInput } from 'element-plus'
import { computed, ref, watch } from 'vue'
import type { Site } from '../session'

/** What the line asks for: words in any of an entry's texts, or a condition. */
export interface Asked {
  readonly search?: string
  readonly where?: string
}

/** One line that finds entries: plain words look in their texts; anything that reads as a condition is one. */
const { site, type, asked, trouble } = defineProps<{
  site: Site
  /** Undefined where entries of all types are listed. */
  type: ContentType | undefined
  asked: Asked
  trouble?: unknown
}>()
const emit = defineEmits<{ change: [asked: Asked] }>()

const written = ref(asked.where ?? asked.search ?? '')
watch(
  () => asked,
  (now) => (written.value = now.where ?? now.search ?? ''),
)

type Reading = { readonly asked: Asked; readonly hint: string } | { readonly error: string }

/** What the line means: nothing, words, a condition, or a condition with a mistake in it. */
const reading = computed<Reading>(() => {
  const text = written.value.trim()
  if (text === '') return { asked: {}, hint: '' }
  try {
    readCondition(text, {
      model: site.model,
      owners: type ? [type] : site.model.types,
      systemFacts: ['type', 'state', 'updated', 'published'],
      timeZone: site.settings.timeZone,
    })
    return { asked: { where: text }, hint: 'Condition' }
  } catch (error) {
    const looksLikeOne = /[=<>"$]|\b(contains|has value|has no value|in \[)/.test(text)
    if (looksLikeOne) return { error: (error as WisteriaError).message }
    return { asked: { search: text }, hint: `Words: ${text}` }
  }
})

function submit(): void {
  if ('asked' in reading.value) emit('change', reading.value.asked)
}
</script>

<template>
  <form class="line" role="search" @submit.prevent="submit">
    <label for="condition" class="visually-hidden">Find {{ type?.label.toLowerCase() ?? 'entries' }}</label>
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
