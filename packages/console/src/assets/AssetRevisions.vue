<script setup lang="ts">
import type { Asset, AssetRevision } from '@wisteria/client'
import { assetChanges } from '@wisteria/core'
import { ElButton } from 'element-plus'
import { ref, watch } from 'vue'
import { nameOfActor, type Site } from '../session'
import { moment } from '../times'
import { isPicture, sizeWords } from './address'
import { messageOf, t } from '../messages'

/** Every revision of a file, newest first; each can be restored. */
const { site, asset, mayWrite } = defineProps<{ site: Site; asset: Asset; mayWrite: boolean }>()
const emit = defineEmits<{ restore: [revision: number] }>()

const revisions = ref<readonly AssetRevision[]>([])
const next = ref<number | null>(null)
const refused = ref('')

async function read(before?: number): Promise<void> {
  refused.value = ''
  try {
    const page = await site.editor.assetRevisions(asset.id, { first: 10, ...(before ? { before } : {}) })
    revisions.value = before ? [...revisions.value, ...page.revisions] : page.revisions
    next.value = page.next
  } catch (error) {
    refused.value = messageOf(error)
  }
}
watch(
  () => [asset.id, asset.revision],
  () => read(),
  { immediate: true },
)

const whatChanged = ({ revision, changed }: AssetRevision): string =>
  revision === 1
    ? t('assets.added')
    : t('assets.changed', { what: changed.map((name) => assetChanges[name]).join(', ') })
const fileOfRevision = ({ revision }: AssetRevision): string =>
  `/edit/v1/sites/${site.name}/assets/${asset.id}/revisions/${revision}/file`
</script>

<template>
  <section>
    <h3>{{ t('assets.revisions') }}</h3>
    <p v-if="refused" class="error-text">{{ refused }}</p>
    <ol>
      <li v-for="state in revisions" :key="state.revision">
        <a
          :href="fileOfRevision(state)"
          target="_blank"
          rel="noopener"
          :aria-label="t('assets.fileOfRevision', { revision: state.revision })"
        >
          <img v-if="isPicture(state)" :src="fileOfRevision(state)" alt="" loading="lazy" />
          <template v-else>{{ sizeWords(state.size) }}</template>
        </a>
        <span class="what">
          {{ whatChanged(state) }}
          <small class="quiet">{{ nameOfActor(site, state.by) }}, {{ moment(state.at) }}</small>
        </span>
        <ElButton
          v-if="mayWrite && state.revision !== asset.revision"
          size="small"
          :aria-label="t('assets.restoreRevision', { revision: state.revision })"
          @click="emit('restore', state.revision)"
          >{{ t('common.restore') }}</ElButton
        >
      </li>
    </ol>
    <ElButton v-if="next !== null" size="small" @click="read(next)">{{ t('assets.showEarlier') }}</ElButton>
  </section>
</template>

<style scoped>
h3 {
  font-size: 13px;
  color: var(--w-ink2);
}
ol {
  list-style: none;
  margin: 0 0 8px;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: 48px 1fr auto;
  gap: 8px;
  align-items: center;
  padding-block: 4px;
}
img {
  display: block;
  inline-size: 48px;
  block-size: 32px;
  object-fit: cover;
  background: var(--w-sunk);
}
.what small {
  display: block;
}
p {
  margin: 0;
}
</style>
