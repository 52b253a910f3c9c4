<script setup lang="ts">
import type { CounterpartPlan, Job } from '@wisteria/client'
import { ElButton, ElCheckbox } from 'element-plus'
import { computed, ref, shallowRef, watch } from 'vue'
import ConsequenceSheet from '../components/ConsequenceSheet.vue'
import JobProgress from '../components/JobProgress.vue'
import { messageOf, t } from '../messages'
import type { Site } from '../session'
import { regionTitle } from './regionNames'

/** Copying entries to a region: what would be copied comes first. */
const open = defineModel<boolean>({ required: true })
const { site, region, ids } = defineProps<{ site: Site; region: string; ids: readonly string[] }>()
const emit = defineEmits<{ copied: [message: string] }>()
const withChildren = ref(true)
const plan = shallowRef<CounterpartPlan>()
const job = shallowRef<Job>()
const refused = ref('')
const label = computed(() => regionTitle(site.settings, region))
const order = computed(() => ({ region, ids, withChildren: withChildren.value }))
const hidden = computed(() => (plan.value ? plan.value.create - plan.value.entries.length : 0))

async function work(): Promise<void> {
  plan.value = undefined
  refused.value = ''
  if (!open.value || ids.length === 0) return
  try {
    plan.value = await site.editor.counterparts.plan(order.value)
  } catch (error) {
    refused.value = messageOf(error)
  }
}
watch([open, order], work, { immediate: true })

async function copy(): Promise<void> {
  refused.value = ''
  try {
    job.value = await site.editor.counterparts.make(order.value)
    const { message } = await site.editor.waitFor(job.value, (now) => (job.value = now))
    open.value = false
    emit('copied', t('regions.copied', { region: label.value, message }))
  } catch (error) {
    refused.value = messageOf(error)
  } finally {
    job.value = undefined
  }
}
</script>

<template>
  <ConsequenceSheet v-model="open" :title="t('regions.copyTitle', { region: label })" fits>
    <p v-if="refused" class="error-text" role="alert">{{ refused }}</p>
    <ElCheckbox v-model="withChildren">{{ t('regions.withChildren') }}</ElCheckbox>
    <div v-if="plan" class="columns">
      <div>
        <h3>{{ t('regions.wouldCopy') }}</h3>
        <ul>
          <li v-for="{ id, title } in plan.entries" :key="id" dir="auto">{{ title }}</li>
        </ul>
        <p v-if="hidden > 0" class="quiet">{{ t('regions.andMore', { n: hidden }) }}</p>
        <p v-if="plan.exist > 0" class="quiet">{{ t('regions.exist', { n: plan.exist }) }}</p>
      </div>
      <div>
        <p>{{ t('regions.referencesLead') }}</p>
        <template v-if="plan.refused.length > 0">
          <h3>{{ t('regions.refused') }}</h3>
          <ul>
            <li v-for="{ id, title, message } in plan.refused" :key="id">
              <bdi>{{ title }}</bdi>: {{ message }}
            </li>
          </ul>
        </template>
      </div>
    </div>
    <JobProgress v-if="job" :job="job" />
    <template #foot>
      <ElButton type="primary" :disabled="!plan || plan.create === 0" :loading="job !== undefined" @click="copy">{{
        t('regions.copyCount', { n: plan?.create ?? 0 })
      }}</ElButton>
    </template>
  </ConsequenceSheet>
</template>
