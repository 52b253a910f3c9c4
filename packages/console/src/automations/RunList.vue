<script setup lang="ts">
import type { AutomationItemView, AutomationRunView } from '@wisteria/client'
import { ElButton } from 'element-plus'
import { onBeforeUnmount, shallowReactive } from 'vue'
import EntryLink from '../components/EntryLink.vue'
import RowTable from '../components/RowTable.vue'
import { t } from '../messages'
import { nameOfActor, type Site } from '../session'
import { ago } from '../times'
import { recordWords, runState } from './words'

/** The runs of an automation: what each step did, and the items that failed. */
const { site, runs } = defineProps<{ site: Site; runs: readonly AutomationRunView[] }>()
const emit = defineEmits<{ reload: []; stop: [id: string]; retry: [id: string] }>()

const mostItems = 50
const itemsOf = shallowReactive(new Map<string, readonly AutomationItemView[]>())
async function show({ id, failed }: AutomationRunView, event: Event): Promise<void> {
  if (!(event.target as HTMLDetailsElement).open) return
  const state = failed > 0 ? 'failed' : undefined
  itemsOf.set(id, (await site.editor.automations.items(id, { first: mostItems, state })).items)
}
// Live while something is running.
const watching = setInterval(() => {
  if (runs.some(({ state }) => state === 'running')) emit('reload')
}, 2000)
onBeforeUnmount(() => clearInterval(watching))
const startedBy = ({ startedBy: actor }: AutomationRunView): string =>
  actor === 'address' ? t('automations.byMessage') : nameOfActor(site, actor)
</script>

<template>
  <p v-if="runs.length === 0" class="content">{{ t('automations.noRuns') }}</p>
  <RowTable
    v-else
    :heads="[t('automations.began'), t('automations.state'), t('automations.items'), t('automations.startedBy')]"
    has-actions
  >
    <tr v-for="run in runs" :key="run.id">
      <th scope="row">{{ ago(run.createdAt) }}</th>
      <td>
        <span :class="{ 'error-text': run.state === 'failed' }">{{ runState(run) }}</span>
        <span v-if="run.message" class="quiet line">{{ run.message }}</span>
        <details @toggle="show(run, $event)">
          <summary>{{ t('automations.whatItDid') }}</summary>
          <ol class="log">
            <li v-for="(done, index) in run.log" :key="index" :value="done.step + 1">
              {{ recordWords(done) }}
              <EntryLink v-if="done.entry" :id="done.entry" :site="site.name" :title="t('automations.theEntry')" />
            </li>
          </ol>
          <ul v-if="itemsOf.get(run.id)?.length" class="log">
            <li v-for="item in itemsOf.get(run.id)" :key="item.position">
              <EntryLink v-if="item.entry" :id="item.entry" :site="site.name" :title="item.title" />
              <bdi v-else>{{ item.title }}</bdi>
              <span class="quiet did">{{ item.log.map(recordWords).join('; ') }}</span>
              <span v-if="item.message" class="error-text line">{{ item.message }}</span>
            </li>
          </ul>
        </details>
      </td>
      <td>
        {{ run.total === 0 ? '' : t('automations.ofItems', { done: run.done, total: run.total }) }}
        <span v-if="run.failed > 0" class="error-text line">{{ t('automations.failedItems', { n: run.failed }) }}</span>
      </td>
      <td>{{ startedBy(run) }}</td>
      <td class="actions">
        <ElButton v-if="run.state === 'running'" size="small" @click="$emit('stop', run.id)">{{
          t('automations.stop')
        }}</ElButton>
        <ElButton
          v-else-if="run.state === 'failed' || run.state === 'stopped'"
          size="small"
          @click="$emit('retry', run.id)"
          >{{ t('automations.retry') }}</ElButton
        >
      </td>
    </tr>
  </RowTable>
</template>

<style scoped>
.line {
  display: block;
  font-size: 12px;
}
.did {
  margin-inline-start: 8px;
}
.log {
  margin: 4px 0;
  padding-inline-start: 24px;
  font-size: 12px;
}
</style>
