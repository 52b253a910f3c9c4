<script lang="ts">
/** The front end that was chosen last, by site. */
const recentFrontEnd = new Map<string, string>()
</script>

<script setup lang="ts">
import { WisteriaProblem, type FrontEnd } from '@wisteria/client'
import { ElOption, ElSelect } from 'element-plus'
import { onMounted, ref, useTemplateRef, watch } from 'vue'
import PageTrouble from '../components/PageTrouble.vue'
import { useWorkingCopy } from './workingCopy'
import { t } from '../messages'

/** The front end beside the form: it enters with a code of its own, and reloads when the working copy was saved. */
const { locale } = defineProps<{ locale: string }>()
const copy = useWorkingCopy()
const frame = useTemplateRef<HTMLIFrameElement>('frame')
const frontEnds = ref<readonly FrontEnd[]>([])
const frontEnd = ref<FrontEnd>()
const address = ref('')
const path = ref<string | null>(null)
const trouble = ref<unknown>()

async function enter(): Promise<void> {
  trouble.value = undefined
  try {
    frontEnds.value = (await copy.site.editor.frontEnds()).frontEnds
    const chosen = recentFrontEnd.get(copy.site.name)
    frontEnd.value ??= frontEnds.value.find(({ name }) => name === chosen) ?? frontEnds.value[0]
    if (!frontEnd.value) throw new Error(t('preview.noFrontEnd'))
    const { address: found, path: at } = await copy.site.editor.preview(
      copy.entry.value!.id,
      frontEnd.value.name,
      locale,
    )
    address.value = found
    path.value = at
  } catch (error) {
    trouble.value = error instanceof WisteriaProblem && error.isNotFound ? new Error(t('preview.noPage')) : error
  }
}

/** Another front end, also for the next preview on this site. */
function choose(name: string): void {
  frontEnd.value = frontEnds.value.find((candidate) => candidate.name === name)
  recentFrontEnd.set(copy.site.name, name)
  void enter()
}

onMounted(enter)
watch(() => locale, enter)
watch(
  () => copy.entry.value?.version,
  (_, before) => {
    const origin = frontEnd.value?.origins[0]
    if (before !== undefined && origin && path.value === (copy.entry.value?.paths[locale] ?? null))
      frame.value?.contentWindow?.postMessage({ wisteria: 'saved', entry: copy.entry.value?.id }, origin)
    else void enter()
  },
)
</script>

<template>
  <section class="preview" data-region="preview" :aria-label="t('preview.preview')">
    <template v-if="trouble || frontEnds.length > 0">
      <div v-if="frontEnds.length > 0" class="bar">
        <ElSelect
          v-if="frontEnds.length > 1"
          size="small"
          class="chooser"
          :model-value="frontEnd?.name"
          :aria-label="t('preview.frontEnd')"
          @update:model-value="choose($event as string)"
        >
          <ElOption v-for="option in frontEnds" :key="option.name" :value="option.name" :label="option.label" />
        </ElSelect>
        <span v-else>{{ frontEnd?.label }}</span>
        <bdi v-if="path" dir="ltr"
          ><code>{{ path }}</code></bdi
        >
      </div>
      <PageTrouble v-if="trouble" :error="trouble" @again="enter" />
      <p v-else-if="address && path === null" class="quiet without">
        {{ t('preview.noPath', { locale }) }}
      </p>
      <iframe
        v-else-if="address"
        ref="frame"
        :src="address"
        :title="t('preview.named', { name: frontEnd?.label ?? '' })"
      />
    </template>
  </section>
</template>

<style scoped>
.preview {
  display: grid;
  grid-template-rows: auto minmax(0, 1fr);
  block-size: 100%;
  border: 1px solid var(--w-hair);
  border-radius: 4px;
  overflow: hidden;
  background: var(--w-paper);
}
.bar {
  display: flex;
  gap: 12px;
  align-items: center;
  padding: 4px 12px;
  font-size: 12px;
  color: var(--w-ink2);
  border-block-end: 1px solid var(--w-hair);
  white-space: nowrap;
  overflow: hidden;
}
.chooser {
  inline-size: 180px;
}
.without {
  padding: 24px;
}
iframe {
  inline-size: 100%;
  block-size: 100%;
  border: 0;
  background: #fff;
}
</style>
