<script setup lang="ts">
import { t } from '../messages'

/** A way to an entry, by its title: whatever names an entry on a page leads there through here. */
defineProps<{
  /** The name of its site. */
  site: string
  id: string
  title: string
  /** The locale in which the form opens; the default one when left out. */
  locale?: string | undefined
}>()
</script>

<template>
  <RouterLink dir="auto" :to="{ name: 'entry', params: { site, id }, query: locale ? { locale } : {} }">{{
    title || t('common.noName')
  }}</RouterLink>
</template>
