<script setup lang="ts">
import type { AutomationView } from '@wisteria/client'
import { ElButton } from 'element-plus'
import { useRouter } from 'vue-router'
import { startWords } from '../automations/words'
import RowTable from '../components/RowTable.vue'
import StripBar from '../components/StripBar.vue'
import { t } from '../messages'
import SettingsFrame from '../site/SettingsFrame.vue'
import { useSettings } from '../site/settingsPage'
import { ago, moment } from '../times'

/** The automations of the site; each has a page of its own. */
const props = defineProps<{ site: string }>()
const router = useRouter()
const { content, trouble, load } = useSettings(
  props.site,
  async ({ editor }) => (await editor.automations.list()).automations,
)
const stateOf = ({ enabled, nextAt }: AutomationView): string =>
  !enabled
    ? t('automations.off')
    : nextAt === null
      ? t('automations.on')
      : t('automations.nextAt', { when: moment(nextAt) })
const add = () => router.push({ name: 'automation-new', params: { site: props.site } })
</script>

<template>
  <SettingsFrame :site="props.site" :trouble="trouble" @again="load">
    <h1 class="page-name">{{ t('settings.automations') }}</h1>
    <p v-if="content?.length === 0" class="content">{{ t('automations.none') }}</p>
    <RowTable
      v-else-if="content"
      :heads="[
        t('automations.label'),
        t('automations.startedBy'),
        t('automations.state'),
        t('automations.running'),
        t('automations.failedRuns'),
        t('automations.latest'),
      ]"
    >
      <tr v-for="automation in content" :key="automation.name">
        <th scope="row">
          <RouterLink :to="{ name: 'automation', params: { site: props.site, automation: automation.name } }"
            ><bdi>{{ automation.definition.label }}</bdi></RouterLink
          >
          <code class="quiet line">{{ automation.name }}</code>
        </th>
        <td>{{ startWords(automation.definition) }}</td>
        <td>{{ stateOf(automation) }}</td>
        <td>{{ automation.runs.running }}</td>
        <td :class="{ 'error-text': automation.runs.failed }">{{ automation.runs.failed }}</td>
        <td>{{ automation.runs.latest === null ? '' : ago(automation.runs.latest) }}</td>
      </tr>
    </RowTable>
  </SettingsFrame>
  <StripBar>
    <template v-if="content" #end>
      <ElButton type="primary" @click="add">{{ t('automations.add') }}</ElButton>
    </template>
  </StripBar>
</template>

<style scoped>
.line {
  display: block;
  font-size: 12px;
}
</style>
