<script setup lang="ts">
import type { ArchiveContent, ArchiveHead, Job } from '@wisteria/client'
import { ElButton, ElCheckbox, ElRadio, ElRadioGroup } from 'element-plus'
import { computed, ref, shallowRef } from 'vue'
import FileButton from '../components/FileButton.vue'
import JobProgress from '../components/JobProgress.vue'
import StripBar from '../components/StripBar.vue'
import { messageOf, t } from '../messages'
import { forgetDraft } from '../model/modelDraft'
import { forgetSites, loadSession } from '../session'
import SettingsFrame from '../site/SettingsFrame.vue'
import { useSettings } from '../site/settingsPage'
import { moment } from '../times'

/** A whole site as a file, and back. */
const props = defineProps<{ site: string }>()
const { site, trouble, load } = useSettings(props.site, () => Promise.resolve(true))
const content = ref<ArchiveContent>('everything')
const file = shallowRef<File>()
const archive = shallowRef<ArchiveHead>()
const newIds = ref(false)
const isBusy = ref(false)
const refused = ref('')
const result = ref('')
const job = shallowRef<Job>()
const isEmpty = computed(() => site.value !== undefined && site.value.model.version === 0)
const ids = computed(() => (newIds.value ? 'new' : 'same'))

/** Looks into the archive, before anything is imported. */
async function look(): Promise<void> {
  archive.value = undefined
  refused.value = result.value = ''
  if (!file.value) return
  isBusy.value = true
  try {
    archive.value = (await site.value!.editor.archives.check(file.value, ids.value)).archive
  } catch (error) {
    refused.value = messageOf(error)
  } finally {
    isBusy.value = false
  }
}
function take(chosen: File): void {
  file.value = chosen
  void look()
}
async function importArchive(): Promise<void> {
  refused.value = ''
  isBusy.value = true
  try {
    const { editor } = site.value!
    job.value = (await editor.archives.import(file.value!, ids.value)).job
    const { state, message } = await editor.waitFor(job.value, (now) => (job.value = now))
    if (state === 'done') result.value = message
    else refused.value = message
    archive.value = file.value = undefined
    // Its label, its locales and its model are others now.
    forgetSites()
    forgetDraft(props.site)
    await Promise.all([loadSession(), load()])
  } catch (error) {
    refused.value = messageOf(error)
  } finally {
    job.value = undefined
    isBusy.value = false
  }
}
</script>

<template>
  <SettingsFrame :site="props.site" :trouble="trouble" @again="load">
    <h1 class="page-name">{{ t('archive.title') }}</h1>
    <p class="content">{{ t('archive.explained') }}</p>
    <template v-if="site">
      <section v-if="!isEmpty">
        <h2>{{ t('archive.export') }}</h2>
        <ElRadioGroup v-model="content" class="choices" :aria-label="t('archive.contents')">
          <ElRadio v-for="what in ['everything', 'public'] as const" :key="what" :value="what">
            <span>{{ t(`archive.content.${what}`) }}</span>
            <span class="quiet">{{ t(`archive.contentExplained.${what}`) }}</span>
          </ElRadio>
        </ElRadioGroup>
        <p>{{ t('archive.without') }}</p>
        <ElButton tag="a" type="primary" :href="site.editor.archives.address(content)" download>{{
          t('archive.download')
        }}</ElButton>
      </section>
      <section>
        <h2>{{ t('archive.import') }}</h2>
        <p v-if="!isEmpty">{{ t('archive.notEmpty', { label: site.settings.label }) }}</p>
        <template v-else>
          <p>{{ t('archive.importExplained') }}</p>
          <p class="chosen">
            <FileButton :label="t('archive.choose')" accept=".zip,application/zip" :disabled="isBusy" @choose="take" />
            <bdi>{{ file?.name ?? t('imports.noFile') }}</bdi>
          </p>
          <p>
            <ElCheckbox v-model="newIds" :disabled="isBusy" @change="look">{{ t('archive.newIds') }}</ElCheckbox>
          </p>
          <dl v-if="archive">
            <dt>{{ t('archive.site') }}</dt>
            <dd>
              <bdi>{{ archive.site.label }}</bdi>
            </dd>
            <dt>{{ t('archive.contents') }}</dt>
            <dd>{{ t(`archive.content.${archive.content}`) }}</dd>
            <dt>{{ t('archive.madeAt') }}</dt>
            <dd>{{ moment(archive.madeAt) }}</dd>
            <dt>{{ t('archive.numbers') }}</dt>
            <dd>
              {{ t('lists.entryCount', { n: archive.counts['entries'] ?? 0 }) }},
              {{ t('archive.revisions', { n: archive.counts['revisions'] ?? 0 }) }},
              {{ t('archive.files', { n: archive.files }) }}
            </dd>
          </dl>
          <JobProgress v-if="job" :job="job" as-share />
        </template>
        <p v-if="refused" class="error-text" role="alert">{{ refused }}</p>
      </section>
    </template>
  </SettingsFrame>
  <StripBar :result="result">
    <template v-if="isEmpty" #end>
      <ElButton type="primary" :disabled="!archive" :loading="isBusy && archive !== undefined" @click="importArchive">{{
        t('archive.importIt')
      }}</ElButton>
    </template>
  </StripBar>
</template>

<style scoped>
.choices {
  display: grid;
  gap: 8px;
  justify-items: start;
}
.choices .el-radio {
  block-size: auto;
  align-items: start;
  white-space: normal;
}
.choices :deep(.el-radio__label) {
  display: grid;
}
.chosen {
  display: flex;
  align-items: center;
  gap: 12px;
}
dl {
  display: grid;
  grid-template-columns: max-content minmax(0, 1fr);
  gap: 4px 16px;
}
dt {
  color: var(--w-ink2);
}
dd {
  margin: 0;
}
</style>
