<script setup lang="ts">
import type { Point, RevisionView } from '@wisteria/core'
import StateMark from '../components/StateMark.vue'
import { nameOfActor, type Site } from '../session'
import { ago } from '../times'
import { t } from '../messages'

/** The states of an entry to choose from: its revisions, newest first, one for each sitting. */
const { site, revisions, from } = defineProps<{ site: Site; revisions: readonly RevisionView[]; from: Point }>()
const emit = defineEmits<{ choose: [from: Point] }>()
</script>

<template>
  <nav class="revisions" :aria-label="t('history.revisions')" data-region="margin">
    <ol>
      <li v-if="revisions.some((revision) => revision.publicIn.length > 0)">
        <button
          class="plain row"
          type="button"
          :aria-current="from === 'public' ? 'true' : undefined"
          @click="emit('choose', 'public')"
        >
          <span class="what"><StateMark state="public" /> {{ t('history.publicNow') }}</span>
        </button>
      </li>
      <li v-for="revision in revisions" :key="revision.number">
        <button
          class="plain row"
          type="button"
          :aria-current="from === revision.number ? 'true' : undefined"
          @click="emit('choose', revision.number)"
        >
          <span class="what"
            >{{ t('history.revisionNumber', { number: revision.number })
            }}<small v-if="!revision.sealedAt" class="quiet after">{{ t('history.stillOpen') }}</small></span
          >
          <span class="quiet"
            >{{ nameOfActor(site, revision.author) }},
            <time :datetime="revision.updatedAt">{{ ago(revision.updatedAt) }}</time></span
          >
          <span v-if="revision.publicIn.length > 0" class="quiet"
            ><StateMark state="public" :label="t('history.publicIn', { locales: revision.publicIn.join(', ') })" />
            {{ revision.publicIn.join(', ') }}</span
          >
        </button>
      </li>
    </ol>
  </nav>
</template>

<style scoped>
.revisions {
  overflow: auto;
  padding-block: 24px;
}
ol {
  list-style: none;
  margin: 0;
  padding: 0;
}
.row {
  display: grid;
  gap: 2px;
  inline-size: 100%;
  padding: 8px 12px;
  border-inline-start: 3px solid transparent;
  font-size: 12px;
  line-height: 16px;
}
.row:hover {
  background: var(--w-sunk);
}
.row[aria-current] {
  border-color: var(--w-accent);
  background: var(--w-accent-wash);
}
.what {
  font-size: 14px;
  line-height: 20px;
}
</style>
