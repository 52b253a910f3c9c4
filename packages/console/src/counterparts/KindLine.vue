<script setup lang="ts">
import type { EntryCounterparts } from '@wisteria/client'
import { decide, mainRegion } from '@wisteria/core'
import { ElOption, ElSelect } from 'element-plus'
import { computed, ref, shallowRef, watch } from 'vue'
import { useWorkingCopy } from '../editor/workingCopy'
import { t } from '../messages'
import CounterpartsSheet from './CounterpartsSheet.vue'
import { regionsOf, regionTitle } from './regionNames'

/** What an entry is, above its fields: its type and its region, with its counterparts in others. */
const copy = useWorkingCopy()
const { site, type } = copy
const regions = type.regional ? regionsOf(site.settings) : []
const offered = regions.filter(
  ({ name }) => decide(site.caller, 'entry.write', { type: type.name, region: name, shared: true }).allowed,
)
const isOpen = ref(false)
const found = shallowRef<EntryCounterparts>()
const own = computed(() => found.value?.regions.find(({ entry }) => entry?.id === copy.entry.value?.id)?.entry)
// Saves of others do not tell of their counterparts: it is asked when the entry is opened, and when the sheet closes.
watch(
  [() => copy.entry.value?.id, isOpen],
  async ([id, open]) => {
    if (id !== undefined && !open && regions.length > 0)
      found.value = await site.editor.counterparts.of(id).catch(() => undefined)
  },
  { immediate: true },
)
</script>

<template>
  <p class="kind">
    {{ copy.entry.value ? type.label : t('entry.newOf', { type: type.label }) }}
    <template v-if="regions.length > 0">
      <template v-if="copy.entry.value">
        <span aria-hidden="true">·</span>
        <bdi>{{ regionTitle(site.settings, copy.entry.value.region ?? mainRegion) }}</bdi>
        <button class="plain link" type="button" @click="isOpen = true">{{ t('regions.counterpartsMore') }}</button>
        <span v-if="own?.behind" class="behind"
          >{{ t('regions.isBehind') }}
          <RouterLink :to="{ name: 'source', params: { site: site.name, id: own.id } }">{{
            t('regions.whatChanged')
          }}</RouterLink></span
        >
      </template>
      <ElSelect v-else v-model="copy.region.value" size="small" class="choose" :aria-label="t('regions.region')">
        <ElOption v-for="{ name, label } in offered" :key="name" :value="name" :label="label" />
      </ElSelect>
    </template>
  </p>
  <CounterpartsSheet
    v-if="copy.entry.value && regions.length > 0"
    :id="copy.entry.value.id"
    v-model="isOpen"
    :site="site"
    :title="copy.entry.value.title"
    :type="type.name"
  />
</template>

<style scoped>
.kind {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 8px;
  margin: 0 0 8px;
  font-size: 12px;
  line-height: 16px;
  color: var(--w-ink3);
}
.link {
  color: var(--w-accent);
}
.behind {
  color: var(--w-edited);
}
.choose {
  inline-size: 180px;
}
</style>
