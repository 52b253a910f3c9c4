<script setup lang="ts">
import type { EntryImportView } from '@wisteria/client'
import { decide } from '@wisteria/core'
import { ElButton } from 'element-plus'
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import PageTrouble from '../components/PageTrouble.vue'
import RowTable from '../components/RowTable.vue'
import StripBar from '../components/StripBar.vue'
import ImportFileForm from '../imports/ImportFileForm.vue'
import { outcomesInWords } from '../imports/words'
import { t } from '../messages'
import { nameOfActor } from '../session'
import { useSettings } from '../site/settingsPage'
import { ago } from '../times'

/** The imports of a site, the newest first. */
const props = defineProps<{ site: string }>()
const router = useRouter()
const { site, content, trouble, load } = useSettings(props.site, async ({ editor }) => {
  const [{ imports }, { mappings }] = await Promise.all([editor.imports.list(), editor.imports.mappings()])
  return { imports, mappings }
})
const isAdding = ref(false)
const mayWrite = computed(() => site.value !== undefined && decide(site.value.caller, 'entry.write').allowed)
const show = ({ id }: EntryImportView) => router.push({ name: 'import', params: { site: props.site, id } })
</script>

<template>
  <main class="table-page" data-region="work">
    <header>
      <h1 class="page-name">{{ t('imports.title') }}</h1>
      <nav class="pages">
        <RouterLink :to="{ name: 'entries', params: { site: props.site } }">{{ t('shell.entries') }}</RouterLink>
      </nav>
    </header>
    <PageTrouble v-if="trouble" :error="trouble" @again="load" />
    <div v-else-if="site && content" class="paper scroll" tabindex="0" role="region" :aria-label="t('imports.title')">
      <p v-if="content.imports.length === 0" class="content">{{ t('imports.none') }}</p>
      <RowTable
        v-else
        :heads="[t('imports.file'), t('imports.when'), t('imports.rows'), t('imports.state'), t('imports.result')]"
      >
        <tr v-for="entryImport in content.imports" :key="entryImport.id">
          <th scope="row">
            <RouterLink :to="{ name: 'import', params: { site: props.site, id: entryImport.id } }"
              ><bdi>{{ entryImport.name }}</bdi></RouterLink
            >
          </th>
          <td>
            <time :datetime="entryImport.createdAt">{{ ago(entryImport.createdAt) }}</time>,
            <bdi>{{ nameOfActor(site, entryImport.actor) }}</bdi>
          </td>
          <td>{{ entryImport.rows }}</td>
          <td>{{ t(`imports.states.${entryImport.state}`) }}</td>
          <td>
            <span
              v-for="({ outcome, words }, index) in outcomesInWords(entryImport)"
              :key="outcome"
              :class="{ 'error-text': outcome === 'failed' }"
              >{{ index > 0 ? ', ' : '' }}{{ words }}</span
            >
          </td>
        </tr>
      </RowTable>
    </div>
  </main>
  <StripBar>
    <template v-if="mayWrite" #end>
      <ElButton type="primary" @click="isAdding = true">{{ t('imports.addMore') }}</ElButton>
    </template>
  </StripBar>
  <ImportFileForm v-if="site && content" v-model="isAdding" :site="site" :mappings="content.mappings" @read="show" />
</template>

<style scoped>
.scroll {
  overflow: auto;
  padding: 8px 16px 24px;
}
</style>
