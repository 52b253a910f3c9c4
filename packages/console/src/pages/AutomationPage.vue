<script setup lang="ts">
import type { AutomationTry, AutomationView } from '@wisteria/client'
import { problemsInAutomation, readAutomationFiles, writeAutomation } from '@wisteria/core'
import { ElButton, ElInput, ElRadioButton, ElRadioGroup } from 'element-plus'
import { computed, ref, shallowRef } from 'vue'
import { useRouter } from 'vue-router'
import { useActs } from '../acts'
import AutomationForm from '../automations/AutomationForm.vue'
import RunList from '../automations/RunList.vue'
import { recordWords } from '../automations/words'
import ConfirmButton from '../components/ConfirmButton.vue'
import StripBar from '../components/StripBar.vue'
import { t } from '../messages'
import CodeField from '../query/CodeField.vue'
import OneTimeSecret from '../site/OneTimeSecret.vue'
import SettingsFrame from '../site/SettingsFrame.vue'
import { useSettings } from '../site/settingsPage'

/** One automation: its file, what it would do, its address and values, its runs. Without a name, a new one. */
const props = defineProps<{ site: string; automation?: string }>()
const router = useRouter()

const begun = writeAutomation({
  automation: 'first-one',
  label: t('automations.newTitle'),
  starts: { by: 'hand', on: 'site' },
  steps: [{ do: 'compute', name: 'says', values: `"${t('automations.hello')}"` }],
})
const text = ref(begun)
const stored = ref(begun)
/** The form and the file show the same text. */
const shown = ref<'form' | 'file'>('form')
/** Of the definition that the text was made from; undefined for a new automation. */
const version = ref<number>()
function show(automation: AutomationView): void {
  text.value = stored.value = writeAutomation(automation.definition)
  version.value = automation.version
}
const { site, content, trouble, load } = useSettings(props.site, async ({ editor }) => {
  if (props.automation === undefined) return { automation: undefined, runs: [] }
  const [automation, { runs }] = await Promise.all([
    editor.automations.get(props.automation),
    editor.automations.runs(props.automation),
  ])
  // What is being written stays, and so does the version that it is made from.
  if (text.value === stored.value) show(automation)
  return { automation, runs }
})
const { result, refused, act } = useActs(load)
const admin = () => site.value!.editor.automations

const problems = computed(() =>
  site.value ? problemsInAutomation(text.value, site.value.model, site.value.settings) : [],
)
/** Where something is wrong: in the form its step, in the file its line. */
function problemWords({ message, line, pointer }: (typeof problems.value)[number]): string {
  const step = /^\/steps\/(\d+)/.exec(pointer ?? '')?.[1]
  if (shown.value === 'form')
    return step === undefined ? message : t('automations.atStep', { n: Number(step) + 1, problem: message })
  return line === undefined ? message : t('automations.atLine', { line, problem: message })
}
const firstMistake = () => {
  const [problem] = problems.value
  if (!problem) return undefined
  const lines = text.value.split('\n').slice(0, (problem.line ?? 1) - 1)
  return { message: problem.message, from: lines.reduce((sum, line) => sum + line.length + 1, 0) }
}
/** Whether somebody else has changed the automation since this text was made from it. */
const isBehind = computed(() => version.value !== undefined && version.value !== content.value?.automation?.version)
const definition = () => readAutomationFiles([{ name: '', text: text.value }])[0]!

async function save(): Promise<void> {
  let name = ''
  await act(async () => {
    const saved = await admin().set(definition(), version.value)
    name = saved.name
    show(saved)
  }, t('common.savedStop'))
  if (name !== '' && name !== props.automation)
    await router.replace({ name: 'automation', params: { site: props.site, automation: name } })
}
const tried = shallowRef<AutomationTry>()
const tryIt = () => act(async () => (tried.value = await admin().try(definition())), '')
const start = () => act(() => admin().run(props.automation!), t('automations.started'))
const setEnabled = (enabled: boolean) =>
  act(() => admin().enable(props.automation!, enabled), t(enabled ? 'automations.isOn' : 'automations.isOff'))
const stop = (id: string) => act(() => admin().stop(id), t('automations.stopped'))
const retry = (id: string) => act(() => admin().retry(id), t('automations.retried'))
async function remove(): Promise<void> {
  await admin().remove(props.automation!)
  await router.push({ name: 'automations', params: { site: props.site } })
}
/** Of the address. */
const addressSecret = ref('')
const makeSecret = () =>
  act(async () => (addressSecret.value = (await admin().makeSecret(props.automation!)).secret), '')
const secretName = ref('')
const secretValue = ref('')
const setSecret = () =>
  act(async () => {
    await admin().setSecret(props.automation!, secretName.value, secretValue.value)
    secretName.value = secretValue.value = ''
  }, t('common.savedStop'))
const removeSecret = (name: string) =>
  act(() => admin().removeSecret(props.automation!, name), t('automations.secretRemoved'))
</script>

<template>
  <SettingsFrame :site="props.site" :trouble="trouble" @again="load">
    <p>
      <RouterLink :to="{ name: 'automations', params: { site: props.site } }">{{
        t('automations.backToAll')
      }}</RouterLink>
    </p>
    <template v-if="site && content">
      <div class="head">
        <h1 class="page-name">{{ content.automation?.definition.label ?? t('automations.newTitle') }}</h1>
        <template v-if="content.automation">
          <ElButton
            v-if="
              content.automation.definition.starts.by === 'hand' && content.automation.definition.starts.on === 'site'
            "
            size="small"
            @click="start"
            >{{ t('automations.start') }}</ElButton
          >
          <ElButton size="small" @click="setEnabled(!content.automation.enabled)">{{
            content.automation.enabled ? t('automations.switchOff') : t('automations.switchOn')
          }}</ElButton>
          <ConfirmButton
            :label="t('automations.removeMore')"
            :question="t('automations.removeQuestion', { label: content.automation.definition.label })"
            :verb="t('common.remove')"
            @confirm="remove"
          />
        </template>
      </div>
      <p v-if="content.automation && !content.automation.enabled" class="error-text">
        {{ t('automations.offExplained') }}
      </p>
      <p v-if="refused" class="error-text" role="alert">{{ refused }}</p>
      <p v-if="isBehind" class="error-text">
        {{ t('automations.isBehind') }}
        <ElButton size="small" @click="show(content.automation!)">{{ t('automations.showNewest') }}</ElButton>
      </p>
      <ElRadioGroup v-model="shown" size="small" :aria-label="t('automations.howWritten')">
        <ElRadioButton value="form">{{ t('automations.asForm') }}</ElRadioButton>
        <ElRadioButton value="file">{{ t('automations.asFile') }}</ElRadioButton>
      </ElRadioGroup>
      <AutomationForm v-if="shown === 'form'" v-model="text" :site="site" />
      <CodeField v-else v-model="text" class="file" :label="t('automations.file')" :mistake="firstMistake" tall />
      <ul v-if="problems.length" class="problems">
        <li v-for="(problem, index) in problems" :key="index" class="error-text">
          {{ problemWords(problem) }}
        </li>
      </ul>
      <section v-if="tried" role="status" class="tried" :aria-label="t('automations.tried')">
        <b>{{ t('automations.tried') }}</b>
        <ol>
          <li v-for="(done, index) in tried.run.log" :key="index" :value="done.step + 1">{{ recordWords(done) }}</li>
        </ol>
        <p v-for="call in tried.calls" :key="`${call.position} ${call.step}`">
          <code>{{ call.method }} {{ call.address }} {{ call.body }}</code>
        </p>
        <p v-if="tried.run.message" class="error-text">{{ tried.run.message }}</p>
      </section>
      <template v-if="content.automation">
        <section v-if="content.automation.address" :aria-label="t('automations.address')">
          <h2>{{ t('automations.address') }}</h2>
          <p>
            <bdi dir="ltr"
              ><code>{{ content.automation.address }}</code></bdi
            >
          </p>
          <p v-if="!content.automation.hasSecret" class="error-text">{{ t('automations.noSecret') }}</p>
          <ElButton size="small" @click="makeSecret">{{ t('automations.makeSecret') }}</ElButton>
        </section>
        <section :aria-label="t('automations.secrets')">
          <h2>{{ t('automations.secrets') }}</h2>
          <p class="quiet">{{ t('automations.secretsExplained') }}</p>
          <ul v-if="content.automation.secrets.length" class="secrets">
            <li v-for="name in content.automation.secrets" :key="name">
              <code>secrets.{{ name }}</code>
              <ElButton size="small" text @click="removeSecret(name)">{{ t('common.remove') }}</ElButton>
            </li>
          </ul>
          <form class="new-secret" @submit.prevent="setSecret">
            <ElInput
              v-model="secretName"
              size="small"
              :placeholder="t('automations.secretName')"
              :aria-label="t('automations.secretName')"
              dir="ltr"
              required
            />
            <ElInput
              v-model="secretValue"
              size="small"
              type="password"
              autocomplete="off"
              :placeholder="t('automations.secretValue')"
              :aria-label="t('automations.secretValue')"
              required
            />
            <ElButton size="small" native-type="submit">{{ t('automations.setSecret') }}</ElButton>
          </form>
        </section>
        <section :aria-label="t('automations.runs')">
          <h2>{{ t('automations.runs') }}</h2>
          <RunList :site="site" :runs="content.runs" @reload="load" @stop="stop" @retry="retry" />
        </section>
      </template>
    </template>
  </SettingsFrame>
  <StripBar :result="result">
    <template v-if="content" #end>
      <ElButton :disabled="problems.length > 0" @click="tryIt">{{ t('automations.try') }}</ElButton>
      <ElButton
        type="primary"
        :disabled="problems.length > 0 || (content.automation !== undefined && text === stored)"
        @click="save"
        >{{ t('common.save') }}</ElButton
      >
    </template>
  </StripBar>
  <OneTimeSecret
    v-if="addressSecret"
    :title="t('automations.secretOf')"
    :explained="t('automations.shownOnce')"
    :label="t('automations.secretOf')"
    :value="addressSecret"
    @stored="addressSecret = ''"
  />
</template>

<style scoped>
.head,
.new-secret {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
}
.head h1 {
  flex: 1;
  margin: 0;
}
.head :deep(.el-button + .el-button) {
  margin-inline-start: 0;
}
.new-secret :deep(.el-input) {
  inline-size: 200px;
}
.file {
  margin-block: 12px;
}
.problems,
.secrets {
  padding-inline-start: 20px;
}
.tried {
  padding: 8px 16px;
  background: var(--w-sunk);
}
</style>
