<script setup lang="ts">
import type { EntryImportView, KeptMappingView } from '@wisteria/client'
import { importableTypes } from '@wisteria/core'
import { ElInput, ElOption, ElSelect } from 'element-plus'
import { computed, reactive, shallowRef, watch } from 'vue'
import FileButton from '../components/FileButton.vue'
import { t } from '../messages'
import { useSending } from '../sending'
import type { Site } from '../session'
import FormSheet from '../site/FormSheet.vue'

/** Chooses a file to import. How it is read is guessed, unless one says it. */
const { site, mappings } = defineProps<{ site: Site; mappings: readonly KeptMappingView[] }>()
const open = defineModel<boolean>({ required: true })
const emit = defineEmits<{ read: [entryImport: EntryImportView] }>()

const encodings = ['utf-8', 'windows-1252', 'iso-8859-15', 'windows-1250', 'utf-16le', 'macintosh']
const delimiters = [',', ';', '\t', '|']
const file = shallowRef<File>()
const form = reactive({ type: '', mapping: '', encoding: '', delimiter: '', sheet: '' })
const types = computed(() => importableTypes(site.model))
const isText = computed(() => file.value !== undefined && !/\.xlsx$/i.test(file.value.name))
const { problems, isBusy, send } = useSending()
watch(open, (isOpen) => isOpen && (problems.value = []))

function take(chosen: File): void {
  file.value = chosen
  problems.value = []
}
async function read(): Promise<void> {
  const chosen = file.value
  const said = (text: string): string | undefined => (text === '' ? undefined : text)
  const isDone = await send(async () => {
    if (!chosen) throw new Error(t('imports.noFile'))
    const entryImport = await site.editor.imports.read(chosen, {
      name: chosen.name,
      type: said(form.type),
      mapping: said(form.mapping),
      ...(isText.value
        ? { encoding: said(form.encoding), delimiter: said(form.delimiter) }
        : { sheet: said(form.sheet.trim()) }),
    })
    emit('read', entryImport)
  })
  if (isDone) open.value = false
}
</script>

<template>
  <FormSheet
    v-model="open"
    :title="t('imports.addTitle')"
    :submit="t('imports.read')"
    :problems="problems"
    :is-busy="isBusy"
    @submit="read"
  >
    <span class="label">{{ t('imports.file') }}</span>
    <span class="chosen">
      <FileButton :label="t('imports.choose')" accept=".csv,.tsv,.txt,.xlsx,.json,.jsonl,.ndjson" @choose="take" />
      <bdi>{{ file?.name ?? t('imports.noFile') }}</bdi>
    </span>
    <label for="import-type">{{ t('imports.type') }}</label>
    <ElSelect id="import-type" v-model="form.type" :empty-values="[null]" filterable>
      <ElOption value="" :label="t('imports.guess')" />
      <ElOption v-for="{ name, label } in types" :key="name" :value="name" :label="label" />
    </ElSelect>
    <template v-if="mappings.length > 0">
      <label for="import-mapping">{{ t('imports.mapping') }}</label>
      <ElSelect id="import-mapping" v-model="form.mapping" :empty-values="[null]" filterable>
        <ElOption value="" :label="t('imports.noMapping')" />
        <ElOption v-for="{ name } in mappings" :key="name" :value="name" :label="name" />
      </ElSelect>
    </template>
    <template v-if="isText">
      <label for="import-encoding">{{ t('imports.encoding') }}</label>
      <ElSelect id="import-encoding" v-model="form.encoding" :empty-values="[null]">
        <ElOption value="" :label="t('imports.guess')" />
        <ElOption v-for="name in encodings" :key="name" :value="name" :label="name" />
      </ElSelect>
      <label for="import-delimiter">{{ t('imports.delimiter') }}</label>
      <ElSelect id="import-delimiter" v-model="form.delimiter" :empty-values="[null]">
        <ElOption value="" :label="t('imports.guess')" />
        <ElOption
          v-for="sign in delimiters"
          :key="sign"
          :value="sign"
          :label="sign === '\t' ? t('imports.tabs') : sign"
        />
      </ElSelect>
    </template>
    <template v-else-if="file">
      <label for="import-sheet">{{ t('imports.sheet') }}</label>
      <ElInput id="import-sheet" v-model="form.sheet" maxlength="200" :placeholder="t('imports.firstSheet')" />
    </template>
    <p class="quiet">{{ t('imports.nothingChanges') }}</p>
  </FormSheet>
</template>

<style scoped>
.chosen {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 12px;
}
</style>
