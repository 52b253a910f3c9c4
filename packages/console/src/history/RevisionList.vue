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
  <nav class="side-list" :aria-label="t('history.revisions')" data-region="margin">
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
.what {
  font-size: 14px;
  line-height: 20px;
}
</style>
