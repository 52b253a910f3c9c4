<script setup lang="ts">
import type { Model } from '@wisteria/core'
import { useTimeoutFn } from '@vueuse/core'
import { ElDialog } from 'element-plus'
import { computed, nextTick, ref, shallowRef, useId, watch } from 'vue'
import { useRouter, type RouteLocationRaw } from 'vue-router'
import { callerOn, openSite, session } from '../session'
import { sectionsFor } from '../site/sections'
import { useShortcuts } from '../shortcuts'
import { messageOf, t } from '../messages'

/** Goes to any entry by its words, and to any type or page by its name. */
const { site } = defineProps<{ site: string }>()
const router = useRouter()
const id = useId()

interface Place {
  readonly title: string
  readonly what: string
  readonly to: RouteLocationRaw
}

const isOpen = ref(false)
const written = ref('')
const at = ref(0)
const model = shallowRef<Model>()
const entries = shallowRef<readonly Place[]>([])
const trouble = ref('')
const input = ref<HTMLInputElement>()

const places = computed<readonly Place[]>(() => [
  ...entries.value,
  ...typesNamed(written.value),
  ...pagesNamed(written.value),
])

/** Pages whose names have a word with this beginning. */
function pagesNamed(text: string): Place[] {
  const wanted = text.trim().toLowerCase()
  if (wanted === '') return []
  const caller = callerOn(session.value?.sites.find(({ name }) => name === site))
  const named: readonly (readonly [title: string, route: string])[] = [
    [t('shell.today'), 'today'],
    [t('shell.entries'), 'entries'],
    [t('lists.tree'), 'tree'],
    [t('lists.bin'), 'bin'],
    [t('shell.assets'), 'assets'],
    [t('shell.translations'), 'translations'],
    [t('translating.glossary'), 'glossary'],
    [t('ordering.orders'), 'orders'],
    [t('shell.model'), 'model'],
    [t('shell.query'), 'query'],
    ...sectionsFor(caller).map(({ label, route }) => [label, route] as const),
    [t('shell.account'), 'account'],
  ]
  return named
    .filter(([title]) =>
      title
        .toLowerCase()
        .split(' ')
        .some((_, index, words) => words.slice(index).join(' ').startsWith(wanted)),
    )
    .map(([title, name]) => ({
      title,
      what: t('goTo.page'),
      to: { name, params: ['sites', 'account'].includes(name) ? {} : { site } },
    }))
}

/** Lists of types whose names have this beginning. */
function typesNamed(text: string): Place[] {
  const wanted = text.trim().toLowerCase()
  if (wanted === '') return []
  return (model.value?.types ?? [])
    .filter((type) => type.cardinality === 'many' && type.label.toLowerCase().startsWith(wanted))
    .map((type) => ({
      title: type.label,
      what: t('goTo.allOfType'),
      to: { name: 'entries', params: { site, type: type.name } },
    }))
}

/** The row chosen by the arrows: it stays chosen when late answers come. */
let chosen: Place | undefined
const isChosen = (place: Place) => JSON.stringify(place.to) === JSON.stringify(chosen?.to)

/** The words that the list answers. */
const answered = ref('')
/** Counts the requests, so that a late answer to an earlier one is not shown. */
let asked = 0
async function ask(): Promise<void> {
  const number = ++asked
  const words = written.value.trim()
  try {
    const { editor, model: known } = await openSite(site)
    const answer = words === '' ? await editor.entries({ first: 8 }) : await editor.search(words, { first: 12 })
    if (number !== asked) return
    model.value = known
    const labels = new Map(known.types.map((type) => [type.name, type.label]))
    entries.value = answer.entries.map((entry) => ({
      title: entry.title || t('common.noName'),
      what: labels.get(entry.type) ?? entry.type,
      to: {
        name: 'entry',
        params: { site, id: entry.id },
        ...('foundIn' in entry ? { query: { locale: entry.foundIn as string } } : {}),
      },
    }))
    at.value = Math.max(
      0,
      places.value.findIndex((place) => isChosen(place)),
    )
    trouble.value = ''
    answered.value = words
  } catch (error) {
    if (number === asked) trouble.value = messageOf(error)
  }
}
const { start: askSoon, stop: askNoMore } = useTimeoutFn(() => void ask(), 120, { immediate: false })
watch(written, () => {
  at.value = 0
  chosen = undefined
  askSoon()
})

function open(): void {
  written.value = ''
  isOpen.value = true
  void ask()
  // Letters typed at once must not be lost: the box exists after two ticks, before it has faded in.
  void nextTick()
    .then(() => nextTick())
    .then(() => input.value?.focus())
}

async function go(place: Place | undefined): Promise<void> {
  if (!place) return
  isOpen.value = false
  await router.push(place.to)
}

/** Enter waits for the answer to the typed text: the list may still show earlier matches. */
async function goToChosen(): Promise<void> {
  // A later request would make this answer obsolete.
  askNoMore()
  if (answered.value !== written.value.trim()) await ask()
  if (trouble.value) return
  await go(places.value[at.value])
}

function onInputKey(event: KeyboardEvent): void {
  const step = event.key === 'ArrowDown' ? 1 : event.key === 'ArrowUp' ? -1 : 0
  if (step !== 0 && places.value.length > 0) {
    event.preventDefault()
    at.value = (at.value + step + places.value.length) % places.value.length
    chosen = places.value[at.value]
    void nextTick(() => document.getElementById(`${id}-${at.value}`)?.scrollIntoView({ block: 'nearest' }))
  } else if (event.key === 'Enter') {
    event.preventDefault()
    void goToChosen()
  }
}
useShortcuts({ 'mod+k': open })
</script>

<template>
  <button class="plain go" type="button" title="Ctrl+K" @click="open">{{ t('goTo.open') }}</button>
  <!-- In a section, so that the head of the dialog is not taken for the head of the page. -->
  <section class="dialog">
    <ElDialog
      v-model="isOpen"
      class="go-to"
      :show-close="false"
      width="560px"
      top="88px"
      :title="t('goTo.goTo')"
      @opened="input?.focus()"
    >
      <template #header>
        <input
          ref="input"
          v-model="written"
          class="serif"
          type="text"
          role="combobox"
          :aria-label="t('goTo.goToEntry')"
          aria-autocomplete="list"
          :aria-expanded="places.length > 0"
          :aria-controls="`${id}-places`"
          :aria-activedescendant="places.length > 0 ? `${id}-${at}` : undefined"
          :placeholder="t('goTo.placeholder')"
          autocomplete="off"
          maxlength="500"
          @keydown="onInputKey"
        />
      </template>
      <p v-if="trouble" class="error-text" role="alert">{{ trouble }}</p>
      <p v-else-if="places.length === 0" class="quiet">{{ t('goTo.nothing') }}</p>
      <ul :id="`${id}-places`" role="listbox" :aria-label="t('goTo.places')">
        <li
          v-for="(place, index) in places"
          :id="`${id}-${index}`"
          :key="index"
          role="option"
          :aria-selected="index === at"
          @click="go(place)"
          @pointermove="at = index"
        >
          <span class="title serif" dir="auto">{{ place.title }}</span>
          <span class="quiet">{{ place.what }}</span>
        </li>
      </ul>
    </ElDialog>
  </section>
</template>

<style scoped>
.dialog {
  display: contents;
}
.go {
  color: var(--w-ink2);
  white-space: nowrap;
}
input {
  inline-size: 100%;
  border: 0;
  border-block-end: 1px solid var(--w-rule);
  background: none;
  padding: 4px 0;
  font-size: 20px;
  line-height: 28px;
}
input:focus-visible {
  outline: none;
  border-color: var(--w-accent);
  box-shadow: 0 1px var(--w-accent);
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  max-block-size: 440px;
  overflow: auto;
}
li {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
  gap: 16px;
  padding: 6px 8px;
  cursor: pointer;
}
li[aria-selected='true'] {
  background: var(--w-accent-wash);
  box-shadow: inset 3px 0 var(--w-accent);
}
[dir='rtl'] li[aria-selected='true'] {
  box-shadow: inset -3px 0 var(--w-accent);
}
.title {
  font-size: 17px;
  line-height: 28px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
li .quiet {
  flex: none;
  font-size: 12px;
}
</style>
