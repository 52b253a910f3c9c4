<script setup lang="ts">
import type { Job } from '@wisteria/client'
import { onMounted, ref, shallowRef } from 'vue'
import ConfirmButton from '../components/ConfirmButton.vue'
import JobProgress from '../components/JobProgress.vue'
import RowTable from '../components/RowTable.vue'
import { messageOf, t } from '../messages'
import type { Site } from '../session'

/** Locales that the site had once: their texts are kept until somebody deletes them permanently. */
const { site } = defineProps<{ site: Site; disabled: boolean }>()
const emit = defineEmits<{ deleted: [message: string] }>()
const removed = shallowRef<Awaited<ReturnType<Site['editor']['removedLocales']>>['locales']>([])
const job = shallowRef<Job>()
const refused = ref('')

async function load(): Promise<void> {
  try {
    removed.value = (await site.editor.removedLocales()).locales
  } catch (error) {
    refused.value = messageOf(error)
  }
}
onMounted(load)

async function forget(tag: string): Promise<void> {
  refused.value = ''
  try {
    job.value = await site.editor.forgetLocale(tag)
    emit('deleted', (await site.editor.waitFor(job.value, (now) => (job.value = now))).message)
  } catch (error) {
    refused.value = messageOf(error)
  } finally {
    job.value = undefined
  }
  await load()
}
defineExpose({ load })
</script>

<template>
  <section v-if="removed.length > 0 || refused">
    <h2>{{ t('site.removedLocales') }}</h2>
    <p>{{ t('site.removedExplained') }}</p>
    <p v-if="refused" class="error-text" role="alert">{{ refused }}</p>
    <RowTable :heads="[t('site.locale'), t('site.keptTexts')]" :has-actions="!disabled">
      <tr v-for="{ tag, entries, assets } in removed" :key="tag">
        <th scope="row">
          <bdi>{{ tag }}</bdi>
        </th>
        <td>{{ t('site.keptIn', { entries, assets }) }}</td>
        <td v-if="!disabled" class="actions">
          <ConfirmButton
            :label="t('site.deleteTextsMore')"
            :question="t('site.deleteTextsQuestion', { tag })"
            :verb="t('site.deleteTexts')"
            @confirm="forget(tag)"
          />
        </td>
      </tr>
    </RowTable>
    <JobProgress v-if="job" :job="job" />
  </section>
</template>
