<script setup lang="ts">
import type { ConnectorView, TranslationRuleView } from '@wisteria/core'
import { decide } from '@wisteria/core'
import { ElButton } from 'element-plus'
import { computed, ref } from 'vue'
import { useActs } from '../acts'
import ConfirmButton from '../components/ConfirmButton.vue'
import RowTable from '../components/RowTable.vue'
import StripBar from '../components/StripBar.vue'
import { t } from '../messages'
import ConnectorForm from '../site/ConnectorForm.vue'
import OneTimeSecret from '../site/OneTimeSecret.vue'
import RuleForm from '../site/RuleForm.vue'
import SettingsFrame from '../site/SettingsFrame.vue'
import { useSettings } from '../site/settingsPage'

/** Machines and agencies that translate, and rules that order from them. */
const props = defineProps<{ site: string }>()
const { site, content, trouble, load } = useSettings(props.site, async ({ editor }) => {
  const [{ connectors }, { rules }] = await Promise.all([editor.ordering.connectors(), editor.ordering.rules()])
  return { connectors, rules }
})
const { result, refused, act } = useActs(load)
const mayManage = computed(() => site.value !== undefined && decide(site.value.caller, 'integration.manage').allowed)
const mayWrite = computed(() => site.value !== undefined && decide(site.value.caller, 'entry.write').allowed)
const on = computed(() => content.value?.connectors.filter(({ enabled }) => enabled) ?? [])

const isChanging = ref(false)
const changed = ref<ConnectorView>()
const isAddingRule = ref(false)
const secret = ref('')
function openForm(connector?: ConnectorView): void {
  changed.value = connector
  isChanging.value = true
}
const saved = (shown: string | undefined) =>
  act(() => {
    secret.value = shown ?? ''
    return Promise.resolve()
  }, t('common.savedStop'))
const ordering = () => site.value!.editor.ordering
const setEnabled = ({ id }: ConnectorView, enabled: boolean) =>
  act(() => ordering().changeConnector(id, { enabled }), t(enabled ? 'webhooks.isOnAgain' : 'webhooks.isOff'))
const remove = ({ id, label }: ConnectorView) =>
  act(() => ordering().removeConnector(id), t('ordering.removed', { label }))
const setRule = ({ id }: TranslationRuleView, enabled: boolean) =>
  act(() => ordering().enableRule(id, enabled), t(enabled ? 'webhooks.isOnAgain' : 'webhooks.isOff'))
const removeRule = ({ id, label }: TranslationRuleView) =>
  act(() => ordering().removeRule(id), t('ordering.removed', { label }))
const labelOf = (connector: string): string =>
  content.value?.connectors.find(({ id }) => id === connector)?.label ?? connector
const typeLabel = (name: string): string => site.value!.model.types.find((type) => type.name === name)?.label ?? name
</script>

<template>
  <SettingsFrame :site="props.site" :trouble="trouble" @again="load">
    <h1 class="page-name">{{ t('settings.connectors') }}</h1>
    <p v-if="refused" class="error-text" role="alert">{{ refused }}</p>
    <template v-if="content">
      <p class="content">{{ t('ordering.explained') }}</p>
      <p v-if="content.connectors.length === 0" class="content">{{ t('ordering.noConnectors') }}</p>
      <RowTable
        v-else
        :heads="[t('ordering.label'), t('webhooks.address'), t('ordering.locales')]"
        :has-actions="mayManage"
      >
        <tr v-for="connector in content.connectors" :key="connector.id">
          <th scope="row">
            <bdi>{{ connector.label }}</bdi>
            <span v-if="!connector.enabled" class="error-text off">{{ t('webhooks.isOff') }}</span>
          </th>
          <td>
            <bdi dir="ltr"
              ><code>{{ connector.address }}</code></bdi
            >
          </td>
          <td>
            <bdi>{{ connector.locales?.join(', ') ?? t('settings.allLocales') }}</bdi>
          </td>
          <td v-if="mayManage" class="actions">
            <ElButton size="small" @click="openForm(connector)">{{ t('webhooks.changeMore') }}</ElButton>
            <ElButton size="small" @click="setEnabled(connector, !connector.enabled)">{{
              connector.enabled ? t('webhooks.switchOff') : t('webhooks.switchOn')
            }}</ElButton>
            <ConfirmButton
              :label="t('webhooks.removeMore')"
              :question="t('ordering.removeQuestion', { label: connector.label })"
              :verb="t('common.remove')"
              @confirm="remove(connector)"
            />
          </td>
        </tr>
      </RowTable>
      <section v-if="content.connectors.length > 0">
        <h2>{{ t('ordering.rules') }}</h2>
        <p v-if="content.rules.length === 0" class="content">{{ t('ordering.noRules') }}</p>
        <RowTable
          v-else
          :heads="[t('ordering.label'), t('ordering.after'), t('ordering.whatIsOrdered'), t('ordering.result')]"
          :has-actions="mayWrite"
        >
          <tr v-for="rule in content.rules" :key="rule.id">
            <th scope="row">
              <bdi>{{ rule.label }}</bdi>
              <span v-if="!rule.enabled" class="error-text off">{{ t('webhooks.isOff') }}</span>
              <span v-else-if="rule.problem" class="error-text off">{{ rule.problem }}</span>
            </th>
            <td>
              {{ t(`ordering.events.${rule.event === 'entry.published' ? 'published' : 'saved'}`) }}:
              <bdi>{{ typeLabel(rule.type) }}</bdi>
              <bdi v-if="rule.where" dir="ltr" class="off"
                ><code>{{ rule.where }}</code></bdi
              >
            </td>
            <td>
              <bdi>{{ labelOf(rule.connector) }}</bdi>,
              <bdi>{{ rule.locales?.join(', ') ?? t('settings.allLocales') }}</bdi>
            </td>
            <td>{{ t(rule.publish ? 'ordering.isPublished' : 'ordering.isDraft') }}</td>
            <td v-if="mayWrite" class="actions">
              <ElButton size="small" @click="setRule(rule, !rule.enabled)">{{
                rule.enabled ? t('webhooks.switchOff') : t('webhooks.switchOn')
              }}</ElButton>
              <ConfirmButton
                :label="t('webhooks.removeMore')"
                :question="t('ordering.removeRuleQuestion', { label: rule.label })"
                :verb="t('common.remove')"
                @confirm="removeRule(rule)"
              />
            </td>
          </tr>
        </RowTable>
      </section>
    </template>
  </SettingsFrame>
  <StripBar :result="result">
    <template v-if="content" #end>
      <ElButton v-if="mayWrite && on.length > 0" @click="isAddingRule = true">{{ t('ordering.addRuleMore') }}</ElButton>
      <ElButton v-if="mayManage" type="primary" @click="openForm()">{{ t('ordering.addMore') }}</ElButton>
    </template>
  </StripBar>
  <template v-if="site">
    <ConnectorForm v-model="isChanging" :site="site" :connector="changed" @saved="saved" />
    <RuleForm v-model="isAddingRule" :site="site" :connectors="on" @saved="saved(undefined)" />
  </template>
  <OneTimeSecret
    v-if="secret"
    :title="t('ordering.signing')"
    :explained="t('ordering.shownOnce')"
    :label="t('ordering.signing')"
    :value="secret"
    @stored="secret = ''"
  />
</template>

<style scoped>
.off {
  display: block;
  font-size: 13px;
}
</style>
