<script setup lang="ts">
import { decide } from '@wisteria/core'
import { ElButton } from 'element-plus'
import { computed, onBeforeUnmount, onMounted, ref } from 'vue'
import StripBar from '../components/StripBar.vue'
import type { Site } from '../session'
import { ago } from '../times'
import ConsequencesSheet from './ConsequencesSheet.vue'
import { forgetDraft, type ModelDraft } from './modelDraft'

/** The foot of the model's pages: how far the draft is from what is in force, and the way to adopt it. */
const { draft, site } = defineProps<{ draft: ModelDraft; site: Site }>()
const emit = defineEmits<{ adopted: [] }>()
const isOpen = ref(false)
const result = ref('')
const mayChange = decide(site.caller, 'model.change').allowed

const words = computed(() => {
  const { length } = draft.problems.value
  if (length > 0) return `${length} ${length === 1 ? 'mistake' : 'mistakes'}: ${draft.problems.value[0]!.message}`
  if (!draft.isChanged.value) return `As adopted, version ${site.model.version}`
  const { recovered } = draft
  const since = recovered
    ? recovered.version === site.model.version
      ? `Recovered from ${ago(recovered.at)}. `
      : `Recovered from ${ago(recovered.at)}, begun on version ${recovered.version}; version ${site.model.version} is adopted now. `
    : ''
  const changes = draft.changes.value
  const breaking = changes.filter((one) => one.weight !== 'plain').length
  if (changes.length === 0) return `${since}Only how the files are written changes`
  return `${since}${changes.length} ${changes.length === 1 ? 'change' : 'changes'}${breaking > 0 ? `, ${breaking} breaking` : ''}, not adopted yet`
})
const canSee = computed(() => mayChange && draft.isChanged.value && draft.problems.value.length === 0)

function discard(): void {
  forgetDraft(site.name)
  result.value = 'Your changes are discarded.'
  emit('adopted')
}
function adopted(version: number): void {
  result.value = `Adopted: version ${version}.`
  emit('adopted')
}
function onKey(event: KeyboardEvent): void {
  if ((event.ctrlKey || event.metaKey) && event.key === 'Enter' && canSee.value && !isOpen.value) {
    event.preventDefault()
    isOpen.value = true
  }
}
onMounted(() => addEventListener('keydown', onKey))
onBeforeUnmount(() => removeEventListener('keydown', onKey))
</script>

<template>
  <StripBar :result="result">
    <template #start>
      <span :class="{ 'error-text': draft.problems.value.length > 0 }" :title="words">{{ words }} </span>
    </template>
    <template #middle><slot name="middle" /></template>
    <template #end>
      <ElButton v-if="draft.isChanged.value" @click="discard">Discard changes</ElButton>
      <ElButton v-if="mayChange" type="primary" :disabled="!canSee" @click="isOpen = true">See consequences…</ElButton>
    </template>
  </StripBar>
  <ConsequencesSheet v-model="isOpen" :draft="draft" :site="site" @adopted="adopted" />
</template>
