<script setup lang="ts">
import type { Asset } from '@wisteria/client'
import { decide, directionOf } from '@wisteria/core'
import { ElInput } from 'element-plus'
import { computed, ref, watch } from 'vue'
import { messageOf, t } from '../messages'
import type { Site } from '../session'

/** The alternative text of a picture in one locale, written where the picture is used and saved with the file. */
const { site, asset, locale } = defineProps<{ site: Site; asset: Asset; locale: string }>()
const emit = defineEmits<{ changed: [asset: Asset] }>()

const saved = computed(() => asset.alt[locale] ?? '')
const written = ref(saved.value)
const refused = ref('')
watch([saved, () => locale], () => (written.value = saved.value))
const mayWrite = computed(() => decide(site.caller, 'entry.translate', { locales: [locale] }).allowed)
const label = computed(() => t('assets.alternativeIn', { locale }))

async function save(): Promise<void> {
  const now = written.value.trim()
  if (now === saved.value) return
  refused.value = ''
  try {
    emit('changed', await site.editor.changeAsset(asset.id, { alt: { [locale]: now === '' ? null : now } }))
  } catch (error) {
    refused.value = messageOf(error)
  }
}
</script>

<template>
  <ElInput
    v-model="written"
    type="textarea"
    :rows="3"
    resize="none"
    maxlength="1000"
    :lang="locale"
    :dir="directionOf(locale)"
    :placeholder="label"
    :aria-label="label"
    :title="t('assets.usedEverywhere')"
    :disabled="!mayWrite"
    @change="save"
  />
  <small v-if="refused" class="error-text" role="alert">{{ refused }}</small>
</template>
