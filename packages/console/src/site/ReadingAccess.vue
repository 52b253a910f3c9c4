<script setup lang="ts">
import { ElButton, ElPopconfirm } from 'element-plus'
import { ref } from 'vue'
import { messageOf, t } from '../messages'
import { forgetSites, type Site } from '../session'

/** Whether the published edition may be read without a key; saved by itself. */
const { site, disabled } = defineProps<{ site: Site; disabled: boolean }>()
const emit = defineEmits<{ changed: [what: string] }>()
const isOpen = ref(site.settings.open)
const trouble = ref('')

async function change(): Promise<void> {
  trouble.value = ''
  try {
    isOpen.value = (await site.editor.setOpen(!isOpen.value)).open
    forgetSites()
    emit('changed', t(isOpen.value ? 'reading.opened' : 'reading.closed'))
  } catch (error) {
    trouble.value = messageOf(error)
  }
}
</script>

<template>
  <section aria-labelledby="reading-head">
    <h2 id="reading-head">{{ t('reading.title') }}</h2>
    <p>{{ t(isOpen ? 'reading.isOpen' : 'reading.isClosed') }}</p>
    <p v-if="trouble" class="error-text" role="alert">{{ trouble }}</p>
    <ElPopconfirm
      v-if="!disabled"
      :title="t(isOpen ? 'reading.closeQuestion' : 'reading.openQuestion')"
      :confirm-button-text="t(isOpen ? 'reading.closeIt' : 'reading.openIt')"
      :confirm-button-type="isOpen ? 'danger' : 'primary'"
      :cancel-button-text="t('common.cancel')"
      width="300"
      @confirm="change"
    >
      <template #reference
        ><ElButton size="small">{{ t(isOpen ? 'reading.closeMore' : 'reading.openMore') }}</ElButton></template
      >
    </ElPopconfirm>
  </section>
</template>
