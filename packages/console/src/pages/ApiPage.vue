<script setup lang="ts">
import 'rapidoc'
import { ElRadioButton, ElRadioGroup } from 'element-plus'
import { computed, ref, shallowRef, useTemplateRef, watch } from 'vue'
import PageTrouble from '../components/PageTrouble.vue'
import StripBar from '../components/StripBar.vue'
import { withoutNesting, type ApiDocument } from '../query/apiDocument'
import { t } from '../messages'

/** The API reference, made from the OpenAPI documents of the service itself. */
const props = defineProps<{ site: string }>()
const which = ref<'read' | 'edit'>('read')
const address = computed(() =>
  which.value === 'read' ? `/read/v1/${props.site}/openapi.json` : '/edit/v1/openapi.json',
)
const viewer = useTemplateRef<HTMLElement & { loadSpec: (document: ApiDocument) => Promise<void> }>('viewer')
const trouble = shallowRef<unknown>()
async function load(): Promise<void> {
  trouble.value = undefined
  const asked = address.value
  try {
    const answer = await fetch(asked)
    if (!answer.ok) throw new Error(t('query.noDocument', { status: answer.status, statusText: answer.statusText }))
    const document = withoutNesting((await answer.json()) as ApiDocument)
    if (asked === address.value) await viewer.value?.loadSpec(document)
  } catch (error) {
    trouble.value = error
  }
}
watch(address, load, { immediate: true, flush: 'post' })
const isDark = document.documentElement.classList.contains('dark')
const token = (name: string): string => {
  const probe = document.createElement('span')
  probe.style.color = `var(--w-${name})`
  document.body.append(probe)
  const { color } = getComputedStyle(probe)
  probe.remove()
  return `#${(color.match(/\d+/g) ?? [])
    .slice(0, 3)
    .map((part) => Number(part).toString(16).padStart(2, '0'))
    .join('')}`
}
</script>

<template>
  <main class="work" data-region="work">
    <header>
      <h1 class="page-name">{{ t('query.apiReference') }}</h1>
      <ElRadioGroup v-model="which" size="small" :aria-label="t('query.api')">
        <ElRadioButton value="read">{{ t('query.reading') }}</ElRadioButton>
        <ElRadioButton value="edit">{{ t('query.editing') }}</ElRadioButton>
      </ElRadioGroup>
      <RouterLink :to="{ name: 'query', params: { site } }">{{ t('query.tryIt') }}</RouterLink>
      <a :href="address" target="_blank" rel="noreferrer">{{ t('query.openApi') }}</a>
    </header>
    <PageTrouble v-if="trouble" :error="trouble" @again="load" />
    <rapi-doc
      v-show="!trouble"
      ref="viewer"
      :key="which"
      :theme="isDark ? 'dark' : 'light'"
      :bg-color="token('ground')"
      :nav-bg-color="token('ground')"
      :nav-text-color="token('ink2')"
      :text-color="token('ink')"
      :primary-color="token('accent')"
      regular-font="system-ui, sans-serif"
      mono-font="ui-monospace, monospace"
      render-style="focused"
      schema-style="table"
      nav-item-spacing="compact"
      show-header="false"
      load-fonts="false"
      allow-try="false"
      allow-authentication="false"
      allow-server-selection="false"
      allow-spec-url-load="false"
      allow-spec-file-load="false"
      allow-spec-file-download="false"
      show-method-in-nav-bar="as-plain-text"
    />
  </main>
  <StripBar />
</template>

<style scoped>
.work {
  display: flex;
  flex-direction: column;
  overflow: hidden;
}
header {
  display: flex;
  align-items: baseline;
  gap: 24px;
  padding: 16px 24px 8px;
}
rapi-doc {
  flex: 1;
  min-block-size: 0;
  block-size: auto;
}
</style>
