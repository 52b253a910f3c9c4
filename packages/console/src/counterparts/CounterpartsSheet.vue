<script setup lang="ts">
import type { EntryCounterparts } from '@wisteria/client'
import { decide } from '@wisteria/core'
import { ElButton } from 'element-plus'
import { ref, shallowRef, watch } from 'vue'
import ConsequenceSheet from '../components/ConsequenceSheet.vue'
import EntryLink from '../components/EntryLink.vue'
import RowTable from '../components/RowTable.vue'
import StateMark from '../components/StateMark.vue'
import { messageOf, t } from '../messages'
import type { Site } from '../session'
import CopyToRegion from './CopyToRegion.vue'
import { regionTitle } from './regionNames'

/** Where an entry has counterparts and where none; from here it is copied. */
const open = defineModel<boolean>({ required: true })
const { site, id, title, type } = defineProps<{ site: Site; id: string; title: string; type: string }>()
const found = shallowRef<EntryCounterparts>()
const refused = ref('')
const result = ref('')
const region = ref('')
const isCopying = ref(false)

async function load(): Promise<void> {
  refused.value = ''
  try {
    found.value = await site.editor.counterparts.of(id)
  } catch (error) {
    refused.value = messageOf(error)
  }
}
watch(open, (isOpen) => isOpen && ((result.value = ''), load()), { immediate: true })

const mayWriteIn = (name: string): boolean =>
  decide(site.caller, 'entry.write', { type, region: name, shared: true }).allowed
function copyTo(name: string): void {
  region.value = name
  isCopying.value = true
}
async function copied(message: string): Promise<void> {
  result.value = message
  await load()
}
</script>

<template>
  <ConsequenceSheet v-model="open" :title="t('regions.whereThey', { title })" fits>
    <p v-if="refused" class="error-text" role="alert">{{ refused }}</p>
    <p v-if="result" role="status">{{ result }}</p>
    <RowTable
      v-if="found"
      :heads="[t('regions.region'), t('regions.entry'), t('regions.copiedFrom')]"
      :has-actions="true"
    >
      <tr v-for="{ name, entry } in found.regions" :key="name">
        <th scope="row">
          <bdi>{{ regionTitle(site.settings, name) }}</bdi>
        </th>
        <td v-if="entry">
          <StateMark :state="entry.state" />
          <b v-if="entry.id === id">{{ t('regions.here') }}</b>
          <EntryLink v-else :id="entry.id" :site="site.name" :title="entry.title" />
          <bdi v-if="entry.path" class="quiet path" dir="ltr">{{ entry.path }}</bdi>
        </td>
        <td v-else class="quiet">{{ t('regions.missing') }}</td>
        <td>
          <template v-if="entry?.of">
            <bdi>{{ found.regions.find((other) => other.entry?.id === entry.of)?.entry?.title ?? '' }}</bdi>
            <RouterLink
              v-if="entry.behind"
              class="behind"
              :to="{ name: 'source', params: { site: site.name, id: entry.id } }"
              >{{ t('regions.behind') }}</RouterLink
            >
          </template>
        </td>
        <td class="actions">
          <ElButton v-if="!entry && mayWriteIn(name)" size="small" @click="copyTo(name)">{{
            t('regions.copyTo', { region: regionTitle(site.settings, name) })
          }}</ElButton>
        </td>
      </tr>
    </RowTable>
  </ConsequenceSheet>
  <CopyToRegion v-if="region" v-model="isCopying" :site="site" :region="region" :ids="[id]" @copied="copied" />
</template>

<style scoped>
td .mark {
  margin-inline-end: 6px;
}
.path {
  margin-inline-start: 8px;
  font: 12px/16px var(--w-code);
}
.behind {
  margin-inline-start: 8px;
  color: var(--w-edited);
}
</style>
