<script setup lang="ts">
import { WisteriaProblem, type ListedEntry } from '@wisteria/client'
import { decide, typeNamed } from '@wisteria/core'
import { ElButton } from 'element-plus'
import { computed, onMounted, ref, shallowRef } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import ConditionLine, { type Asked } from '../components/ConditionLine.vue'
import PageTrouble from '../components/PageTrouble.vue'
import StateMark from '../components/StateMark.vue'
import StripBar from '../components/StripBar.vue'
import { nameOfActor, openSite, type Site } from '../session'
import { ago } from '../times'

const props = defineProps<{ site: string; type?: string }>()
const route = useRoute()
const router = useRouter()
const opened = shallowRef<Site>()
const entries = ref<ListedEntry[]>([])
const next = ref<string | null>(null)
const count = ref<number>()
const isLoading = ref(true)
const isLate = ref(false)
const trouble = ref<unknown>()
const queried = (name: string) => (typeof route.query[name] === 'string' ? { [name]: route.query[name] } : {})
const asked = shallowRef<Asked>({ ...queried('where'), ...queried('search') })
const isNarrowed = computed(() => asked.value.where !== undefined || asked.value.search !== undefined)

/** Types with exactly one entry come last: they open directly. */
const types = computed(() => {
  const all = opened.value?.model.types ?? []
  return { many: all.filter((one) => one.cardinality === 'many'), one: all.filter((one) => one.cardinality === 'one') }
})
/** Undefined where entries of all types are listed. */
const current = computed(() => (opened.value && props.type ? typeNamed(opened.value.model, props.type) : undefined))
const what = computed(() => current.value?.label.toLowerCase() ?? 'entry')
const locales = computed(() => opened.value?.settings.locales ?? [])
/** A condition with a mistake is told at the line where it stands, and mended there. */
const isCondition = computed(() => trouble.value instanceof WisteriaProblem && trouble.value.code === 'badCondition')
const mayWrite = computed(
  () =>
    opened.value !== undefined &&
    current.value?.cardinality === 'many' &&
    decide(opened.value.caller, 'entry.write').allowed,
)

async function load(after?: string): Promise<void> {
  isLoading.value = true
  trouble.value = undefined
  const late = setTimeout(() => (isLate.value = true), 300)
  try {
    opened.value ??= await openSite(props.site)
    if (types.value.many.length === 0) return
    const page = await opened.value.editor.entries({
      ...(props.type ? { type: props.type } : {}),
      limit: 50,
      count: true,
      ...asked.value,
      ...(after ? { after } : {}),
    })
    entries.value = after ? [...entries.value, ...page.entries] : [...page.entries]
    next.value = page.next
    count.value = page.count
  } catch (error) {
    trouble.value = error
  } finally {
    clearTimeout(late)
    isLoading.value = false
    isLate.value = false
  }
}

const labelOf = (name: string) => (opened.value && typeNamed(opened.value.model, name)?.label) ?? name

async function search(now: Asked): Promise<void> {
  asked.value = now
  await router.replace({ query: { ...now } })
  await load()
}

/** Up and down walk the rows; the browser follows a link on Enter by itself. */
function onRowKey(event: KeyboardEvent): void {
  const step = event.key === 'ArrowDown' ? 1 : event.key === 'ArrowUp' ? -1 : 0
  if (step === 0) return
  event.preventDefault()
  const rows = [...document.querySelectorAll<HTMLElement>('.row a')]
  rows[Math.min(rows.length - 1, Math.max(0, rows.indexOf(document.activeElement as HTMLElement) + step))]?.focus()
}

function onKey(event: KeyboardEvent): void {
  if (event.key === 'Enter' && (event.ctrlKey || event.metaKey) && mayWrite.value && current.value) create()
}

function create(): void {
  void router.push({ name: 'new', params: { site: props.site, type: current.value!.name } })
}

onMounted(() => load())
</script>

<template>
  <main class="work" data-region="work" @keydown="onKey">
    <nav class="types" aria-label="Types">
      <RouterLink
        v-if="types.many.length > 0"
        :to="{ name: 'entries', params: { site: props.site } }"
        :class="{ here: !props.type }"
        :aria-current="!props.type ? 'page' : undefined"
        >All types</RouterLink
      >
      <RouterLink
        v-for="one in types.many"
        :key="one.id"
        :to="{ name: 'entries', params: { site: props.site, type: one.name } }"
        :class="{ here: one.name === props.type }"
        :aria-current="one.name === props.type ? 'page' : undefined"
        >{{ one.label }}</RouterLink
      >
      <hr v-if="types.one.length > 0" />
      <RouterLink
        v-for="one in types.one"
        :key="one.id"
        :to="{ name: 'entry', params: { site: props.site, id: one.name } }"
        >{{ one.label }}</RouterLink
      >
    </nav>
    <section class="list" :aria-busy="isLoading">
      <PageTrouble v-if="trouble && !entries.length && !isCondition" :error="trouble" @again="load()" />
      <p v-else-if="opened && types.many.length === 0" class="empty content">
        There is no model yet. A developer adopts one: <code>wisteria model adopt FOLDER</code>
      </p>
      <template v-else-if="opened">
        <ConditionLine :site="opened" :type="current" :asked="asked" :trouble="trouble" @change="search" />
        <div class="late" :class="{ on: isLate && entries.length > 0 }" />
        <ul v-if="entries.length > 0" class="rows" @keydown="onRowKey">
          <li v-for="entry in entries" :key="entry.id" class="row paper">
            <StateMark :state="entry.state" />
            <RouterLink :to="{ name: 'entry', params: { site: props.site, id: entry.id } }">
              <span class="title serif" dir="auto" :title="entry.title">{{ entry.title || 'No name yet' }}</span>
              <span v-if="!current" class="type">{{ labelOf(entry.type) }}</span>
              <bdi v-else-if="entry.path" class="path" dir="ltr">{{ entry.path }}</bdi>
            </RouterLink>
            <span class="locales">
              <span v-for="locale in locales" :key="locale.tag" class="locale" :class="entry.states[locale.tag]">
                <StateMark
                  :state="entry.states[locale.tag] ?? 'new'"
                  :label="`${locale.label}: ${entry.states[locale.tag]}`"
                />
                {{ locale.tag }}
              </span>
            </span>
            <span class="changed"
              >{{ nameOfActor(opened, entry.updatedBy) }}<br /><time :datetime="entry.updatedAt">{{
                ago(entry.updatedAt)
              }}</time></span
            >
          </li>
        </ul>
        <p v-else-if="!isLoading && isNarrowed && !trouble" class="empty content">
          {{
            asked.search
              ? `No ${what} holds these words.`
              : `No ${what} meets this. Change the condition or create one.`
          }}
        </p>
        <p v-else-if="!isLoading && !trouble" class="empty content">No {{ what }} yet. Create the first one.</p>
        <p v-if="next" class="more"><ElButton @click="load(next)">Show more</ElButton></p>
      </template>
      <ul v-else-if="isLate" class="rows" aria-label="Loading">
        <li v-for="row in 8" :key="row" class="row paper skeleton" />
      </ul>
    </section>
  </main>
  <StripBar>
    <template #start>
      <span v-if="count !== undefined"
        >{{ entries.length < count ? `${entries.length} of ${count}` : count }}
        {{ count === 1 ? 'entry' : 'entries' }}</span
      >
    </template>
    <template #middle>
      <span class="legend"><StateMark state="public" /> Public</span>
      <span class="legend"><StateMark state="edited" /> Edited since</span>
      <span class="legend"><StateMark state="new" /> New</span>
      <span class="legend"><StateMark state="withdrawn" /> Withdrawn</span>
    </template>
    <template #end>
      <ElButton v-if="current && mayWrite" type="primary" @click="create"
        >Create {{ current.label.toLowerCase() }}</ElButton
      >
    </template>
  </StripBar>
</template>

<style scoped>
hr {
  inline-size: 100%;
  border: 0;
  border-block-start: 1px solid var(--w-hair);
}
.work {
  display: grid;
  grid-template-columns: 208px minmax(0, 1000px);
  gap: 24px;
  padding: 24px 24px 0;
  overflow: auto;
}
.types {
  display: flex;
  flex-direction: column;
  position: sticky;
  inset-block-start: 0;
  align-self: start;
}
.types a {
  padding: 6px 12px;
  color: var(--w-ink2);
  text-decoration: none;
  border-inline-start: 2px solid var(--w-hair);
}
.types a:hover {
  color: var(--w-ink);
}
.types a.here {
  color: var(--w-accent);
  border-color: var(--w-accent);
  background: var(--w-accent-wash);
}
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
  gap: 1px;
}
.row {
  display: grid;
  grid-template-columns: 14px minmax(0, 1fr) auto 132px;
  gap: 16px;
  align-items: center;
  min-block-size: 48px;
  padding-inline: 16px;
  border-radius: 0;
}
.row:hover,
.row:focus-within {
  background: var(--w-accent-wash);
}
.row a {
  display: grid;
  color: inherit;
  text-decoration: none;
  padding-block: 3px;
}
.title,
.type {
  font-size: 12px;
  line-height: 16px;
  color: var(--w-ink2);
}
.path {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.title {
  font-size: 17px;
  line-height: 24px;
}
.path {
  font: 12px/16px var(--w-code);
  color: var(--w-ink3);
}
.locales {
  display: flex;
  gap: 12px;
}
.locale {
  display: flex;
  align-items: center;
  gap: 4px;
  font-size: 12px;
  color: var(--w-ink3);
}
.changed {
  font-size: 12px;
  line-height: 16px;
  color: var(--w-ink2);
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.empty {
  padding: 40px 16px;
}
.skeleton {
  opacity: 0.5;
}
.legend {
  display: flex;
  align-items: center;
  gap: 6px;
  font-size: 12px;
  color: var(--w-ink2);
}
</style>
