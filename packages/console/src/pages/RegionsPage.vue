<script setup lang="ts">
import type { CounterpartList, CounterpartView } from '@wisteria/client'
import { decide } from '@wisteria/core'
import { ElButton, ElCheckbox, ElDropdown, ElDropdownItem, ElDropdownMenu, ElOption, ElSelect } from 'element-plus'
import { computed, ref, shallowRef, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import EntryLink from '../components/EntryLink.vue'
import PageTrouble from '../components/PageTrouble.vue'
import RowTable from '../components/RowTable.vue'
import StateMark from '../components/StateMark.vue'
import StripBar from '../components/StripBar.vue'
import CopyToRegion from '../counterparts/CopyToRegion.vue'
import { regionsOf } from '../counterparts/regionNames'
import TypeList from '../lists/TypeList.vue'
import { t } from '../messages'
import { openSite, type Site } from '../session'

/** Entries with their counterparts: where they are, where they are missing, and which sources have changed. */
const props = defineProps<{ site: string }>()
const route = useRoute()
const router = useRouter()
const opened = shallowRef<Site>()
const families = shallowRef<CounterpartList['families']>([])
const next = ref<number | null>(null)
const trouble = shallowRef<unknown>()
const isLoaded = ref(false)
const chosen = ref<readonly string[]>([])
const region = ref('')
const isCopying = ref(false)
const result = ref('')

const asked = (name: string): string | undefined => {
  const value = route.query[name]
  return typeof value === 'string' ? value : undefined
}
const query = computed(() => {
  const named = { type: asked('type'), missing: asked('missing'), behind: asked('behind') }
  return Object.fromEntries(Object.entries(named).filter(([, value]) => value !== undefined))
})
const regions = computed(() => (opened.value ? regionsOf(opened.value.settings) : []))
const types = computed(() => opened.value?.model.types.filter(({ regional }) => regional) ?? [])
const writable = computed(() =>
  regions.value.filter(
    ({ name }) => decide(opened.value!.caller, 'entry.write', { region: name, shared: true }).allowed,
  ),
)

async function load(): Promise<void> {
  trouble.value = undefined
  try {
    opened.value ??= await openSite(props.site)
    const page = await opened.value.editor.counterparts.list(query.value)
    families.value = page.families
    next.value = page.next
    chosen.value = []
    isLoaded.value = true
  } catch (error) {
    trouble.value = error
  }
}
watch(query, load, { immediate: true })
async function loadMore(): Promise<void> {
  try {
    const page = await opened.value!.editor.counterparts.list({ ...query.value, after: next.value! })
    families.value = [...families.value, ...page.families]
    next.value = page.next
  } catch (error) {
    trouble.value = error
  }
}
function ask(change: Record<string, string | undefined>): void {
  result.value = ''
  void router.replace({ query: { ...route.query, ...change } })
}
const shown = computed(() =>
  asked('missing') !== undefined
    ? `missing ${asked('missing')}`
    : asked('behind') !== undefined
      ? `behind ${asked('behind')}`
      : 'all',
)
function show(what: string): void {
  const [how, name] = what.split(' ')
  ask({ missing: how === 'missing' ? name : undefined, behind: how === 'behind' ? name : undefined })
}
function choose(id: string, isChosen: boolean): void {
  chosen.value = isChosen ? [...chosen.value, id] : chosen.value.filter((other) => other !== id)
}
function copyTo(name: string): void {
  region.value = name
  isCopying.value = true
}
async function copied(message: string): Promise<void> {
  await load()
  result.value = message
}
const depthOf = ({ path }: CounterpartView): number => Math.max(0, (path?.split('/').length ?? 2) - 2)
</script>

<template>
  <main class="beside-lists" data-region="work">
    <TypeList v-if="opened" :site="opened" />
    <span v-else />
    <section>
      <h1 class="page-name">{{ t('regions.title') }}</h1>
      <PageTrouble v-if="trouble" :error="trouble" @again="load" />
      <template v-else-if="isLoaded">
        <p v-if="regions.length === 0" class="content">{{ t('regions.none') }}</p>
        <p v-else-if="types.length === 0" class="content">{{ t('regions.noTypes') }}</p>
        <template v-else>
          <div class="filters">
            <ElSelect :model-value="shown" :aria-label="t('regions.show')" @update:model-value="show($event as string)">
              <ElOption value="all" :label="t('regions.all')" />
              <ElOption
                v-for="{ name, label } in regions"
                :key="`missing ${name}`"
                :value="`missing ${name}`"
                :label="t('regions.missingIn', { region: label })"
              />
              <ElOption
                v-for="{ name, label } in regions"
                :key="`behind ${name}`"
                :value="`behind ${name}`"
                :label="t('regions.behindIn', { region: label })"
              />
            </ElSelect>
            <ElSelect
              v-if="types.length > 1"
              :model-value="asked('type') ?? 'all'"
              :aria-label="t('regions.ofType')"
              @update:model-value="ask({ type: $event === 'all' ? undefined : ($event as string) })"
            >
              <ElOption value="all" :label="t('regions.allTypes')" />
              <ElOption v-for="{ name, label } in types" :key="name" :value="name" :label="label" />
            </ElSelect>
          </div>
          <p v-if="families.length === 0" class="content">{{ t('regions.nothing') }}</p>
          <RowTable v-else :heads="[t('regions.entry'), ...regions.map(({ label }) => label)]">
            <tr v-for="{ first, regions: there } in families" :key="first.id">
              <th scope="row">
                <span class="first">
                  <span v-if="depthOf(first) > 0" class="deep" :style="{ '--depth': depthOf(first) }" />
                  <ElCheckbox
                    :model-value="chosen.includes(first.id)"
                    :aria-label="t('regions.chooseNamed', { title: first.title })"
                    @update:model-value="choose(first.id, $event === true)"
                  />
                  <span class="named">
                    <bdi class="serif">{{ first.title }}</bdi>
                    <bdi v-if="first.path" class="path" dir="ltr">{{ first.path }}</bdi>
                  </span>
                </span>
              </th>
              <td v-for="{ name } in regions" :key="name">
                <template v-if="there[name]">
                  <StateMark :state="there[name].state" />
                  <EntryLink :id="there[name].id" :site="props.site" :title="there[name].title" />
                  <RouterLink
                    v-if="there[name].behind"
                    class="behind"
                    :to="{ name: 'source', params: { site: props.site, id: there[name].id } }"
                    >{{ t('regions.behind') }}</RouterLink
                  >
                </template>
                <span v-else class="quiet">{{ t('regions.missing') }}</span>
              </td>
            </tr>
          </RowTable>
          <ElButton v-if="next !== null" @click="loadMore">{{ t('regions.more') }}</ElButton>
        </template>
      </template>
    </section>
  </main>
  <StripBar :result="result">
    <template #start>
      <template v-if="chosen.length > 0">{{ t('regions.chosen', { n: chosen.length }) }}</template>
      <template v-else-if="isLoaded">{{ t('lists.entryCount', { n: families.length }) }}</template>
    </template>
    <template v-if="writable.length > 0 && types.length > 0" #end>
      <ElDropdown trigger="click" placement="top-end" :disabled="chosen.length === 0">
        <ElButton type="primary" :disabled="chosen.length === 0">{{ t('regions.copyMore') }}</ElButton>
        <template #dropdown>
          <ElDropdownMenu>
            <ElDropdownItem v-for="{ name, label } in writable" :key="name" @click="copyTo(name)">{{
              label
            }}</ElDropdownItem>
          </ElDropdownMenu>
        </template>
      </ElDropdown>
    </template>
  </StripBar>
  <CopyToRegion
    v-if="opened && region"
    v-model="isCopying"
    :site="opened"
    :region="region"
    :ids="chosen"
    @copied="copied"
  />
</template>

<style scoped>
.beside-lists {
  --beside-lists: minmax(0, 1fr);
}
.filters {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  margin-block-end: 12px;
}
.filters .el-select {
  inline-size: 240px;
}
.first {
  display: flex;
  align-items: start;
  gap: 8px;
}
.first .el-checkbox {
  block-size: 24px;
}
.deep {
  flex: none;
  inline-size: calc(var(--depth) * 16px - 8px);
}
td .mark {
  margin-inline-end: 6px;
}
.named {
  display: grid;
}
.path {
  font: 12px/16px var(--w-code);
  color: var(--w-ink3);
}
.behind {
  display: block;
  font-size: 12px;
  color: var(--w-edited);
}
</style>
