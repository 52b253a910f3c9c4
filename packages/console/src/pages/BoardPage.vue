<script setup lang="ts">
import type { ListView, TranslationBoard } from '@wisteria/client'
import { decide } from '@wisteria/core'
import { ElButton, ElOption, ElSelect } from 'element-plus'
import { computed, ref, shallowRef, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import PageTrouble from '../components/PageTrouble.vue'
import StripBar from '../components/StripBar.vue'
import { openSite, type Site } from '../session'
import { ago } from '../times'
import { addCounts, addWork, toDo } from '../translating/sums'
import OrderButton from '../ordering/OrderButton.vue'
import ExportSheet from '../translating/ExportSheet.vue'
import ImportSheet from '../translating/ImportSheet.vue'
import WorkBar from '../translating/WorkBar.vue'
import { t } from '../messages'

/** The board: types by locales, with what is to translate in each. */
const props = defineProps<{ site: string }>()
const route = useRoute()
const router = useRouter()
const opened = shallowRef<Site>()
const board = shallowRef<TranslationBoard>()
const views = ref<readonly ListView[]>([])
const counts = ref({ mine: 0, ready: 0 })
const trouble = shallowRef<unknown>()
const isExporting = ref(false)
const isImporting = ref(false)
const mayImport = computed(() => opened.value !== undefined && decide(opened.value.caller, 'entry.translate').allowed)

const view = computed(() => views.value.find(({ id }) => id === route.query['view']))
const filter = computed(() => {
  const { type, where, search } = view.value?.asks ?? {}
  return Object.fromEntries(Object.entries({ type, where, search }).filter(([, value]) => value !== undefined))
})

async function load(): Promise<void> {
  trouble.value = undefined
  try {
    const site = (opened.value = await openSite(props.site))
    views.value = (await site.editor.views()).views
    const { translations } = site.editor
    const [now, mine, ready] = await Promise.all([
      translations.board(filter.value),
      translations.work({ assignee: 'me', first: 100 }),
      translations.work({ ready: true, first: 100 }),
    ])
    board.value = now
    counts.value = { mine: mine.entries.length, ready: ready.entries.length }
  } catch (error) {
    trouble.value = error
  }
}
watch([() => props.site, () => route.query['view']], load, { immediate: true })

/** Those that a member may translate into come first. */
const locales = computed(() => {
  const all = board.value?.locales ?? []
  const may = (tag: string): boolean =>
    opened.value !== undefined && decide(opened.value.caller, 'entry.translate', { locales: [tag] }).allowed
  return [...all.filter(({ tag }) => may(tag)), ...all.filter(({ tag }) => !may(tag))]
})
const totals = computed(() =>
  Object.fromEntries(
    locales.value.map(({ tag }) => [tag, addWork((board.value?.types ?? []).flatMap(({ work }) => work[tag] ?? []))]),
  ),
)
const work = (locale: string, type?: string) => ({
  name: 'translate',
  params: { site: props.site, locale },
  query: { ...filter.value, ...(type === undefined ? {} : { type }) },
})
const mineIn = (asked: 'mine' | 'ready') => {
  const locale = locales.value[0]?.tag
  return locale === undefined
    ? undefined
    : { name: 'translate', params: { site: props.site, locale }, query: { [asked]: '1' } }
}
const total = computed(() => toDo(addCounts(Object.values(totals.value).map(({ units }) => units))))
</script>

<template>
  <main class="table-page" data-region="work">
    <header>
      <h1 class="page-name">{{ t('translating.board') }}</h1>
      <nav class="pages">
        <RouterLink :to="{ name: 'glossary', params: { site: props.site } }">{{
          t('translating.glossary')
        }}</RouterLink>
        <RouterLink :to="{ name: 'orders', params: { site: props.site } }">{{ t('ordering.orders') }}</RouterLink>
      </nav>
      <label v-if="views.length > 0" class="of-view"
        >{{ t('translating.ofView') }}
        <ElSelect
          :model-value="view?.id ?? '*'"
          size="small"
          @change="(id: string) => router.replace({ query: id === '*' ? {} : { view: id } })"
        >
          <ElOption value="*" :label="t('translating.allEntries')" />
          <ElOption v-for="one in views" :key="one.id" :value="one.id" :label="one.name" />
        </ElSelect>
      </label>
    </header>
    <PageTrouble v-if="trouble" :error="trouble" @again="load" />
    <template v-else-if="board">
      <p v-if="board.locales.length === 0" class="content">
        {{ t('translating.oneLocale') }}
        <RouterLink :to="{ name: 'locales', params: { site: props.site } }">{{
          t('translating.goToLocales')
        }}</RouterLink>
      </p>
      <p v-else-if="board.types.length === 0" class="content">{{ t('translating.noTypes') }}</p>
      <div v-else class="scroll" tabindex="0" role="region" :aria-label="t('translating.boardOf')">
        <table class="paper">
          <thead>
            <tr>
              <th scope="col" class="type">{{ t('translating.type') }}</th>
              <th v-for="{ tag, label } in locales" :key="tag" scope="col">
                <RouterLink :to="work(tag)" class="locale">{{ label }}</RouterLink>
                <span class="quiet"
                  ><bdi>{{ tag }}</bdi></span
                >
              </th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="{ type, label, work: sums } in board.types" :key="type">
              <th scope="row" class="type serif">{{ label }}</th>
              <td v-for="{ tag } in locales" :key="tag">
                <RouterLink v-if="sums[tag]" :to="work(tag, type)" class="cell">
                  <span class="visually-hidden">{{ label }}, {{ tag }}: </span>
                  <WorkBar :units="sums[tag].units" />
                  <span v-if="toDo(sums[tag].units) === 0" class="quiet">{{ t('translating.allDone') }}</span>
                  <template v-else>
                    <b>{{ t('translating.toDo', { n: toDo(sums[tag].units) }) }}</b>
                    <small v-if="sums[tag].oldest" class="quiet">{{
                      t('translating.since', { when: ago(sums[tag].oldest) })
                    }}</small>
                  </template>
                </RouterLink>
              </td>
            </tr>
          </tbody>
          <tfoot>
            <tr>
              <th scope="row" class="type">{{ t('translating.allTypes') }}</th>
              <td v-for="{ tag } in locales" :key="tag">
                <span v-if="totals[tag]" class="cell">
                  <WorkBar :units="totals[tag].units" />
                  <b>{{
                    toDo(totals[tag].units) === 0
                      ? t('translating.allDone')
                      : t('translating.toDo', { n: toDo(totals[tag].units) })
                  }}</b>
                  <small v-if="toDo(totals[tag].units) > 0" class="quiet">{{
                    t('translating.wordsToDo', { n: toDo(totals[tag].words) })
                  }}</small>
                </span>
              </td>
            </tr>
          </tfoot>
        </table>
      </div>
    </template>
  </main>
  <StripBar>
    <template #start>
      <span v-if="board && board.types.length > 0">{{
        total === 0 ? t('translating.allDone') : t('translating.textsToDo', { n: total })
      }}</span>
    </template>
    <template #end>
      <template v-if="opened && board && board.types.length > 0">
        <OrderButton :site="opened" :board="board" :filter="filter" />
        <ElButton @click="isExporting = true">{{ t('translating.exportMore') }}</ElButton>
        <ElButton v-if="mayImport" @click="isImporting = true">{{ t('translating.importMore') }}</ElButton>
      </template>
      <ElButton v-if="counts.ready > 0 && mineIn('ready')" @click="router.push(mineIn('ready')!)"
        >{{ t('translating.ready') }} ({{ counts.ready }})</ElButton
      >
      <ElButton v-if="counts.mine > 0 && mineIn('mine')" type="primary" @click="router.push(mineIn('mine')!)"
        >{{ t('translating.mine') }} ({{ counts.mine }})</ElButton
      >
    </template>
  </StripBar>
  <template v-if="opened && board">
    <ExportSheet v-model="isExporting" :site="opened" :board="board" :filter="filter" />
    <ImportSheet v-model="isImporting" :site="opened" :board="board" @applied="load" />
  </template>
</template>

<style scoped>
.of-view {
  display: flex;
  align-items: center;
  gap: 8px;
  color: var(--w-ink2);
}
.of-view .el-select {
  inline-size: 220px;
}
/* What is hidden in cells is placed in it, and not in the page. */
.scroll {
  position: relative;
  overflow: auto;
  padding-block-end: 24px;
}
table {
  min-inline-size: min(100%, 1000px);
  border-collapse: separate;
  border-spacing: 0;
}
th,
td {
  min-inline-size: 150px;
  padding: 8px 12px;
  border-block-end: 1px solid var(--w-hair);
  text-align: start;
  vertical-align: top;
  font-weight: 400;
}
.locale {
  margin-inline-end: 6px;
}
thead th {
  position: sticky;
  inset-block-start: 0;
  z-index: 1;
  background: var(--w-paper);
  white-space: nowrap;
}
.type {
  position: sticky;
  inset-inline-start: 0;
  z-index: 2;
  min-inline-size: 180px;
  background: var(--w-paper);
}
tbody .type {
  z-index: 1;
  font-size: 17px;
  line-height: 24px;
}
tfoot th,
tfoot td {
  border-block: 1px solid var(--w-rule);
}
.cell {
  display: grid;
  gap: 2px;
  color: inherit;
  text-decoration: none;
}
.cell:hover b {
  text-decoration: underline;
}
.cell small {
  font-size: 12px;
  line-height: 16px;
}
</style>
