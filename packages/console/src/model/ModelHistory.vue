<script setup lang="ts">
import type { AdoptedModel } from '@wisteria/client'
import { nameOfActor, type Site } from '../session'
import { ago } from '../times'
import { t } from '../messages'

/** The versions of a model, newest first: who adopted each, what it changed, and the way back to it. */
defineProps<{ site: Site; versions: readonly AdoptedModel[]; mayChange: boolean }>()
const emit = defineEmits<{ goBack: [version: number] }>()
</script>

<template>
  <aside :aria-label="t('model.historyOfModel')">
    <h2>{{ t('entry.history') }}</h2>
    <ol>
      <li v-for="item in versions" :key="item.version">
        <b>{{ t('model.versionComma', { version: item.version }) }}</b>&nbsp;{{ ' ' }}
        <span class="quiet"
          >{{ nameOfActor(site, item.adoptedBy) }},
          <time :datetime="item.adoptedAt">{{ ago(item.adoptedAt) }}</time></span
        >
        <button
          v-if="mayChange && item.version !== site.model.version"
          class="plain link"
          type="button"
          :aria-label="t('model.goBackTitle', { version: item.version })"
          @click="emit('goBack', item.version)"
        >
          {{ t('model.goBack') }}
        </button>
        <ul>
          <li v-for="(consequence, index) in item.consequences.slice(0, 3)" :key="index" class="quiet">
            <code>{{ consequence.place }}</code> {{ consequence.message }}
          </li>
          <li v-if="item.consequences.length > 3" class="quiet">
            {{ t('common.andMore', { count: item.consequences.length - 3 }) }}
          </li>
        </ul>
      </li>
    </ol>
  </aside>
</template>

<style scoped>
h2 {
  font-size: 14px;
}
ol,
ul {
  margin: 0;
  padding: 0;
  list-style: none;
  font-size: 12px;
  line-height: 16px;
}
ol > li {
  padding-block: 8px;
  border-block-end: 1px solid var(--w-hair);
}
.link {
  color: var(--w-accent);
  text-decoration: underline;
}
</style>
