<script setup lang="ts">
import type { ListedEntry } from '@wisteria/client'
import {
  bindHere,
  chainOf,
  eachField,
  factsIn,
  kindOf,
  mainRegion,
  maxListing,
  namedReader,
  speaksOfHere,
  typeNamed,
  type Here,
  type Listing,
} from '@wisteria/core'
import { useTimeoutFn } from '@vueuse/core'
import { ElInputNumber, ElOption, ElSelect } from 'element-plus'
import { computed, onMounted, ref, watch } from 'vue'
import ConditionLine, { type Asked } from '../components/ConditionLine.vue'
import { useWorkingCopy } from '../editor/workingCopy'
import type { ControlEvents, ControlProps } from './control'
import { messageOf, t } from '../messages'

/** The query of a list that fills itself, and the working copies that match it now. */
const props = defineProps<ControlProps>()
const emit = defineEmits<ControlEvents>()
const { site, type: standsIn, entry, values, region } = useWorkingCopy()

const accepts = computed(() => (props.field.options['accepts'] as readonly string[] | undefined) ?? [])
const most = computed(() => (props.field.options['max'] as number | undefined) ?? maxListing)
const listing = computed(() => props.value as Listing | undefined)
const type = computed(() => (listing.value ? typeNamed(site.model, listing.value.type) : undefined))
const asked = computed<Asked>(() => (listing.value?.where ? { where: listing.value.where } : {}))
const sortable = computed(() => {
  const names: string[] = []
  if (type.value)
    eachField(type.value, (field, on) => {
      const isSingle = !field.many && on.every((group) => !group.many)
      if (isSingle && !['reference', 'presence', undefined].includes(kindOf(field).comparison))
        names.push([...on, field].map((step) => step.name).join('.'))
    })
  return [...names, 'entry.updated', 'entry.published']
})

function put(change: Partial<Listing>): void {
  const name = change.type ?? listing.value?.type ?? accepts.value[0]
  if (name === undefined) return
  // Another type has other fields: the condition and the order of the one before do not fit.
  const kept = change.type === undefined ? listing.value : undefined
  const next = { first: Math.min(3, most.value), ...kept, ...change, type: name }
  emit('change', Object.fromEntries(Object.entries(next).filter(([, value]) => value !== undefined && value !== '')))
}

const candidates = ref<readonly ListedEntry[]>([])
const trouble = ref('')
/** A typed text belongs to the list, or the type, that it was typed for. */
function clear(): void {
  emit('unreadable', undefined)
  emit('change', undefined)
}
function choose(type: string): void {
  emit('unreadable', undefined)
  put({ type })
}

/** The entry as its form has it now, for a condition with `here`. */
function here(): Here {
  const chain = chainOf(site.settings, props.locale)
  const { facts, references } = factsIn(standsIn, values, namedReader(chain))
  return { id: entry.value?.id ?? '', owner: standsIn, facts, references }
}

/** Loads the working copies that the list finds now. */
async function find(): Promise<void> {
  const { value: now } = listing
  if (!now) return
  const { where, sort, first, type: of } = now
  try {
    const query = {
      type: of,
      first,
      locale: props.locale,
      ...(where ? { where: speaksOfHere(where) ? bindHere(where, here()) : where } : {}),
      ...(sort ? { sort } : {}),
      // Readers get the region of the page that the list stands in.
      ...((site.settings.regions ?? []).length > 0
        ? { region: standsIn.regional ? (entry.value?.region ?? region.value) : mainRegion }
        : {}),
    }
    const { entries } = await site.editor.entries(query)
    if (now === listing.value) candidates.value = entries
  } catch (error) {
    if (now === listing.value) trouble.value = messageOf(error)
  }
}
const { start: findSoon } = useTimeoutFn(find, 300, { immediate: false })
watch(listing, (_, before) => {
  candidates.value = []
  trouble.value = ''
  // While a condition is being typed, nothing is looked for.
  if (before) findSoon()
  else void find()
})
onMounted(find)
</script>

<template>
  <div :id="id" class="listing" role="group" :aria-label="field.label">
    <p class="asks">
      <ElInputNumber
        :model-value="listing?.first"
        :min="1"
        :max="most"
        :disabled="disabled"
        controls-position="right"
        :aria-label="t('controls.howMany')"
        class="limit"
        @change="(first) => first && put({ first })"
      />
      <ElSelect
        :model-value="listing?.type"
        :disabled="disabled"
        class="type"
        :aria-label="t('controls.ofWhichType')"
        :placeholder="t('controls.chooseType')"
        @update:model-value="choose"
      >
        <ElOption
          v-for="name in accepts"
          :key="name"
          :value="name"
          :label="typeNamed(site.model, name)?.label ?? name"
        />
      </ElSelect>
      <ElSelect
        v-if="listing"
        :model-value="listing.sort?.replace('-', '') ?? 'none'"
        :disabled="disabled"
        class="sort"
        :aria-label="t('controls.sortedBy')"
        @update:model-value="(name: string) => put({ sort: name === 'none' ? undefined : name })"
      >
        <ElOption value="none" :label="t('controls.inNoOrder')" />
        <ElOption v-for="name in sortable" :key="name" :value="name" :label="t('controls.by', { field: name })" />
      </ElSelect>
      <label v-if="listing?.sort" class="descending"
        ><input
          type="checkbox"
          :checked="listing.sort.startsWith('-')"
          :disabled="disabled"
          @change="put({ sort: (listing.sort.startsWith('-') ? '' : '-') + listing.sort.replace('-', '') })"
        />
        {{ t('controls.lastFirst') }}</label
      >
      <button v-if="listing && !disabled" class="plain quiet" type="button" @click="clear">
        {{ t('controls.clear') }}
      </button>
    </p>
    <template v-if="listing && type">
      <ConditionLine
        :site="site"
        :type="type"
        :asked="asked"
        :trouble="trouble ? new Error(trouble) : undefined"
        only-condition
        :here="standsIn"
        :disabled="disabled ?? false"
        :typed="fault === undefined ? undefined : String(fault.text)"
        @change="(now) => now.where !== listing?.where && put({ where: now.where })"
        @unreadable="(fault) => emit('unreadable', fault)"
      />
      <p class="now">
        <span class="quiet">{{
          candidates.length > 0 ? t('controls.nowFound') : trouble ? '' : t('controls.findsNothing')
        }}</span>
        <span v-for="candidate in candidates" :key="candidate.id" class="candidate serif" dir="auto">{{
          candidate.title || t('common.noName')
        }}</span>
      </p>
    </template>
  </div>
</template>

<style scoped>
.asks {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
  margin: 4px 0 8px;
}
.limit {
  inline-size: 88px;
}
.type {
  inline-size: 160px;
}
.sort {
  inline-size: 160px;
}
.descending {
  font-size: 13px;
}
.now {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 12px;
  margin: 0;
  font-size: 13px;
}
.one {
  font-size: 14px;
}
</style>
