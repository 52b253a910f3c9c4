<script setup lang="ts">
import type { AutomationView } from '@wisteria/client'
import { ElDropdownItem } from 'element-plus'
import { computed, onMounted, shallowRef } from 'vue'
import { messageOf, t } from '../messages'
import type { Site } from '../session'

/** The automations that somebody can start by hand for an entry, or for entries of a list: items of a menu. */
const { site, types, entries, inList } = defineProps<{
  site: Site
  /** The types of the entries. */
  types: readonly string[]
  /** Ids. */
  entries: readonly string[]
  /** Whether the entries were chosen in a list. */
  inList?: boolean
}>()
const emit = defineEmits<{ started: [result: string]; failed: [message: string] }>()

const all = shallowRef<readonly AutomationView[]>([])
onMounted(async () => {
  all.value = (await site.editor.automations.list().catch(() => ({ automations: [] }))).automations
})
const fitting = computed(() =>
  all.value.filter(({ enabled, definition: { starts } }) => {
    if (!enabled || starts.by !== 'hand' || starts.on === 'site') return false
    if (starts.on === 'list' && !inList) return false
    return starts.types === undefined || types.every((type) => starts.types!.includes(type))
  }),
)
async function start({ name, definition: { label } }: AutomationView): Promise<void> {
  try {
    await site.editor.automations.run(name, entries)
    emit('started', t('automations.startedFor', { label, n: entries.length }))
  } catch (error) {
    emit('failed', messageOf(error))
  }
}
</script>

<template>
  <ElDropdownItem
    v-for="(automation, index) in fitting"
    :key="automation.name"
    :divided="index === 0"
    @click="start(automation)"
    >{{ t('automations.startOne', { label: automation.definition.label }) }}</ElDropdownItem
  >
</template>
