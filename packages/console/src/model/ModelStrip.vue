<script setup lang="ts">
import { decide } from '@wisteria/core'
import { ElButton } from 'element-plus'
import { computed, ref } from 'vue'
import StripBar from '../components/StripBar.vue'
import type { Site } from '../session'
import { useShortcuts } from '../shortcuts'
import { ago } from '../times'
import ConsequencesSheet from './ConsequencesSheet.vue'
import { forgetDraft, type ModelDraft } from './modelDraft'
import { t } from '../messages'

/** The foot of the model's pages: how the draft differs from the adopted model, and the button to adopt it. */
const { draft, site } = defineProps<{ draft: ModelDraft; site: Site }>()
const emit = defineEmits<{ adopted: [] }>()
const isOpen = ref(false)
const result = ref('')
const mayChange = decide(site.caller, 'model.change').allowed

/** That the draft was not adopted when the console was closed, and the changes since. */
const since = computed(() => {
  const { recovered } = draft
  if (!recovered) return ''
  const [when, { version }] = [ago(recovered.at), site.model]
  return recovered.version === version
    ? t('model.recovered', { when })
    : t('model.recoveredOlder', { when, begun: recovered.version, version })
})
const words = computed(() => {
  const [first] = draft.problems.value
  if (first) return t('model.mistakes', { n: draft.problems.value.length, first: first.message })
  if (!draft.isChanged.value) return t('model.asAdopted', { version: site.model.version })
  const changes = draft.changes.value
  const breaking = changes.filter((change) => change.weight !== 'plain').length
  const now =
    changes.length === 0
      ? t('model.onlyWriting')
      : breaking > 0
        ? t('model.notAdoptedBreaking', { n: changes.length, breaking })
        : t('model.notAdopted', { n: changes.length })
  return [since.value, now].filter(Boolean).join(' ')
})
const canSee = computed(() => mayChange && draft.isChanged.value && draft.problems.value.length === 0)

function discard(): void {
  forgetDraft(site.name)
  result.value = t('model.discarded')
  emit('adopted')
}
function adopted(version: number): void {
  result.value = t('model.adopted', { version })
  emit('adopted')
}
useShortcuts({ 'mod+enter': () => canSee.value && !isOpen.value && (isOpen.value = true) })
</script>

<template>
  <StripBar :result="result">
    <template #start>
      <span :class="{ 'error-text': draft.problems.value.length > 0 }" :title="words">{{ words }} </span>
    </template>
    <template #middle><slot name="middle" /></template>
    <template #end>
      <ElButton v-if="draft.isChanged.value" @click="discard">{{ t('common.discardChanges') }}</ElButton>
      <ElButton v-if="mayChange" type="primary" :disabled="!canSee" @click="isOpen = true">{{
        t('common.seeConsequences')
      }}</ElButton>
    </template>
  </StripBar>
  <ConsequencesSheet v-model="isOpen" :draft="draft" :site="site" @adopted="adopted" />
</template>
