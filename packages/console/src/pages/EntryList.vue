<script setup lang="ts">
import { useTimeoutFn } from '@vueuse/core'
import { WisteriaProblem, type BulkAction, type ChosenEntries, type ListView, type ListedEntry } from '@wisteria/client'
import { decide, fieldNamed, typeNamed } from '@wisteria/core'
import { ElButton, ElDropdown, ElDropdownItem, ElDropdownMenu } from 'element-plus'
import { computed, onMounted, ref, shallowRef, watch } from 'vue'
import { useRouter } from 'vue-router'
import ConditionLine from '../components/ConditionLine.vue'
import PopPanel from '../components/PopPanel.vue'
import PageTrouble from '../components/PageTrouble.vue'
import FreshnessMark from '../components/FreshnessMark.vue'
import StateMark from '../components/StateMark.vue'
import StripBar from '../components/StripBar.vue'
import StartItems from '../automations/StartItems.vue'
import BulkSheet from '../lists/BulkSheet.vue'
import FirstSteps from '../site/FirstSteps.vue'
import ColumnHeads from '../lists/ColumnHeads.vue'
import EntryRow from '../lists/EntryRow.vue'
import ExportMenu from '../lists/ExportMenu.vue'
import ListHead from '../lists/ListHead.vue'
import SavedViews from '../lists/SavedViews.vue'
import TypeList from '../lists/TypeList.vue'
import { isNarrowed, newest, useAsks } from '../lists/asks'
import { createSelection } from '../lists/selection'
import { openSite, type Site } from '../session'
import { messageOf, t } from '../messages'

const props = defineProps<{ site: string; type?: string }>()
const router = useRouter()
const { asks, ask } = useAsks()
const opened = shallowRef<Site>()
const entries = ref<ListedEntry[]>([])
const views = ref<ListView[]>([])
const next = ref<string | null>(null)
const count = ref<number>()
const isLoading = ref(true)
const isLate = ref(false)
const trouble = ref<unknown>()
const selection = createSelection()
const isBulkOpen = ref(false)
const action = ref<BulkAction>('publish')
const result = ref('')

const types = computed(() => opened.value?.model.types.filter((type) => type.cardinality === 'many') ?? [])
/** Undefined where entries of all types are listed. */
const current = computed(() => (opened.value && props.type ? typeNamed(opened.value.model, props.type) : undefined))
/** The fields that are shown in columns. */
const columns = computed(() =>
  current.value ? (asks.value.columns ?? []).flatMap((name) => fieldNamed(current.value!, name) ?? []) : [],
)
const what = computed(() => current.value?.label.toLowerCase() ?? t('lists.entry'))
/** An error in a condition is shown at its line, and corrected there. */
const isCondition = computed(() => trouble.value instanceof WisteriaProblem && trouble.value.code === 'badCondition')
const mayWrite = computed(() => opened.value !== undefined && decide(opened.value.caller, 'entry.write').allowed)
const mayPublish = computed(() => opened.value !== undefined && decide(opened.value.caller, 'entry.publish').allowed)
const mayCreate = computed(
  () => mayWrite.value && (current.value?.cardinality ?? 'many') === 'many' && types.value.length > 0,
)
/** In the list of all types, the type is chosen before an entry is created. */
const isChoosingType = ref(false)

const { start: startLate, stop: stopLate } = useTimeoutFn(() => (isLate.value = true), 300, { immediate: false })
async function load(after?: string): Promise<void> {
  isLoading.value = true
  trouble.value = undefined
  startLate()
  try {
    opened.value ??= await openSite(props.site)
    if (types.value.length === 0) return
    const { columns, ...query } = asks.value
    const page = await opened.value.editor.entries({
      ...(props.type ? { type: props.type } : {}),
      ...query,
      ...(columns && props.type ? { columns: columns.join(',') } : {}),
      first: 50,
      count: after === undefined,
      ...(after ? { after } : {}),
    })
    entries.value = after ? [...entries.value, ...page.entries] : [...page.entries]
    next.value = page.next
    if (after === undefined) count.value = page.count
  } catch (error) {
    trouble.value = error
    if (isCondition.value) entries.value = []
  } finally {
    stopLate()
    isLoading.value = false
    isLate.value = false
  }
}
async function loadViews(): Promise<void> {
  if (opened.value) views.value = [...(await opened.value.editor.views().catch(() => ({ views: [] }))).views]
}

watch([asks, () => props.type], () => {
  selection.clear()
  deleted.value = undefined
  void load()
})
onMounted(async () => {
  await load()
  await loadViews()
})

const chosen = computed<ChosenEntries>(() => {
  if (!selection.isAll.value) return { ids: [...selection.chosen.keys()] }
  const { search, where, locale } = asks.value
  const narrowed = {
    ...(props.type ? { type: props.type } : {}),
    ...(search ? { search } : {}),
    ...(where ? { where } : {}),
  }
  return { ...(Object.keys(narrowed).length > 0 ? narrowed : { all: true }), ...(locale ? { locale } : {}) }
})
const chosenCount = computed(() => (selection.isAll.value ? (count.value ?? 0) : selection.chosen.size))
/** The type of the chosen entries, if they have one in common. */
const chosenType = computed(() => {
  if (current.value || selection.isAll.value) return current.value
  const names = new Set([...selection.chosen.values()].map((entry) => entry.type))
  return names.size === 1 && opened.value ? typeNamed(opened.value.model, [...names][0]!) : undefined
})

function begin(does: BulkAction): void {
  action.value = does
  isBulkOpen.value = true
}
async function after(text: string): Promise<void> {
  result.value = text
  selection.clear()
  await load()
}
// An open sheet stays as it is, whatever the list does meanwhile.
const inSheet = ref<{ chosen: ChosenEntries; count: number }>({ chosen: {}, count: 0 })
watch(isBulkOpen, (now) => {
  if (now) inSheet.value = { chosen: chosen.value, count: chosenCount.value }
})

/** Up and down move through the rows; Enter follows the link by itself, the space bar chooses. */
function onRowKey(event: KeyboardEvent): void {
  const step = event.key === 'ArrowDown' ? 1 : event.key === 'ArrowUp' ? -1 : 0
  if (step === 0) return
  event.preventDefault()
  const rows = [...document.querySelectorAll<HTMLElement>('.rows .row a')]
  rows[Math.min(rows.length - 1, Math.max(0, rows.indexOf(document.activeElement as HTMLElement) + step))]?.focus()
}
function onKey(event: KeyboardEvent): void {
  if (event.key === 'Escape' && !selection.isEmpty.value) return selection.clear()
  if (event.key !== 'Enter' || !(event.ctrlKey || event.metaKey)) return
  if (!selection.isEmpty.value && mayPublish.value) begin('publish')
  else if (mayCreate.value) create()
}
/** The entry that was just deleted, until the next action. */
const deleted = ref((history.state as { deleted?: { readonly id: string; readonly title: string } }).deleted)
async function restore(): Promise<void> {
  const { id, title } = deleted.value!
  try {
    await opened.value!.editor.restoreFromBin(id)
    deleted.value = undefined
    await after(t('bin.isBack', { name: title || t('common.noName') }))
  } catch (error) {
    result.value = messageOf(error)
  }
}

function create(type = current.value): void {
  if (!type) return void (isChoosingType.value = true)
  void router.push({ name: 'new', params: { site: props.site, type: type.name } })
}
</script>

<template>
  <main class="beside-lists" data-region="work" @keydown="onKey">
    <TypeList v-if="opened" :site="opened" :here="type">
      <SavedViews :site="opened" :views="views" :here="type" @changed="loadViews" />
    </TypeList>
    <span v-else />
    <section class="list" :aria-busy="isLoading">
      <h1 class="visually-hidden">{{ current?.label ?? t('lists.allTypes') }}</h1>
      <PageTrouble v-if="trouble && !entries.length && !isCondition" :error="trouble" @again="load()" />
      <FirstSteps v-else-if="opened && types.length === 0" :site="opened" />
      <template v-else-if="opened">
        <ListHead :site="opened" :type="current" :asks="asks" @ask="ask" @changed="loadViews" />
        <ConditionLine
          :site="opened"
          :type="current"
          :asked="asks"
          :trouble="trouble"
          @change="(now) => ask({ search: now.search, where: now.where })"
        />
        <div class="late" :class="{ on: isLate && entries.length > 0 }" />
        <ul
          v-if="entries.length > 0"
          class="rows"
          :style="{ '--columns': columns.length > 0 ? `repeat(${columns.length}, minmax(88px, 128px))` : '' }"
          @keydown="onRowKey"
        >
          <li class="heads">
            <ColumnHeads
              :site="opened"
              :type="current"
              :columns="columns"
              :sort="asks.sort ?? newest"
              @sort="(sort) => ask({ sort: sort === newest ? undefined : sort })"
            />
          </li>
          <EntryRow
            v-for="entry in entries"
            :key="entry.id"
            :site="opened"
            :entry="entry"
            :locale="asks.locale"
            :type="current"
            :columns="columns.map((field) => field.name)"
            :is-chosen="selection.has(entry.id)"
            @choose="(isRange) => selection.toggle(entry, entries, isRange)"
          />
        </ul>
        <p v-else-if="!isLoading && isNarrowed(asks) && !trouble" class="empty content">
          {{ asks.search ? t('lists.noneWithWords', { what }) : t('lists.noneMeets', { what }) }}
        </p>
        <p v-else-if="!isLoading && !trouble" class="empty content">{{ t('lists.noneYet', { what }) }}</p>
        <p v-if="next" class="more">
          <ElButton @click="load(next)">{{ t('common.showMore') }}</ElButton>
        </p>
      </template>
      <ul v-else-if="isLate" class="rows" :aria-label="t('lists.loading')">
        <li v-for="row in 8" :key="row" class="row paper skeleton" />
      </ul>
    </section>
  </main>
  <StripBar :result="selection.isEmpty.value ? result : ''">
    <template #start>
      <template v-if="!selection.isEmpty.value">
        <b>{{ t('lists.chosen', { count: chosenCount }) }}</b>
        <button
          v-if="!selection.isAll.value && count !== undefined && count > selection.chosen.size"
          class="plain link"
          type="button"
          @click="selection.all()"
        >
          {{ t('lists.allThatMatch', { count }) }}
        </button>
        <button class="plain link" type="button" @click="selection.clear()">{{ t('lists.none') }}</button>
      </template>
      <span v-else-if="deleted">
        {{ t('lists.inBin', { name: deleted.title || t('common.noName') }) }}
        <button class="plain link" type="button" @click="restore">{{ t('bin.restore') }}</button>
      </span>
      <span v-else-if="count !== undefined">{{
        entries.length < count
          ? t('lists.shownOf', { shown: entries.length, n: count })
          : t('lists.entryCount', { n: count })
      }}</span>
    </template>
    <template #middle>
      <template v-if="selection.isEmpty.value">
        <span class="legend"><StateMark state="public" /> {{ t('states.public') }}</span>
        <span class="legend"><StateMark state="edited" /> {{ t('lists.editedSince') }}</span>
        <span class="legend"><StateMark state="new" /> {{ t('states.new') }}</span>
        <span class="legend"><StateMark state="withdrawn" /> {{ t('states.withdrawn') }}</span>
        <span class="legend"><FreshnessMark freshness="current" /> {{ t('lists.translated') }}</span>
        <span class="legend"><FreshnessMark freshness="outdated" /> {{ t('lists.sourceChangedSign') }}</span>
      </template>
    </template>
    <template #end>
      <template v-if="!selection.isEmpty.value">
        <ElButton v-if="mayWrite" @click="begin('edit')">{{ t('lists.setField') }}</ElButton>
        <ElDropdown v-if="mayWrite || mayPublish" trigger="click" placement="top-end">
          <ElButton>{{ t('common.more') }}</ElButton>
          <template #dropdown>
            <ElDropdownMenu>
              <ElDropdownItem v-if="mayPublish" @click="begin('withdraw')">{{
                t('entry.withdrawMore')
              }}</ElDropdownItem>
              <ElDropdownItem v-if="mayPublish" @click="begin('archive')">{{ t('entry.archiveMore') }}</ElDropdownItem>
              <ElDropdownItem v-if="mayPublish" @click="begin('reactivate')">{{
                t('lists.reactivateMore')
              }}</ElDropdownItem>
              <ElDropdownItem v-if="mayWrite" @click="begin('duplicate')">{{
                t('lists.duplicateMore')
              }}</ElDropdownItem>
              <ElDropdownItem v-if="mayWrite" @click="begin('delete')">{{ t('common.deleteMore') }}</ElDropdownItem>
              <StartItems
                v-if="opened && mayWrite && !selection.isAll.value"
                :site="opened"
                :types="[...new Set([...selection.chosen.values()].map((entry) => entry.type))]"
                :entries="[...selection.chosen.keys()]"
                in-list
                @started="after"
                @failed="after"
              />
            </ElDropdownMenu>
          </template>
        </ElDropdown>
        <ElButton v-if="mayPublish" type="primary" @click="begin('publish')">{{ t('entry.publishMore') }}</ElButton>
      </template>
      <ExportMenu v-if="opened && current && selection.isEmpty.value" :site="opened" :type="current" :asks="asks" />
      <ElButton v-if="selection.isEmpty.value && mayCreate && current" type="primary" @click="create()">{{
        t('lists.create', { type: current.label.toLowerCase() })
      }}</ElButton>
      <PopPanel
        v-else-if="selection.isEmpty.value && mayCreate"
        v-model="isChoosingType"
        :label="t('lists.createMore')"
        placement="top-end"
        :width="260"
      >
        <template #reference>
          <ElButton type="primary" aria-haspopup="dialog">{{ t('lists.createMore') }}</ElButton>
        </template>
        <ul class="choose-type" :aria-label="t('lists.ofWhichType')">
          <li v-for="one in types" :key="one.id">
            <button class="plain" type="button" @click="create(one)">{{ one.label }}</button>
          </li>
        </ul>
      </PopPanel>
    </template>
  </StripBar>
  <BulkSheet
    v-if="opened"
    v-model="isBulkOpen"
    :site="opened"
    :does="action"
    :chosen="inSheet.chosen"
    :count="inSheet.count"
    :type="chosenType"
    @done="after"
  />
</template>

<style scoped>
.list {
  padding-block-end: 40px;
}
.late {
  block-size: 2px;
  margin-block: 6px;
}
.late.on {
  background: var(--w-accent);
}
.rows {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  /* The edges of a row are inside its first and last columns. */
  grid-template-columns: 26px 14px minmax(240px, 1fr) var(--columns,) auto 148px;
  gap: 1px 12px;
  overflow-x: auto;
}
.heads {
  display: grid;
  grid-column: 1 / -1;
  grid-template-columns: subgrid;
}
.choose-type {
  margin: 0;
  padding: 0;
  list-style: none;
}
.choose-type button {
  inline-size: 100%;
  padding: 6px 8px;
  text-align: start;
}
.choose-type button:hover,
.choose-type button:focus-visible {
  background: var(--w-accent-wash);
}
.row.skeleton {
  grid-column: 1 / -1;
  min-block-size: 48px;
  opacity: 0.5;
}
.empty {
  padding: 40px 16px;
}
.link {
  margin-inline-start: 12px;
  color: var(--w-accent);
  text-decoration: underline;
}
.legend {
  display: flex;
  align-items: center;
  gap: 6px;
  font-size: 12px;
  color: var(--w-ink2);
}
@media (max-width: 900px) {
  .rows {
    grid-template-columns: 26px 14px minmax(0, 1fr);
  }
  .heads {
    display: none;
  }
}
</style>
