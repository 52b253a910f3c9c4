<script setup lang="ts">
import { shallowRef, watch } from 'vue'
import PageTrouble from '../components/PageTrouble.vue'
import { openSite, type Site } from '../session'
import TranslationDesk from '../translating/TranslationDesk.vue'

/** Translating entries of a site into a locale. */
const props = defineProps<{ site: string; locale: string; entry?: string }>()
const opened = shallowRef<Site>()
const trouble = shallowRef<unknown>()

async function load(): Promise<void> {
  trouble.value = undefined
  try {
    opened.value = await openSite(props.site)
  } catch (error) {
    trouble.value = error
  }
}
watch(() => props.site, load, { immediate: true })
</script>

<template>
  <TranslationDesk
    v-if="opened"
    :key="`${opened.name} ${props.locale}`"
    :site="opened"
    :locale="props.locale"
    :entry="props.entry || undefined"
  />
  <main v-else data-region="work"><PageTrouble v-if="trouble" :error="trouble" @again="load" /></main>
</template>
