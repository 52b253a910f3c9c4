<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import PageTrouble from '../components/PageTrouble.vue'
import { callerOn, session } from '../session'
import { t } from '../messages'
import { sectionsFor } from './sections'

/** A page of the settings: the sections at the start, one of them on paper. */
const { site, trouble } = defineProps<{ site: string; trouble?: unknown }>()
defineEmits<{ again: [] }>()
const route = useRoute()
const sections = computed(() => sectionsFor(callerOn(session.value?.sites.find(({ name }) => name === site))))
/** The sections of pages about one thing. */
const within: Readonly<Record<string, string>> = {
  webhook: 'webhooks',
  automation: 'automations',
  'automation-new': 'automations',
}
const isHere = (name: string): boolean => route.name === name || within[String(route.name)] === name
</script>

<template>
  <main class="frame" data-region="work">
    <nav :aria-label="t('settings.sections')">
      <RouterLink
        v-for="section in sections"
        :key="section.route"
        :to="section.route === 'sites' ? { name: 'sites' } : { name: section.route, params: { site } }"
        :class="{ here: isHere(section.route) }"
        :aria-current="isHere(section.route) ? 'page' : undefined"
        >{{ section.label }}</RouterLink
      >
    </nav>
    <PageTrouble v-if="trouble" :error="trouble" @again="$emit('again')" />
    <div v-else class="paper"><slot /></div>
  </main>
</template>

<style scoped>
.frame {
  display: grid;
  grid-template-columns: 208px minmax(0, 960px);
  align-content: start;
  gap: 24px;
  padding: 24px;
  overflow: auto;
}
nav {
  display: grid;
  align-content: start;
  gap: 2px;
}
nav a {
  padding: 6px 12px;
  border-radius: 2px;
  color: var(--w-ink2);
  text-decoration: none;
}
nav a:hover {
  background: var(--w-sunk);
}
nav a.here {
  color: var(--w-accent);
  background: var(--w-accent-wash);
  box-shadow: inset 3px 0 var(--w-accent);
}
[dir='rtl'] nav a.here {
  box-shadow: inset -3px 0 var(--w-accent);
}
.paper {
  padding: 24px 32px 32px;
}
.paper :slotted(section) {
  margin-block-start: 32px;
}
.paper :deep(h2) {
  font-size: 15px;
  margin-block-end: 8px;
}
@media (max-width: 880px) {
  .frame {
    grid-template-columns: minmax(0, 1fr);
    padding: 16px;
  }
  nav {
    display: flex;
    flex-wrap: wrap;
  }
  .paper {
    padding: 16px;
    overflow: auto;
  }
}
</style>
