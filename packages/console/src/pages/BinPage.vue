<script setup lang="ts">
import type { BinnedEntry } from '@wisteria/client'
import { decide, typeNamed } from '@wisteria/core'
import { ElButton } from 'element-plus'
import { computed, onMounted, ref, shallowRef } from 'vue'
import { useActs } from '../acts'
import PageTrouble from '../components/PageTrouble.vue'
import StripBar from '../components/StripBar.vue'
import TypeList from '../lists/TypeList.vue'
import { nameOfActor, openSite, type Site } from '../session'
import { ago, day } from '../times'
import ConfirmButton from '../components/ConfirmButton.vue'
import { t } from '../messages'

/** Deleted entries, until they are deleted permanently. */
const props = defineProps<{ site: string }>()
const opened = shallowRef<Site>()
const entries = ref<BinnedEntry[]>([])
const next = ref<string | null>(null)
const trouble = ref<unknown>()
const isLoaded = ref(false)
const mayWrite = computed(() => opened.value !== undefined && decide(opened.value.caller, 'entry.write').allowed)

async function load(after?: string): Promise<void> {
  trouble.value = undefined
  try {
    opened.value ??= await openSite(props.site)
    const bin = await opened.value.editor.bin(after)
    entries.value = after ? [...entries.value, ...bin.entries] : [...bin.entries]
    next.value = bin.next
    isLoaded.value = true
  } catch (error) {
    trouble.value = error
  }
}
onMounted(() => load())

const { result, refused, act } = useActs(() => load())
const restoreFromBin = (entry: BinnedEntry) =>
  act(() => opened.value!.editor.restoreFromBin(entry.id), t('bin.isBack', { name: entry.title }))
const deletePermanently = (entry: BinnedEntry) =>
  act(() => opened.value!.editor.deletePermanently(entry.id), t('bin.isGone', { name: entry.title }))
</script>

<template>
  <main class="beside-lists" data-region="work">
    <TypeList v-if="opened" :site="opened" />
    <span v-else />
    <section>
      <h1 class="page-name">{{ t('bin.bin') }}</h1>
      <PageTrouble v-if="trouble" :error="trouble" @again="load()" />
      <p v-else-if="isLoaded && entries.length === 0" class="content">
        {{ t('bin.nothing') }}
      </p>
      <ul v-else class="rows">
        <li v-for="entry in entries" :key="entry.id" class="row paper">
          <span
            ><span class="title serif" dir="auto">{{ entry.title || t('common.noName') }}</span
            ><small class="quiet">{{
              opened && (typeNamed(opened.model, entry.type)?.label ?? entry.type)
            }}</small></span
          >
          <span class="quiet when"
            >{{ opened && nameOfActor(opened, entry.deletedBy) }}, {{ ago(entry.deletedAt) }}<br />{{
              t('bin.goesAt', { day: day(entry.goesAt) })
            }}</span
          >
          <span v-if="mayWrite" class="tools">
            <ElButton size="small" @click="restoreFromBin(entry)">{{ t('bin.restore') }}</ElButton>
            <ConfirmButton
              :label="t('bin.deletePermanentlyMore')"
              :question="t('bin.deleteQuestion', { name: entry.title })"
              :verb="t('bin.deletePermanently')"
              @confirm="deletePermanently(entry)"
            />
          </span>
        </li>
      </ul>
      <p v-if="next">
        <ElButton @click="load(next)">{{ t('common.showMore') }}</ElButton>
      </p>
    </section>
  </main>
  <StripBar :result="result">
    <template #start>
      <span v-if="refused" class="error-text" role="alert">{{ refused }}</span>
      <span v-else>{{ t(next ? 'bin.atLeast' : 'bin.count', { n: entries.length }) }}</span>
    </template>
  </StripBar>
</template>

<style scoped>
.rows {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 1px;
}
.row {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 220px auto;
  gap: 16px;
  align-items: center;
  min-block-size: 48px;
  padding: 4px 16px;
  border-radius: 0;
}
.title {
  display: block;
  font-size: 17px;
  line-height: 24px;
}
.when {
  font-size: 12px;
  line-height: 16px;
}
.tools {
  display: flex;
  gap: 8px;
}
@media (max-width: 600px) {
  .row {
    grid-template-columns: minmax(0, 1fr);
    gap: 4px;
    padding-block: 8px;
  }
}
</style>
