<script setup lang="ts">
import { Check } from '@element-plus/icons-vue'
import { ElIcon } from 'element-plus'
import { decide } from '@wisteria/core'
import { computed, onMounted, ref } from 'vue'
import type { RouteLocationRaw } from 'vue-router'
import type { Site } from '../session'
import { t } from '../messages'

/** The steps from an empty site to a page that readers see; absent once all are done. */
const { site } = defineProps<{ site: Site }>()
const params = computed(() => ({ site: site.name }))
const hasEntries = ref(false)
const isConnected = ref(true)
const isKnown = ref(false)
const mayConnect = computed(() => decide(site.caller, 'integration.manage').allowed)
const mayShape = computed(() => decide(site.caller, 'model.change').allowed)
const mayWrite = computed(() => decide(site.caller, 'entry.write').allowed)

onMounted(async () => {
  const { editor } = site
  const [{ entries }, keys, frontEnds] = await Promise.all([
    site.model.types.length > 0 ? editor.entries({ first: 1 }) : { entries: [] },
    mayConnect.value ? editor.keys() : { keys: [] },
    editor.frontEnds(),
  ])
  hasEntries.value = entries.length > 0
  isConnected.value = keys.keys.some(({ revokedAt }) => revokedAt === null) || frontEnds.frontEnds.length > 0
  isKnown.value = true
})

interface Step {
  readonly title: string
  readonly explained: string
  readonly isDone: boolean
  readonly links: readonly { readonly label: string; readonly to: RouteLocationRaw }[]
}
const firstType = computed(() => site.model.types.find(({ cardinality }) => cardinality === 'many'))
const steps = computed<readonly Step[]>(() => [
  {
    title: t('firstSteps.shape'),
    explained: t('firstSteps.shapeExplained'),
    isDone: site.model.types.length > 0,
    links: [
      ...(mayShape.value ? [{ label: t('firstSteps.createType'), to: { name: 'model', params: params.value } }] : []),
      ...(decide(site.caller, 'site.archive').allowed
        ? [{ label: t('firstSteps.importArchive'), to: { name: 'archive', params: params.value } }]
        : []),
    ],
  },
  {
    title: t('firstSteps.write'),
    explained: t('firstSteps.writeExplained'),
    isDone: hasEntries.value,
    links:
      firstType.value && mayWrite.value
        ? [
            {
              label: t('lists.create', { type: firstType.value.label.toLowerCase() }),
              to: { name: 'new', params: { ...params.value, type: firstType.value.name } },
            },
          ]
        : [],
  },
  {
    title: t('firstSteps.connect'),
    explained: t('firstSteps.connectExplained'),
    isDone: isConnected.value,
    links: mayConnect.value
      ? [
          { label: t('firstSteps.makeKey'), to: { name: 'keys', params: params.value } },
          { label: t('firstSteps.addFrontEnd'), to: { name: 'front-ends', params: params.value } },
          { label: t('firstSteps.tryQuery'), to: { name: 'query', params: params.value } },
        ]
      : [],
  },
])
const isAllDone = computed(() => steps.value.every(({ isDone }) => isDone))
const next = computed(() => steps.value.find(({ isDone }) => !isDone))
</script>

<template>
  <section v-if="isKnown && !isAllDone" class="paper" aria-labelledby="first-steps">
    <h2 id="first-steps" class="page-name">{{ t('firstSteps.title') }}</h2>
    <ol>
      <li v-for="step in steps" :key="step.title" :class="{ done: step.isDone, next: step === next }">
        <h3>
          {{ step.title
          }}<span v-if="step.isDone" class="mark"
            ><ElIcon aria-hidden="true"><Check /></ElIcon> {{ t('firstSteps.done') }}</span
          >
        </h3>
        <p class="quiet">{{ step.explained }}</p>
        <p v-if="!step.isDone && step.links.length > 0" class="links">
          <RouterLink v-for="link in step.links" :key="link.label" :to="link.to">{{ link.label }}</RouterLink>
        </p>
      </li>
    </ol>
  </section>
</template>

<style scoped>
.paper {
  padding: 24px 32px;
  max-inline-size: 624px;
  margin-block-end: 24px;
}
ol {
  margin: 0;
  padding-inline-start: 20px;
}
li + li {
  margin-block-start: 16px;
}
h3 {
  font-size: 14px;
}
li.done h3 {
  font-weight: 400;
  color: var(--w-ink2);
}
.mark {
  margin-inline-start: 8px;
  font-size: 12px;
  color: var(--w-ink2);
}
p {
  margin: 0;
}
.links {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  margin-block-start: 4px;
}
</style>
