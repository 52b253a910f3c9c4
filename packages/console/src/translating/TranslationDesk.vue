<script setup lang="ts">
import type { EntryTranslation } from '@wisteria/client'
import { decide, isToDo, translatedLocales, type UnitView, type WorkEntry } from '@wisteria/core'
import { ElButton, ElCheckbox, ElOption, ElSelect } from 'element-plus'
import { computed, nextTick, ref, shallowRef, useTemplateRef, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import EntryLink from '../components/EntryLink.vue'
import PageTrouble from '../components/PageTrouble.vue'
import StripBar from '../components/StripBar.vue'
import type { Site } from '../session'
import { useShortcuts } from '../shortcuts'
import { clock } from '../times'
import OrderButton from '../ordering/OrderButton.vue'
import TaskLine from './TaskLine.vue'
import UnitRow from './UnitRow.vue'
import WorkList from './WorkList.vue'
import { useHelp } from './help'
import { addCounts, toDo } from './sums'
import { useBench, type Mark, type Row } from './bench'
import { messageOf, t } from '../messages'

/** An entry's texts in their source locale beside their translation, and the entries that wait. */
const props = defineProps<{ site: Site; locale: string; entry: string | undefined }>()
const route = useRoute()
const router = useRouter()

const work = ref<WorkEntry[]>([])
const nextWork = ref<string | null>(null)
const trouble = shallowRef<unknown>()
const result = ref('')
const isOpen = ref(false)
/** Rows that are shown although nothing is to be done in them: they were worked on since the entry was opened. */
const shownKeys = ref(new Set<string>())
const hereKey = ref<string>()

const query = (name: string): string | undefined => {
  const value = route.query[name]
  return typeof value === 'string' && value !== '' ? value : undefined
}
const follow = computed(() => Math.min(3, Number(query('linked') ?? 0) || 0))
const showsAll = computed(() => query('show') === 'all')
const setQuery = (change: Record<string, string | undefined>): void =>
  void router.replace({ ...route, query: { ...route.query, ...change } } as never)

const filter = computed(() => ({
  type: query('type'),
  where: query('where'),
  search: query('search'),
  ...(query('mine') ? { assignee: 'me' } : {}),
  ready: query('ready') !== undefined,
}))
const targets = computed(() => translatedLocales(props.site.settings))
const localeLabel = computed(() => targets.value.find(({ tag }) => tag === props.locale)?.label ?? props.locale)
const entries = computed<readonly EntryTranslation[]>(() => bench.entries.value)
const main = computed(() => entries.value[0])
/** Whether the user may translate something on the page: files belong to no region. */
const mayTranslate = ({ type, region }: EntryTranslation): boolean =>
  decide(props.site.caller, 'entry.translate', {
    locales: [props.locale],
    ...(type === 'asset' ? {} : { type, region }),
  }).allowed
const mayWrite = computed(() => main.value !== undefined && mayTranslate(main.value))
const rows = computed(() => bench.rows.value)
const visible = computed(() =>
  showsAll.value ? rows.value : rows.value.filter((row) => waits(row) || shownKeys.value.has(row.key)),
)
const groups = computed(() =>
  entries.value
    .map((translation) => ({
      translation,
      rows: visible.value.filter((row) => row.entry === translation.entry),
    }))
    .filter(({ rows: some, translation }) => some.length > 0 || translation === main.value),
)
/** Whether a translator has something to do in a row. A slug is made by itself from a text that is still to come. */
function waits({ unit, entry }: Row): boolean {
  const from = unit.madeFrom && rows.value.find((row) => row.entry === entry && row.unit.unit === unit.madeFrom)
  return isToDo(unit) && !(from && from.unit.state === 'missing')
}
const placeOf = (unit: UnitView | undefined): string | undefined => unit?.unit.slice(0, unit.unit.indexOf('#'))
const isAlone = ({ unit }: Row, { type, units }: EntryTranslation): boolean =>
  type !== 'asset' && units.filter((other) => placeOf(other) === placeOf(unit)).length === 1

const progress = computed(() => {
  const units = addCounts(entries.value.map((each) => each.progress.units))
  return {
    done: units.done,
    all: units.done + toDo(units),
    words: toDo(addCounts(entries.value.map((each) => each.progress.words))),
  }
})

async function loadWork(isMore = false): Promise<void> {
  const page = await props.site.editor.translations.work({
    locale: props.locale,
    ...filter.value,
    first: 50,
    ...(isMore && nextWork.value !== null ? { after: nextWork.value } : {}),
  })
  work.value = isMore ? [...work.value, ...page.entries] : [...page.entries]
  nextWork.value = page.next
}

/** Keeps the counts in the list as they are on the page. */
function onSaved(translation: EntryTranslation): void {
  work.value = work.value.map((one) =>
    one.entry === translation.entry ? { ...one, progress: translation.progress, task: translation.task } : one,
  )
}

const bench = useBench(props.site, props.locale, onSaved)
const help = useHelp(props.site, props.locale)
watch(hereKey, (key) => help.show(rows.value.find((row) => row.key === key)))

async function load(): Promise<void> {
  trouble.value = undefined
  try {
    await loadWork()
    const first = props.entry ?? work.value[0]?.entry
    if (first === undefined) isOpen.value = true
    else if (props.entry === undefined) await goTo(first)
    else await openEntry(first)
  } catch (error) {
    trouble.value = error
  }
}
const goTo = (entry: string) =>
  router.replace({
    name: 'translate',
    params: { site: props.site.name, locale: props.locale, entry },
    query: route.query,
  })

async function openEntry(entry: string): Promise<void> {
  result.value = ''
  try {
    await bench.open(entry, follow.value)
    shownKeys.value = new Set()
    isOpen.value = true
    trouble.value = undefined
    await nextTick()
    focusRow(visible.value.find(waits) ?? visible.value[0])
  } catch (error) {
    trouble.value = error
  }
}
void load()
watch([() => props.entry, follow], ([entry]) => {
  if (entry !== undefined) void openEntry(entry)
})

const rowElements = useTemplateRef<InstanceType<typeof UnitRow>[]>('units')
function focusRow(row: Row | undefined): void {
  if (!row) return
  hereKey.value = row.key
  const index = groups.value.flatMap((group) => group.rows).findIndex(({ key }) => key === row.key)
  void nextTick(() => rowElements.value?.[index]?.focus())
}
const hereIndex = computed(() => visible.value.findIndex(({ key }) => key === hereKey.value))
const step = (by: 1 | -1) => focusRow(visible.value[hereIndex.value + by])

function write(row: Row, text: string): void {
  shownKeys.value.add(row.key)
  result.value = ''
  bench.write(row, text)
}
async function mark(row: Row, as: Mark): Promise<void> {
  shownKeys.value.add(row.key)
  await bench.mark(row, as)
}

/**
 * Accepts the text as it stands, and goes on: to the next text with work, then to the next entry. The focus moves at once, and saving
 * goes on behind it: whoever types fast loses no letter.
 */
async function doneNext(): Promise<void> {
  const row = visible.value[hereIndex.value]
  const isWritten = (candidate: Row): boolean => bench.written.has(candidate.key)
  const after = visible.value.slice(hereIndex.value + 1)
  const next = after.find((candidate) => waits(candidate) && !isWritten(candidate)) ?? after.find(isWritten)
  focusRow(next)
  const isRight = row !== undefined && mayWrite.value && row.unit.state === 'outdated' && !isWritten(row)
  const saving = isRight ? mark(row, 'stillRight') : bench.saveAll()
  if (next) return
  await saving
  await nextEntry()
}
async function nextEntry(): Promise<void> {
  const here = work.value.findIndex(({ entry }) => entry === props.entry)
  if (here === work.value.length - 1 && nextWork.value !== null) await loadWork(true)
  const next = work.value.slice(here + 1).find((one) => toDo(one.progress.units) > 0 || filter.value.ready)
  if (next) await goTo(next.entry)
  else result.value = t('translating.noMore', { locale: localeLabel.value })
}
async function setReady(): Promise<void> {
  const isReady = main.value!.task?.readyAt == null
  await bench.setReady(main.value!.entry, isReady)
  if (bench.trouble.value === '')
    result.value = isReady ? t('translating.markedReady') : t('translating.markedNotReady')
}
const assign = (assignee: string | null, due: string | null) => assignMany([main.value!.entry], assignee, due)
async function assignMany(entries: readonly string[], assignee: string | null, due: string | null): Promise<void> {
  try {
    await props.site.editor.translations.assign(entries, props.locale, assignee, due)
    if (main.value && entries.includes(main.value.entry)) await bench.open(main.value.entry, follow.value)
    await loadWork()
    result.value = t('translating.assigned')
  } catch (error) {
    result.value = messageOf(error)
  }
}

const linkedLabel = (depth: number): string =>
  depth === 0 ? t('translating.linkedNone') : t('translating.linkedDepth', { n: depth })

useShortcuts({
  'alt+arrowdown': () => step(1),
  'alt+arrowup': () => step(-1),
  'mod+enter': () => void doneNext(),
  'mod+s': () => void bench.saveAll(),
})
const status = computed(() => {
  if (bench.isSaving.value) return t('translating.saving')
  if (bench.written.size > 0) return t('translating.unsaved', { n: bench.written.size })
  return bench.savedAt.value ? t('translating.saved', { time: clock(bench.savedAt.value) }) : ''
})
</script>

<template>
  <main class="desk" data-region="work">
    <WorkList
      :entries="work"
      :here="entry"
      :has-more="nextWork !== null"
      :site="site"
      :locale="locale"
      @assign="assignMany"
      @choose="goTo"
      @more="loadWork(true).catch((error: unknown) => (trouble = error))"
    />
    <div class="scroll">
      <PageTrouble v-if="trouble" :error="trouble" @again="load" />
      <article v-else-if="main" class="paper">
        <header>
          <h1 class="serif" dir="auto">{{ main.title || t('common.noName') }}</h1>
          <p class="choices">
            <span class="pair">
              <bdi>{{ main.source }}</bdi>
              <span aria-hidden="true">→</span>
              <ElSelect
                :model-value="locale"
                size="small"
                :aria-label="t('translating.into')"
                class="locales"
                @change="
                  (tag: string) =>
                    router.push({
                      name: 'translate',
                      params: { site: site.name, locale: tag, entry },
                      query: route.query,
                    })
                "
                ><ElOption v-for="{ tag, label } in targets" :key="tag" :value="tag" :label="`${label} (${tag})`"
              /></ElSelect>
            </span>
            <ElCheckbox
              :model-value="showsAll"
              size="small"
              @change="(on) => setQuery({ show: on === true ? 'all' : undefined })"
              >{{ t('translating.showAll') }}</ElCheckbox
            >
            <ElSelect
              :model-value="follow"
              size="small"
              :aria-label="t('translating.linkedEntries')"
              class="linked"
              @change="(depth: number) => setQuery({ linked: depth === 0 ? undefined : String(depth) })"
              ><ElOption v-for="depth in [0, 1, 2, 3]" :key="depth" :value="depth" :label="linkedLabel(depth)"
            /></ElSelect>
            <EntryLink :id="main.entry" :site="site.name" :title="t('translating.openEntry')" />
          </p>
          <TaskLine :task="main.task" :site="site" :locale="locale" @assign="assign" />
        </header>
        <p v-if="visible.length === 0" class="content none">
          {{ t('translating.nothingLeft', { locale: localeLabel }) }}
        </p>
        <section v-for="group in groups" :key="group.translation.entry">
          <h2 v-if="group.translation !== main" class="linked-title serif" dir="auto">
            {{ group.translation.title || t('common.noName') }}
            <small v-if="group.translation.type === 'asset'" class="quiet">{{ t('translating.textsOfFile') }}</small>
          </h2>
          <UnitRow
            v-for="(row, index) in group.rows"
            :key="row.key"
            ref="units"
            :unit="row.unit"
            :text="bench.textOf(row)"
            :source="group.translation.source"
            :locale="locale"
            :is-here="row.key === hereKey"
            :may-write="mayTranslate(group.translation)"
            :is-alone="isAlone(row, group.translation)"
            :is-same-field="placeOf(row.unit) === placeOf(group.rows[index - 1]?.unit)"
            :is-changed="bench.written.has(row.key)"
            :theirs="bench.theirs.get(row.key)"
            :refused="bench.refused.get(row.key)"
            :terms="help.terms.value"
            :matches="row.key === hereKey ? help.matches.value : []"
            @focus="hereKey = row.key"
            @write="write(row, $event)"
            @mark="mark(row, $event)"
            @settle="bench.settle(row, $event)"
          />
        </section>
        <p v-if="bench.hasMore.value" class="quiet none">{{ t('translating.moreLinked') }}</p>
      </article>
      <p v-else-if="isOpen" class="content none">{{ t('translating.nothing', { locale: localeLabel }) }}</p>
    </div>
  </main>
  <StripBar :result="result">
    <template #start>
      <span v-if="bench.trouble.value" class="error-text" role="alert" :title="bench.trouble.value">{{
        bench.trouble.value
      }}</span>
      <template v-else-if="!result">{{ status }}</template>
    </template>
    <template #middle>
      <span v-if="main">{{ t('translating.progress', progress) }}</span>
      <span v-if="main && progress.words > 0" class="quiet">{{
        t('translating.wordsToDo', { n: progress.words })
      }}</span>
    </template>
    <template #end>
      <OrderButton
        v-if="main && progress.done < progress.all"
        :key="main.entry"
        :site="site"
        :entry="{ id: main.entry, title: main.title }"
        :into="locale"
      />
      <ElButton v-if="main && mayWrite" @click="setReady">{{
        main.task?.readyAt ? t('translating.notReady') : t('translating.ready')
      }}</ElButton>
      <ElButton v-if="main" type="primary" @click="doneNext">{{ t('translating.doneNext') }}</ElButton>
    </template>
  </StripBar>
</template>

<style scoped>
.desk {
  display: grid;
  grid-template-columns: 208px minmax(0, 1046px);
  gap: 16px;
  padding-inline: 12px;
  min-block-size: 0;
}
.scroll {
  overflow: auto;
  padding-block: 24px;
}
.paper {
  min-block-size: 100%;
  padding-block: 24px 40px;
}
header {
  padding-inline: 27px;
  margin-block-end: 12px;
}
h1 {
  font-size: 30px;
  line-height: 38px;
}
.choices {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px 16px;
  margin: 8px 0 0;
}
.pair {
  display: flex;
  align-items: center;
  gap: 8px;
}
.locales {
  inline-size: 180px;
}
.linked {
  inline-size: 190px;
}
.linked-title {
  margin: 24px 27px 4px;
  font-size: 20px;
  line-height: 28px;
}
.linked-title small {
  margin-inline-start: 8px;
  font: 400 13px/20px var(--w-interface);
}
.none {
  padding-inline: 27px;
}
@media (max-width: 900px) {
  .desk {
    grid-template-columns: minmax(0, 1fr);
    overflow: auto;
  }
  .scroll {
    overflow: visible;
  }
}
</style>
