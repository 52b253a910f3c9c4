<script setup lang="ts">
import type { EntryImportRowView, EntryImportView, Job, PlannedImportRow } from '@wisteria/client'
import { decide, guessMapping, importableTypes, typeNamed, type ImportColumn, type ImportMapping } from '@wisteria/core'
import { ElButton, ElInput, ElOption, ElSelect } from 'element-plus'
import { computed, onUnmounted, ref, shallowRef } from 'vue'
import { useRouter } from 'vue-router'
import ConfirmButton from '../components/ConfirmButton.vue'
import EntryLink from '../components/EntryLink.vue'
import FileButton from '../components/FileButton.vue'
import JobProgress from '../components/JobProgress.vue'
import PageTrouble from '../components/PageTrouble.vue'
import RowTable from '../components/RowTable.vue'
import StripBar from '../components/StripBar.vue'
import MappingOptions from '../imports/MappingOptions.vue'
import MappingTable from '../imports/MappingTable.vue'
import { outcomesInWords, sourceInWords, withoutUndefined } from '../imports/words'
import { messagesOf, t } from '../messages'
import { useSending } from '../sending'
import FormSheet from '../site/FormSheet.vue'
import { useSettings } from '../site/settingsPage'

/** One import: where its columns go, its first rows as they become, and the results of all rows. */
const props = defineProps<{ site: string; id: string }>()
const router = useRouter()
const shownRows = 5
const shownProblems = 100

const cells = shallowRef<readonly (readonly unknown[])[]>([])
const preview = shallowRef<readonly PlannedImportRow[]>([])
const failed = shallowRef<readonly EntryImportRowView[]>([])
const job = shallowRef<Job>()
const problems = ref<readonly string[]>([])
const result = ref('')
/** The mapping as it is chosen here: what the service has refused is kept as it is, and told. */
const chosen = shallowRef<ImportMapping>()

const { site, content, trouble, load } = useSettings(props.site, async ({ editor }) => {
  const entryImport = await editor.imports.get(props.id)
  const [{ rows }, wrong] = await Promise.all([
    editor.imports.rows(props.id, { first: 100 }),
    entryImport.outcomes.failed
      ? editor.imports.rows(props.id, { outcome: 'failed', first: shownProblems })
      : undefined,
  ])
  cells.value = rows.map((row) => row.cells)
  failed.value = wrong?.rows ?? []
  chosen.value = entryImport.mapping ?? undefined
  if (isOpen(entryImport) && entryImport.mapping)
    preview.value = (await editor.imports.preview(props.id, { first: shownRows })).rows
  if (entryImport.job && ['checking', 'running', 'undoing'].includes(entryImport.state))
    void follow(await editor.job(entryImport.job))
  return entryImport
})
const isOpen = ({ state }: EntryImportView): boolean => state === 'read' || state === 'checked'
const mayWrite = computed(() => site.value !== undefined && decide(site.value.caller, 'entry.write').allowed)
const isFixed = computed(() => !content.value || !isOpen(content.value) || !mayWrite.value || job.value !== undefined)
const types = computed(() => (site.value ? importableTypes(site.value.model) : []))

let isGone = false
onUnmounted(() => (isGone = true))
/** Shows the progress of a job until it has ended. */
async function follow(started: Job): Promise<void> {
  job.value = started
  try {
    await site.value!.editor.waitFor(started, (now) => {
      if (!isGone) job.value = now
    })
  } catch (error) {
    problems.value = messagesOf(error)
  }
  job.value = undefined
  if (!isGone) await load()
}

async function setMapping(mapping: ImportMapping): Promise<void> {
  chosen.value = mapping
  problems.value = []
  try {
    const entryImport = await site.value!.editor.imports.setMapping(props.id, mapping)
    content.value = entryImport
    failed.value = []
    preview.value = (await site.value!.editor.imports.preview(props.id, { first: shownRows })).rows
  } catch (error) {
    problems.value = messagesOf(error)
  }
}
const change = (part: Partial<ImportMapping>): Promise<void> =>
  setMapping(withoutUndefined({ ...chosen.value!, ...part }))
function setColumns(columns: ImportColumn[]): Promise<void> {
  const { key } = chosen.value!
  return change({ columns, ...(columns.some(({ to }) => to === key) ? {} : { key: undefined }) })
}
function setType(name: string): Promise<void> {
  const { model, settings } = site.value!
  return setMapping(guessMapping(content.value!.heads, cells.value, typeNamed(model, name)!, model, settings))
}

async function begin(work: 'check' | 'run' | 'undo'): Promise<void> {
  problems.value = []
  result.value = ''
  try {
    await follow(await site.value!.editor.imports[work](props.id))
  } catch (error) {
    problems.value = messagesOf(error)
  }
}
/** Stands for the id of what the import would create. */
const future = JSON.stringify('0'.repeat(20))
const valuesInWords = ({ values }: PlannedImportRow): string =>
  JSON.stringify(values).replaceAll(future, t('imports.toCome'))
const isSending = ref(false)
/** Sends a ZIP file with the files that cells name. */
async function sendFiles(zip: File): Promise<void> {
  problems.value = []
  isSending.value = true
  try {
    await site.value!.editor.imports.setFiles(props.id, zip)
    await load()
  } catch (error) {
    problems.value = messagesOf(error)
  } finally {
    isSending.value = false
  }
}
const stop = () =>
  site.value!.editor.stopJob(job.value!.id).catch((error: unknown) => (problems.value = messagesOf(error)))
async function remove(): Promise<void> {
  await site.value!.editor.imports.remove(props.id)
  await router.push({ name: 'imports', params: { site: props.site } })
}

const isKeeping = ref(false)
const keptName = ref('')
const keeping = useSending()
async function keep(): Promise<void> {
  const name = keptName.value.trim()
  const isDone = await keeping.send(() => site.value!.editor.imports.keepMapping(name, chosen.value!))
  if (!isDone) return
  isKeeping.value = false
  result.value = t('imports.kept', { name })
}
</script>

<template>
  <main class="table-page" data-region="work">
    <header>
      <h1 class="page-name">
        <bdi>{{ content?.name ?? '' }}</bdi>
      </h1>
      <nav class="pages">
        <RouterLink :to="{ name: 'imports', params: { site: props.site } }">{{ t('imports.all') }}</RouterLink>
      </nav>
    </header>
    <PageTrouble v-if="trouble" :error="trouble" @again="load" />
    <div v-else-if="site && content" class="paper scroll" tabindex="0" role="region" :aria-label="content.name">
      <p>
        {{ sourceInWords(content) }}.
        <template v-if="content.files !== null">{{ t('imports.withFiles', { n: content.files }) }}. </template
        >{{ t(`imports.states.${content.state}`)
        }}<template v-for="({ outcome, words }, index) in outcomesInWords(content)" :key="outcome"
          >{{ index > 0 ? ', ' : ': ' }}<b :class="{ 'error-text': outcome === 'failed' }">{{ words }}</b></template
        >.
        <span v-if="content.undone.undone + content.undone.refused > 0" class="quiet"
          >{{ t('imports.undoneCount', content.undone) }}.</span
        >
      </p>
      <p v-if="mayWrite && !job" class="tools">
        <ElButton v-if="chosen" size="small" @click="isKeeping = true">{{ t('imports.keepMore') }}</ElButton>
        <FileButton
          v-if="chosen && isOpen(content)"
          size="small"
          :label="t('imports.addFiles')"
          accept=".zip,application/zip"
          :disabled="isSending"
          @choose="sendFiles"
        />
        <ConfirmButton
          v-if="['done', 'stopped', 'undone'].includes(content.state)"
          :label="t('imports.undoMore')"
          :question="t('imports.undoQuestion')"
          :verb="t('imports.undo')"
          @confirm="begin('undo')"
        />
        <ConfirmButton
          :label="t('imports.removeMore')"
          :question="t('imports.removeQuestion')"
          :verb="t('imports.remove')"
          @confirm="remove"
        />
      </p>
      <p v-for="problem in problems" :key="problem" class="error-text" role="alert">{{ problem }}</p>
      <div v-if="job" class="progress" role="status">
        <JobProgress :job="job" />
        <ElButton v-if="mayWrite" size="small" @click="stop">{{ t('imports.stop') }}</ElButton>
      </div>
      <section v-if="failed.length > 0" :aria-label="t('imports.problems')">
        <h2>{{ t('imports.problems') }}</h2>
        <p>
          <a :href="site.editor.imports.failedAddress(content.id)">{{ t('imports.toMend') }}</a>
          <span v-if="(content.outcomes.failed ?? 0) > failed.length" class="quiet">
            {{ t('imports.firstShown', { n: failed.length }) }}</span
          >
        </p>
        <RowTable :heads="[t('imports.row'), t('imports.column'), t('imports.problem')]">
          <template v-for="row in failed" :key="row.position">
            <tr v-for="problem in row.problems" :key="`${problem.column} ${problem.message}`">
              <th scope="row">{{ row.line }}</th>
              <td>
                <bdi>{{ problem.column }}</bdi>
              </td>
              <td>
                <bdi>{{ problem.message }}</bdi>
              </td>
            </tr>
          </template>
        </RowTable>
      </section>
      <template v-if="chosen">
        <section :aria-label="t('imports.how')">
          <h2>{{ t('imports.how') }}</h2>
          <MappingOptions :site="site" :mapping="chosen" :disabled="isFixed" @change="change" @type="setType" />
        </section>
        <section :aria-label="t('imports.columns')">
          <h2>{{ t('imports.columns') }}</h2>
          <MappingTable
            :site="site"
            :entry-import="content"
            :mapping="chosen"
            :rows="cells"
            :disabled="isFixed"
            @change="setColumns"
          />
        </section>
        <section v-if="preview.length > 0 && isOpen(content)" :aria-label="t('imports.firstRows')">
          <h2>{{ t('imports.firstRows') }}</h2>
          <RowTable :heads="[t('imports.row'), t('imports.result'), t('imports.entry')]">
            <tr v-for="row in preview" :key="row.line">
              <th scope="row">{{ row.line }}</th>
              <td :class="{ 'error-text': row.outcome === 'failed' }">{{ t(`imports.becomes.${row.outcome}`) }}</td>
              <td>
                <template v-if="row.problems.length === 0">
                  <EntryLink v-if="row.entry" :id="row.entry" class="serif" :site="props.site" :title="row.title" />
                  <span v-else class="serif" dir="auto">{{ row.title || t('common.noName') }}</span>
                  <code class="values">{{ valuesInWords(row) }}</code>
                </template>
                <span v-for="problem in row.problems" v-else :key="problem.message" class="error-text problem"
                  ><bdi>{{ problem.column }}</bdi
                  >: <bdi>{{ problem.message }}</bdi></span
                >
              </td>
            </tr>
          </RowTable>
        </section>
      </template>
      <section v-else>
        <p>{{ t('imports.noTypeFits') }}</p>
        <ElSelect
          model-value=""
          filterable
          class="choose"
          :placeholder="t('imports.type')"
          :aria-label="t('imports.type')"
          @change="setType"
        >
          <ElOption v-for="{ name, label } in types" :key="name" :value="name" :label="label" />
        </ElSelect>
      </section>
    </div>
  </main>
  <StripBar :result="result">
    <template v-if="content && mayWrite && !job" #end>
      <template v-if="isOpen(content) && chosen">
        <ElButton @click="begin('check')">{{ t('imports.check') }}</ElButton>
        <ElButton type="primary" @click="begin('run')">{{ t('imports.run', { n: content.rows }) }}</ElButton>
      </template>
      <ElButton v-if="content.state === 'stopped'" type="primary" @click="begin('run')">{{
        t('imports.goOn')
      }}</ElButton>
    </template>
  </StripBar>
  <FormSheet
    v-model="isKeeping"
    :title="t('imports.keepTitle')"
    :submit="t('imports.keep')"
    :problems="keeping.problems.value"
    :is-busy="keeping.isBusy.value"
    @submit="keep"
  >
    <label for="mapping-name">{{ t('imports.name') }}</label>
    <ElInput id="mapping-name" v-model="keptName" maxlength="80" required />
  </FormSheet>
</template>

<style scoped>
.scroll {
  overflow: auto;
  padding: 8px 16px 24px;
}
.tools {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
.tools :deep(.el-button + .el-button) {
  margin-inline-start: 0;
}
section {
  margin-block: 24px;
}
h2 {
  margin-block-end: 8px;
  font-size: 15px;
}
.progress {
  display: flex;
  align-items: center;
  gap: 16px;
}
.values {
  display: block;
  overflow: hidden;
  font-size: 12px;
  white-space: nowrap;
  text-overflow: ellipsis;
  max-inline-size: 900px;
  color: var(--w-ink2);
}
.problem {
  display: block;
}
.choose {
  inline-size: 280px;
}
</style>
