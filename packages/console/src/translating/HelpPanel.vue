<script setup lang="ts">
import {
  codeFaults,
  printCoded,
  termsIn,
  wordsOf,
  type GlossaryTerm,
  type MemoryMatch,
  type UnitView,
} from '@wisteria/core'
import { computed } from 'vue'
import { t } from '../messages'
import { wordsIn } from './bench'

/** What helps with a text: earlier translations of the same or nearly the same one, and the terms of the site in it. */
const { unit, text, source, locale, terms, matches } = defineProps<{
  unit: UnitView
  text: string
  source: string
  locale: string
  terms: readonly GlossaryTerm[]
  matches: readonly MemoryMatch[]
}>()
const emit = defineEmits<{ take: [text: string] }>()

const findings = computed(() =>
  termsIn(terms, { text: wordsOf(unit.source), locale: source }, { text: wordsIn(unit, text), locale }),
)
/** With its codes, where they are those of the source; otherwise its words. */
const textOf = ({ translation }: MemoryMatch): string =>
  codeFaults(unit.source, translation).length === 0 ? printCoded(translation) : wordsOf(translation)
const take = (index: number): void => {
  const match = matches[index]
  if (match) emit('take', textOf(match))
}
defineExpose({ takeBest: () => take(0) })
</script>

<template>
  <ul v-if="findings.length > 0" class="terms" :aria-label="t('translating.terms')">
    <li v-for="{ term, is, use, found } in findings" :key="term.term" :class="is">
      <bdi :lang="source">{{ term.term }}</bdi>
      <template v-if="use"
        ><span aria-hidden="true"> → </span><b :lang="locale">{{ use }}</b></template
      >
      <span v-if="is === 'kept'" class="quiet" role="img" :aria-label="t('translating.termKept')">✓</span>
      <span v-else-if="is === 'missing'">{{ t('translating.termMissing') }}</span>
      <span v-else-if="is === 'avoided'">{{ t('translating.termAvoided', { word: found ?? '' }) }}</span>
      <small v-if="term.note" class="quiet">{{ term.note }}</small>
    </li>
  </ul>
  <ol v-if="matches.length > 0" class="matches" :aria-label="t('translating.memory')">
    <li v-for="(match, index) in matches" :key="`${match.entry} ${index}`">
      <button
        class="plain match"
        type="button"
        :title="t('translating.matchFrom', { title: match.title, place: match.labels.join(' › ') })"
        @click="take(index)"
      >
        <span class="likeness">{{ t('translating.likeness', { percent: match.likeness }) }}</span>
        <span class="serif" dir="auto" :lang="locale">{{ wordsOf(match.translation) }}</span>
      </button>
      <p v-if="match.likeness < 100" class="quiet" :lang="source" dir="auto">{{ wordsOf(match.source) }}</p>
    </li>
  </ol>
</template>

<style scoped>
ul,
ol {
  margin: 0;
  padding: 0;
  list-style: none;
}
.terms {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
}
.missing {
  color: var(--w-edited);
}
.avoided {
  color: var(--w-error);
}
.terms li {
  display: flex;
  flex-wrap: wrap;
  gap: 0 6px;
}
.terms small {
  margin-inline-start: 4px;
}
.match {
  display: grid;
  grid-template-columns: 44px minmax(0, 1fr);
  gap: 8px;
  inline-size: 100%;
  padding: 4px 0;
}
.match:hover .serif {
  text-decoration: underline;
}
.match .serif {
  font-size: 15px;
}
.likeness {
  color: var(--w-ink2);
}
.matches p {
  margin: 0 0 4px 52px;
  font-size: 12px;
}
</style>
