<script setup lang="ts">
import { shallowRef } from 'vue'
import PageTrouble from '../components/PageTrouble.vue'
import StripBar from '../components/StripBar.vue'
import EntryForm from '../editor/EntryForm.vue'
import { openSite, type Site } from '../session'
import type { EditableEntry } from '@wisteria/client'
import { typeNamed, type ContentType } from '@wisteria/core'
import { t } from '../messages'

/** Loads the site with its model, and the entry unless it is new. */
const props = defineProps<{ site: string; id?: string; type?: string }>()
const ready = shallowRef<{ site: Site; type: ContentType; entry: EditableEntry | undefined }>()
const trouble = shallowRef<unknown>()

async function load(): Promise<void> {
  trouble.value = undefined
  try {
    const site = await openSite(props.site)
    const entry = props.id ? await site.editor.entry(props.id) : undefined
    const name = entry?.type ?? props.type ?? ''
    const type = typeNamed(site.model, name)
    if (!type) throw new Error(t('entry.notAType', { name, site: site.settings.label }))
    ready.value = { site, type, entry }
  } catch (error) {
    trouble.value = error
  }
}
void load()
</script>

<template>
  <EntryForm v-if="ready" :site="ready.site" :type="ready.type" :entry="ready.entry" />
  <template v-else>
    <main data-region="work"><PageTrouble v-if="trouble" :error="trouble" @again="load" /></main>
    <StripBar />
  </template>
</template>
