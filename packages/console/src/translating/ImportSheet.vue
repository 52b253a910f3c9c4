<script setup lang="ts">
import type { ImportedText, ImportView, Job, TranslationFormat } from '@wisteria/client'
import { incomingOutcomes, worthLooking, type TranslationBoard } from '@wisteria/core'
import { ElButton, ElCheckbox, ElOption, ElSelect } from 'element-plus'
import { computed, ref, shallowRef, useTemplateRef, watch } from 'vue'
import ConsequenceSheet from '../components/ConsequenceSheet.vue'
import EntryLink from '../components/EntryLink.vue'
import JobProgress from '../components/JobProgress.vue'
import RowTable from '../components/RowTable.vue'
import type { Site } from '../session'
import { messageOf, t } from '../messages'

/** A file with translations: read first, with the result for each text, then applied. */
const open = defineModel<boolean>({ required: true })
const { site, board } = defineProps<{ site: Site; board: TranslationBoard }>()
const emit = defineEmits<{ applied: [] }>()

const picker = useTemplateRef<HTMLInputElement>('picker')
const locale = ref('')
const read = shallowRef<ImportView>()
const texts = shallowRef<readonly ImportedText[]>([])
const hasMore = ref(false)
const overwrites = ref(false)
const job = shallowRef<Job>()
const isReading = ref(false)
const trouble = ref('')

watch(
  open,
  (isOpen) => {
    if (!isOpen) return
    if (locale.value === '') locale.value = board.locales[0]?.tag ?? ''
    read.value = undefined
    job.value = undefined
    trouble.value = ''
    overwrites.value = false
  },
  { immediate: true },
)

const formatOf = (name: string): TranslationFormat =>
  /\.csv$/i.test(name) ? 'csv' : /\.xlsx$/i.test(name) ? 'xlsx' : 'xliff'
const counts = computed(() =>
  incomingOutcomes.flatMap((outcome) => {
    const count = read.value?.outcomes[outcome] ?? 0
    return count > 0 ? [{ outcome, count }] : []
  }),
)
const taken = computed(() => {
  const { taken = 0, takenOutdated = 0, confirmed = 0, newer = 0 } = read.value?.outcomes ?? {}
  return taken + takenOutdated + confirmed + (overwrites.value ? newer : 0)
})

async function show(view: ImportView): Promise<void> {
  const page = await site.editor.translations.importTexts(view.id, worthLooking)
  read.value = view
  texts.value = page.texts
  hasMore.value = page.next !== null
}
async function take(files: FileList | null): Promise<void> {
  const [file] = files ?? []
  if (!file) return
  isReading.value = true
  trouble.value = ''
  read.value = undefined
  try {
    await show(await site.editor.translations.readImport(locale.value, formatOf(file.name), file.name, file))
  } catch (error) {
    trouble.value = t('translating.nothingImported', { message: messageOf(error) })
  } finally {
    isReading.value = false
    if (picker.value) picker.value.value = ''
  }
}
async function apply(): Promise<void> {
  trouble.value = ''
  try {
    job.value = await site.editor.translations.applyImport(read.value!.id, overwrites.value)
    await site.editor.waitFor(job.value, (now) => (job.value = now))
    await show(await site.editor.translations.import(read.value!.id))
    emit('applied')
  } catch (error) {
    trouble.value = messageOf(error)
  } finally {
    job.value = undefined
  }
}
</script>

<template>
  <ConsequenceSheet v-model="open" :title="t('translating.importTitle')">
    <div class="form">
      <label
        >{{ t('translating.importInto') }}
        <ElSelect v-model="locale" :disabled="read !== undefined"
          ><ElOption
            v-for="{ tag, label } in board.locales"
            :key="tag"
            :value="tag"
            :label="`${label} (${tag})`" /></ElSelect
      ></label>
      <ElButton :loading="isReading" @click="picker?.click()">{{ t('translating.chooseFile') }}</ElButton>
      <input
        ref="picker"
        type="file"
        class="visually-hidden"
        tabindex="-1"
        accept=".xlf,.xliff,.csv,.xlsx"
        :aria-label="t('translating.chooseFile')"
        @change="take(($event.target as HTMLInputElement).files)"
      />
      <p class="quiet">{{ t('translating.importFormats') }}</p>
    </div>
    <p v-if="trouble" class="error-text" role="alert">{{ trouble }}</p>
    <template v-if="read">
      <p class="content" role="status">
        {{
          read.state === 'applied'
            ? t('translating.importApplied', { name: read.name })
            : t('translating.importRead', { name: read.name, n: read.entries })
        }}
      </p>
      <JobProgress v-if="job" :job="job" />
      <ul class="counts">
        <li v-for="{ outcome, count } in counts" :key="outcome">
          <b>{{ count }}</b> {{ t(`translating.outcomes.${outcome}`) }}
        </li>
      </ul>
      <RowTable
        v-if="texts.length > 0"
        :heads="[
          t('translating.line'),
          t('translating.entry'),
          t('translating.sourceText'),
          t('translating.outcome'),
          t('translating.because'),
        ]"
      >
        <tr v-for="text in texts" :key="`${text.entry} ${text.unit}`">
          <td>{{ text.line }}</td>
          <td><EntryLink :id="text.entry" class="serif" :site="site.name" :title="text.title || text.entry" /></td>
          <td class="serif" dir="auto">{{ text.source.slice(0, 120) }}</td>
          <td>{{ t(`translating.outcomes.${text.outcome}`) }}</td>
          <td class="quiet">{{ text.message }}</td>
        </tr>
      </RowTable>
      <p v-if="hasMore" class="quiet">{{ t('translating.moreTexts', { name: read.id }) }}</p>
    </template>
    <template #foot>
      <ElCheckbox v-if="read?.state === 'read' && (read.outcomes.newer ?? 0) > 0" v-model="overwrites">{{
        t('translating.overwrite', { n: read.outcomes.newer ?? 0 })
      }}</ElCheckbox>
      <span class="gap" />
      <ElButton @click="open = false">{{
        read?.state === 'applied' ? t('common.close') : t('common.notNow')
      }}</ElButton>
      <ElButton
        v-if="read?.state === 'read'"
        type="primary"
        :disabled="taken === 0"
        :loading="job !== undefined"
        @click="apply"
        >{{ t('translating.takeTexts', { n: taken }) }}</ElButton
      >
    </template>
  </ConsequenceSheet>
</template>

<style scoped>
.form {
  display: flex;
  flex-wrap: wrap;
  align-items: end;
  gap: 12px 24px;
}
label {
  display: grid;
  gap: 4px;
  inline-size: 260px;
  font-size: 13px;
  color: var(--w-ink2);
}
.form p {
  margin: 0;
}
.counts {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 24px;
  margin: 0 0 16px;
  padding: 0;
  list-style: none;
}
.gap {
  flex: 1;
}
</style>
