<script setup lang="ts">
import {
  completeCondition,
  completeSelection,
  draftFacts,
  publicFacts,
  readCondition,
  readSelection,
  typeNamed,
  type WisteriaError,
} from '@wisteria/core'
import { ElInput, ElOption, ElSelect } from 'element-plus'
import { computed } from 'vue'
import { t } from '../messages'
import type { Site } from '../session'
import CodeField from './CodeField.vue'
import type { RestQuestion } from './question'

/** A query to the REST API, built from its parameters. */
const { site, mayReadDrafts } = defineProps<{ site: Site; mayReadDrafts: boolean }>()
const question = defineModel<RestQuestion>({ required: true })
const emit = defineEmits<{ run: [] }>()

const change = (more: Partial<RestQuestion>): void => {
  question.value = { ...question.value, ...more }
}
const owners = computed(() => {
  const type = typeNamed(site.model, question.value.type)
  return question.value.ask === 'at' ? site.model.types : type ? [type] : []
})
const facts = computed(() => (question.value.edition === 'draft' ? draftFacts : publicFacts))

/** The error of a check, and its place. */
function mistakeIn(text: string, check: () => void): { message: string; from: number } | undefined {
  if (text.trim() === '') return undefined
  try {
    check()
    return undefined
  } catch (error) {
    const { line = 1, column = 1 } = (error as WisteriaError).problems[0] ?? {}
    const before = text.split('\n').slice(0, line - 1)
    return {
      message: (error as WisteriaError).message,
      from: before.join('\n').length + (line > 1 ? 1 : 0) + column - 1,
    }
  }
}
const wrongCondition = (text: string) =>
  mistakeIn(text, () =>
    readCondition(text, {
      model: site.model,
      owners: owners.value,
      systemFacts: facts.value,
      timeZone: site.settings.timeZone,
    }),
  )
const wrongSelection = (text: string) => mistakeIn(text, () => void readSelection(text, site.model, owners.value))
const inCondition = (text: string, at: number) => completeCondition(text, at, site.model, owners.value, facts.value)
const inSelection = (text: string, at: number) => completeSelection(text, at, site.model, owners.value)
</script>

<template>
  <form @submit.prevent="emit('run')">
    <div class="row">
      <ElSelect
        :model-value="question.ask"
        :aria-label="t('query.whatIsAskedFor')"
        @update:model-value="change({ ask: $event })"
      >
        <ElOption value="list" :label="t('query.entriesOf')" />
        <ElOption value="at" :label="t('query.atPath')" />
      </ElSelect>
      <ElInput
        v-if="question.ask === 'at'"
        :model-value="question.path"
        :aria-label="t('query.path')"
        dir="ltr"
        placeholder="/activities/night-walk"
        @update:model-value="change({ path: $event })"
      />
      <ElSelect
        v-else
        :model-value="question.type"
        :aria-label="t('query.type')"
        @update:model-value="change({ type: $event })"
      >
        <ElOption v-for="item in site.model.types" :key="item.name" :value="item.name" :label="item.label" />
      </ElSelect>
    </div>
    <template v-if="question.ask === 'list'">
      <label class="field"
        ><span><code>where</code> {{ t('query.aCondition') }}</span
        ><CodeField
          :key="`where ${question.type}`"
          label="where"
          :model-value="question.where"
          placeholder='format = "walk" and starts &gt;= now'
          :complete="inCondition"
          :mistake="wrongCondition"
          @update:model-value="change({ where: $event })"
          @run="emit('run')"
      /></label>
      <div class="row">
        <label class="field"
          ><span><code>search</code> {{ t('query.words') }}</span
          ><ElInput :model-value="question.search" aria-label="search" @update:model-value="change({ search: $event })"
        /></label>
        <label class="field"
          ><span><code>sort</code></span
          ><ElInput
            :model-value="question.sort"
            aria-label="sort"
            dir="ltr"
            placeholder="-entry.updated"
            @update:model-value="change({ sort: $event })"
        /></label>
      </div>
    </template>
    <label class="field"
      ><span><code>pick</code> {{ t('query.whatOfEach') }}</span
      ><CodeField
        :key="`pick ${question.ask} ${question.type}`"
        label="pick"
        :model-value="question.pick"
        placeholder="title, museum(name)"
        :complete="inSelection"
        :mistake="wrongSelection"
        @update:model-value="change({ pick: $event })"
        @run="emit('run')"
    /></label>
    <div class="row">
      <label v-if="question.ask === 'list'" class="field"
        ><span><code>first</code></span
        ><ElInput
          :model-value="question.first"
          aria-label="first"
          inputmode="numeric"
          placeholder="20"
          @update:model-value="change({ first: $event })"
      /></label>
      <label v-if="question.ask === 'list'" class="field"
        ><span><code>locale</code></span
        ><ElSelect
          :model-value="question.locale"
          aria-label="locale"
          clearable
          :placeholder="site.settings.defaultLocale"
          @update:model-value="change({ locale: $event ?? '' })"
        >
          <ElOption v-for="locale in site.settings.locales" :key="locale.tag" :value="locale.tag" :label="locale.tag" />
          <ElOption value="auto" label="auto" /></ElSelect
      ></label>
      <label class="field"
        ><span><code>edition</code></span
        ><ElSelect
          :model-value="question.edition"
          aria-label="edition"
          @update:model-value="change({ edition: $event })"
        >
          <ElOption value="published" label="published" />
          <ElOption value="draft" label="draft" :disabled="!mayReadDrafts" /></ElSelect
      ></label>
    </div>
  </form>
</template>

<style scoped>
form {
  display: flex;
  flex-direction: column;
  gap: 12px;
}
.row {
  display: grid;
  grid-auto-flow: column;
  grid-auto-columns: 1fr;
  gap: 12px;
}
.field {
  display: flex;
  flex-direction: column;
  gap: 4px;
  font-size: 12px;
  color: var(--w-ink2);
}
</style>
