<script setup lang="ts">
import { Close } from '@element-plus/icons-vue'
import type { ListView } from '@wisteria/client'
import { decide } from '@wisteria/core'
import { ElIcon } from 'element-plus'
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { t } from '../messages'
import type { Site } from '../session'
import { writeAsks } from './asks'

/** Saved views beside the lists: a link each; the user's own, or a shared one if they may share, can be deleted. */
const { site, views, here } = defineProps<{
  site: Site
  views: readonly ListView[]
  /** The type that is listed. */
  here: string | undefined
}>()
const emit = defineEmits<{ changed: [] }>()
const route = useRoute()
const mayShare = computed(() => decide(site.caller, 'entry.write').allowed)

const addressOf = ({ asks: { type, ...query } }: ListView) => ({
  name: 'entries',
  params: { site: site.name, ...(type ? { type } : {}) },
  query: writeAsks(query),
})
const isHere = ({ asks: { type, ...query } }: ListView): boolean =>
  type === here && JSON.stringify(writeAsks(query)) === JSON.stringify(route.query)
async function remove(view: ListView): Promise<void> {
  await site.editor.deleteView(view.id)
  emit('changed')
}
</script>

<template>
  <template v-if="views.length > 0">
    <h2 class="views-title">{{ t('lists.savedViews') }}</h2>
    <span v-for="view in views" :key="view.id" class="view">
      <RouterLink
        :to="addressOf(view)"
        :class="{ here: isHere(view) }"
        :aria-current="isHere(view) ? 'page' : undefined"
        :title="view.shared ? t('lists.sharedView') : undefined"
        >{{ view.name }}</RouterLink
      >
      <button
        v-if="view.shared ? mayShare : view.own"
        class="plain remove"
        type="button"
        :aria-label="t('lists.deleteView', { name: view.name })"
        @click="remove(view)"
      >
        <ElIcon aria-hidden="true"><Close /></ElIcon>
      </button>
    </span>
  </template>
</template>

<style scoped>
.views-title {
  margin: 0;
  padding: 4px 12px;
  font: 12px/16px var(--w-interface);
  color: var(--w-ink2);
}
.view {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto;
}
.remove {
  padding-inline: 6px;
  color: var(--w-ink3);
}
.remove:hover {
  color: var(--w-error);
}
</style>
