<script setup lang="ts">
import { ref } from 'vue'
import ConfirmButton from '../components/ConfirmButton.vue'
import { messageOf, t } from '../messages'
import { forgetSites, type Site } from '../session'

/** Whether the published edition can be read without a key; saved at once. */
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
    <ConfirmButton
      v-if="!disabled"
      :label="t(isOpen ? 'reading.closeMore' : 'reading.openMore')"
      :question="t(isOpen ? 'reading.closeQuestion' : 'reading.openQuestion')"
      :verb="t(isOpen ? 'reading.closeIt' : 'reading.openIt')"
      :is-harmless="!isOpen"
      @confirm="change"
    />
  </section>
</template>
