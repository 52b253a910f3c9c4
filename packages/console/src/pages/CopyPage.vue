<script setup lang="ts">
import type { CopyOrder, Job } from '@wisteria/client'
import type { CopyPlan } from '@wisteria/core'
import { decide } from '@wisteria/core'
import { ElButton, ElCheckbox, ElCheckboxGroup, ElOption, ElSelect } from 'element-plus'
import { computed, ref, shallowRef, watch } from 'vue'
import JobProgress from '../components/JobProgress.vue'
import RowTable from '../components/RowTable.vue'
import StripBar from '../components/StripBar.vue'
import ConsequencesSheet from '../model/ConsequencesSheet.vue'
import { openDraft } from '../model/modelDraft'
import SettingsFrame from '../site/SettingsFrame.vue'
import { useSettings } from '../site/settingsPage'
import { openSite, session, type Site } from '../session'
import { sizeWords } from '../assets/address'
import { messageOf, t } from '../messages'

/** Copying from another site: its model, and content with its files. A plan comes first. */
const props = defineProps<{ site: string }>()
const { site, content, trouble, load } = useSettings(props.site, (opened) => openDraft(opened))
const others = computed(() => (session.value?.sites ?? []).filter(({ name, role }) => name !== props.site && role))
const from = ref('')
const other = shallowRef<Site>()
const refused = ref('')
const types = ref<string[]>([])
const references = ref(true)
const publishes = ref(false)
const plan = shallowRef<CopyPlan>()
const job = shallowRef<Job>()
const isPlanning = ref(false)
const isComparing = ref(false)
const result = ref('')

watch(from, async (name) => {
  refused.value = ''
  plan.value = undefined
  try {
    other.value = await openSite(name)
    types.value = other.value.model.types.map((type) => type.name)
  } catch (error) {
    refused.value = messageOf(error)
  }
})
watch([types, references], () => (plan.value = undefined))

const mayModel = computed(() => site.value !== undefined && decide(site.value.caller, 'model.change').allowed)
const order = computed((): CopyOrder => ({
  from: from.value,
  ...(types.value.length === other.value?.model.types.length ? {} : { types: types.value }),
  ...(references.value ? {} : { references: false }),
}))
const count = computed(() => {
  const all = plan.value?.types ?? []
  const sum = (of: (type: CopyPlan['types'][number]) => number): number =>
    all.reduce((total, type) => total + of(type), 0)
  return sum(({ entries, refused: those }) => entries - those.reduce((total, { entries: n }) => total + n, 0))
})
const labelOf = (name: string): string => other.value?.model.types.find((type) => type.name === name)?.label ?? name

async function work(): Promise<void> {
  refused.value = result.value = ''
  isPlanning.value = true
  try {
    plan.value = await site.value!.editor.planCopy(order.value)
  } catch (error) {
    refused.value = messageOf(error)
  } finally {
    isPlanning.value = false
  }
}
async function copy(): Promise<void> {
  refused.value = result.value = ''
  try {
    job.value = await site.value!.editor.copy(order.value, publishes.value)
    const done = await site.value!.editor.waitFor(job.value, (now) => (job.value = now))
    result.value = t('copying.done', { message: done.message })
    plan.value = undefined
  } catch (error) {
    refused.value = messageOf(error)
  } finally {
    job.value = undefined
  }
}
</script>

<template>
  <SettingsFrame :site="props.site" :trouble="trouble" @again="load">
    <h1 class="page-name">{{ t('copying.title') }}</h1>
    <p class="content">{{ t('copying.explained') }}</p>
    <p v-if="others.length === 0" class="content">{{ t('copying.noOther') }}</p>
    <template v-else-if="site && content">
      <label class="choice"
        >{{ t('copying.from') }}
        <ElSelect v-model="from" :placeholder="t('copying.choose')">
          <ElOption v-for="{ name, label } in others" :key="name" :value="name" :label="label" />
        </ElSelect>
      </label>
      <p v-if="refused" class="error-text" role="alert">{{ refused }}</p>
      <template v-if="other">
        <section v-if="mayModel">
          <h2>{{ t('copying.model') }}</h2>
          <p>{{ t('copying.modelExplained') }}</p>
          <ElButton @click="isComparing = true">{{ t('copying.compare') }}</ElButton>
        </section>
        <section>
          <h2>{{ t('copying.content') }}</h2>
          <ElCheckboxGroup v-model="types" class="types" :aria-label="t('copying.types')">
            <ElCheckbox v-for="{ name, label } in other.model.types" :key="name" :value="name">{{ label }}</ElCheckbox>
          </ElCheckboxGroup>
          <p>
            <ElCheckbox v-model="references">{{ t('copying.references') }}</ElCheckbox>
            <ElCheckbox v-model="publishes">{{ t('copying.publish') }}</ElCheckbox>
          </p>
        </section>
        <section v-if="plan">
          <h2>{{ t('copying.plan') }}</h2>
          <RowTable :heads="[t('translating.type'), t('copying.entries'), t('copying.refused')]">
            <tr v-for="{ type, entries, refused: those } in plan.types" :key="type">
              <th scope="row">{{ labelOf(type) }}</th>
              <td>{{ entries }}</td>
              <td>
                <span v-for="{ message, entries: n } in those" :key="message" class="error-text why"
                  >{{ n }}: {{ message }}</span
                >
              </td>
            </tr>
          </RowTable>
          <p>{{ t('copying.files', { n: plan.assets.count, size: sizeWords(plan.assets.bytes) }) }}</p>
          <p v-if="plan.localesLeftOut.length > 0">
            {{ t('copying.localesLeftOut', { locales: plan.localesLeftOut.join(', ') }) }}
          </p>
          <p v-if="plan.referencesLeftOut > 0">
            {{ t('copying.referencesLeftOut', { n: plan.referencesLeftOut }) }}
          </p>
        </section>
        <JobProgress v-if="job" :job="job" />
      </template>
    </template>
  </SettingsFrame>
  <StripBar :result="result">
    <template v-if="other" #end>
      <ElButton :loading="isPlanning" :disabled="types.length === 0 || job !== undefined" @click="work">{{
        t('copying.work')
      }}</ElButton>
      <ElButton type="primary" :disabled="!plan || count === 0" :loading="job !== undefined" @click="copy">{{
        t('copying.copy', { n: count })
      }}</ElButton>
    </template>
  </StripBar>
  <ConsequencesSheet
    v-if="site && content && other"
    v-model="isComparing"
    :draft="content"
    :site="site"
    :from="{ name: other.name, label: other.settings.label }"
    @adopted="load"
  />
</template>

<style scoped>
.choice {
  display: grid;
  gap: 4px;
  inline-size: min(320px, 100%);
  font-size: 13px;
  color: var(--w-ink2);
}
.types {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(180px, 1fr));
}
.why {
  display: block;
}
</style>
