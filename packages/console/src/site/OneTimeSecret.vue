<script setup lang="ts">
import { useClipboard } from '@vueuse/core'
import { ElButton, ElInput } from 'element-plus'
import { ref } from 'vue'
import ConsequenceSheet from '../components/ConsequenceSheet.vue'
import { t } from '../messages'

/** A secret or a link that is shown only once, until the user has stored it. */
const { title, explained, label, value } = defineProps<{
  title: string
  explained: string
  /** The label of the value. */
  label: string
  value: string
}>()
const emit = defineEmits<{ stored: [] }>()
const { copy, copied, isSupported } = useClipboard({ legacy: true })
const failed = ref(false)
async function copyValue(): Promise<void> {
  failed.value = false
  try {
    await copy(value)
  } catch {
    failed.value = true
  }
}
const select = ({ target }: FocusEvent): void => (target as HTMLInputElement).select()
const open = ref(true)
</script>

<template>
  <ConsequenceSheet v-model="open" :title="title" fits stays>
    <p>{{ explained }}</p>
    <div class="secret">
      <ElInput :model-value="value" :aria-label="label" dir="ltr" readonly @focus="select" />
      <ElButton v-if="isSupported" @click="copyValue">{{ t('common.copy') }}</ElButton>
    </div>
    <p role="status" class="quiet">{{ failed ? t('settings.notCopied') : copied ? t('settings.copied') : '' }}</p>
    <template #foot>
      <ElButton type="primary" @click="emit('stored')">{{ t('settings.storedIt') }}</ElButton>
    </template>
  </ConsequenceSheet>
</template>

<style scoped>
p {
  margin: 0 0 8px;
}
.secret {
  display: flex;
  gap: 8px;
  max-inline-size: 720px;
  margin-block-end: 4px;
}
.secret :deep(input) {
  font-family: var(--w-code);
}
</style>
