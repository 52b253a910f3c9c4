<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import type { Site } from '../session'
import { t } from '../messages'

/**
 * The types of a site beside its lists: those with exactly one entry come last, since they open directly; then saved views, the
 * tree, regions, imports and the bin.
 */
const { site, here } = defineProps<{ site: Site; here?: string | undefined }>()
const route = useRoute()
const many = computed(() => site.model.types.filter((type) => type.cardinality === 'many'))
const singles = computed(() => site.model.types.filter((type) => type.cardinality === 'one'))
const hasTree = computed(() => site.model.types.some((type) => type.parent !== undefined))
const hasRegions = computed(
  () => (site.settings.regions ?? []).length > 0 && site.model.types.some((type) => type.regional),
)
const isAt = (name: string): boolean => route.name === name
</script>

<template>
  <nav class="types" :aria-label="t('lists.types')">
    <RouterLink
      v-if="many.length > 0"
      :to="{ name: 'entries', params: { site: site.name } }"
      :class="{ here: isAt('entries') && !here }"
      :aria-current="isAt('entries') && !here ? 'page' : undefined"
      >{{ t('lists.allTypes') }}</RouterLink
    >
    <RouterLink
      v-for="type in many"
      :key="type.id"
      :to="{ name: 'entries', params: { site: site.name, type: type.name } }"
      :class="{ here: type.name === here }"
      :aria-current="type.name === here ? 'page' : undefined"
      >{{ type.label }}</RouterLink
    >
    <hr v-if="singles.length > 0" />
    <RouterLink
      v-for="type in singles"
      :key="type.id"
      :to="{ name: 'entry', params: { site: site.name, id: type.name } }"
      >{{ type.label }}</RouterLink
    >
    <slot />
    <hr v-if="many.length > 0" />
    <RouterLink
      v-if="hasTree"
      :to="{ name: 'tree', params: { site: site.name } }"
      :class="{ here: isAt('tree') }"
      :aria-current="isAt('tree') ? 'page' : undefined"
      >{{ t('lists.tree') }}</RouterLink
    >
    <RouterLink
      v-if="hasRegions"
      :to="{ name: 'counterparts', params: { site: site.name } }"
      :class="{ here: isAt('counterparts') }"
      :aria-current="isAt('counterparts') ? 'page' : undefined"
      >{{ t('regions.title') }}</RouterLink
    >
    <RouterLink v-if="many.length > 0" :to="{ name: 'imports', params: { site: site.name } }">{{
      t('imports.title')
    }}</RouterLink>
    <RouterLink
      v-if="many.length > 0"
      :to="{ name: 'bin', params: { site: site.name } }"
      :class="{ here: isAt('bin') }"
      :aria-current="isAt('bin') ? 'page' : undefined"
      >{{ t('lists.bin') }}</RouterLink
    >
  </nav>
</template>

<style scoped>
hr {
  inline-size: 100%;
  border: 0;
  border-block-start: 1px solid var(--w-hair);
}
.types {
  display: flex;
  flex-direction: column;
  position: sticky;
  inset-block-start: 0;
  align-self: start;
}
.types :deep(a) {
  padding: 6px 12px;
  color: var(--w-ink2);
  text-decoration: none;
  border-inline-start: 2px solid var(--w-hair);
}
.types :deep(a:hover) {
  color: var(--w-ink);
}
.types :deep(a.here) {
  color: var(--w-accent);
  border-color: var(--w-accent);
  background: var(--w-accent-wash);
}
@media (max-width: 900px) {
  .types {
    position: static;
    flex-flow: row wrap;
  }
  .types :deep(a) {
    padding: 4px 10px;
    border-inline-start: 0;
    border-block-end: 2px solid transparent;
  }
  hr {
    display: none;
  }
}
</style>
