<script setup lang="ts">
import { blockTypeNamed, decide, localeTags, typeNamed } from '@wisteria/core'
import { computed, nextTick, onMounted, ref, shallowRef, useTemplateRef, watch } from 'vue'
import { useRouter } from 'vue-router'
import PageTrouble from '../components/PageTrouble.vue'
import StripBar from '../components/StripBar.vue'
import FieldList from '../model/FieldList.vue'
import FieldOptions from '../model/FieldOptions.vue'
import ModelStrip from '../model/ModelStrip.vue'
import { nameOf, openDraft, type FieldPath, type ModelDraft } from '../model/modelDraft'
import OwnerOptions from '../model/OwnerOptions.vue'
import SamplePane from '../model/SamplePane.vue'
import { openSite, type Site } from '../session'
import { t } from '../messages'

/** One type or block type: its fields, the options of the chosen one, and the samples, side by side. */
const props = defineProps<{ site: string; kind: 'type' | 'block'; type: string }>()
const router = useRouter()
const opened = shallowRef<Site>()
const draft = shallowRef<ModelDraft>()
const trouble = shallowRef<unknown>()
const chosen = ref<FieldPath>()
const lit = ref<string>()

async function load(): Promise<void> {
  trouble.value = undefined
  try {
    const site = await openSite(props.site)
    draft.value = await openDraft(site)
    opened.value = site
    if (!draft.value.find(props.kind, props.type))
      trouble.value = new Error(
        t(props.kind === 'type' ? 'model.notAType' : 'model.notABlockType', {
          name: props.type,
          site: site.settings.label,
        }),
      )
  } catch (error) {
    trouble.value = error
  }
}
onMounted(load)
watch(
  () => [props.kind, props.type],
  () => ((chosen.value = undefined), void load()),
)

const file = computed(() => draft.value?.find(props.kind, props.type))
const mayChange = computed(() => opened.value !== undefined && decide(opened.value.caller, 'model.change').allowed)
const owner = computed(() => {
  const model = draft.value?.model.value
  return model && (props.kind === 'type' ? typeNamed(model, props.type) : blockTypeNamed(model, props.type))
})
/** The form is made again when the fields change, and not for every letter of a label. */
const shapeKey = computed(() => JSON.stringify(owner.value))
const isThere = computed(
  () =>
    chosen.value !== undefined &&
    file.value !== undefined &&
    draft.value?.fieldAt(file.value.source, chosen.value) !== undefined,
)
/** Where the options do not stand beside the fields, they may be out of sight. */
const options = useTemplateRef<HTMLElement>('options')
function choose(path: FieldPath | undefined): void {
  chosen.value = path
  void nextTick(() => options.value?.scrollIntoView({ block: 'nearest' }))
}
const back = () => router.push({ name: 'model', params: { site: props.site } })
</script>

<template>
  <main class="work" data-region="work">
    <PageTrouble v-if="trouble" :error="trouble" @again="load" />
    <template v-else-if="draft && file && opened">
      <section class="column list">
        <header>
          <RouterLink :to="{ name: 'model', params: { site: props.site } }">{{ t('shell.model') }}</RouterLink>
          <h1 class="serif">
            <button
              class="plain"
              type="button"
              :aria-pressed="!isThere"
              :title="t('model.optionsOfType')"
              @click="choose(undefined)"
            >
              {{ file.source.icon }} {{ file.source.label ?? nameOf(file.source) }}
            </button>
          </h1>
          <code>{{ nameOf(file.source) }}</code>
        </header>
        <FieldList
          :draft="draft"
          :held="file"
          :chosen="chosen"
          :lit="lit"
          :disabled="!mayChange"
          @choose="choose"
          @light="lit = $event"
        />
      </section>
      <section :key="chosen?.join('.') ?? ''" ref="options" class="column options" :aria-label="t('model.options')">
        <FieldOptions
          v-if="isThere"
          :key="chosen!.join('.')"
          :draft="draft"
          :held="file"
          :path="chosen!"
          :locales="localeTags(opened.settings)"
          :default-locale="opened.settings.defaultLocale"
          :disabled="!mayChange"
          @renamed="chosen = $event"
        />
        <OwnerOptions v-else :draft="draft" :held="file" :disabled="!mayChange" @removed="back" />
      </section>
      <SamplePane
        v-if="owner"
        :key="shapeKey"
        :site="opened"
        :model="draft.model.value"
        :owner="owner"
        :lit="lit"
        @light="lit = $event"
      />
      <p v-else class="quiet column">{{ t('model.formAfterMistakes') }}</p>
    </template>
  </main>
  <ModelStrip v-if="draft && opened" :draft="draft" :site="opened" @adopted="load" />
  <StripBar v-else />
</template>

<style scoped>
.work {
  display: grid;
  grid-template-columns: minmax(300px, 392px) minmax(280px, 352px) minmax(360px, 1fr);
  gap: 16px;
  padding-inline: 24px;
  overflow: hidden;
}
.column {
  overflow: auto;
  padding-block: 16px;
}
.options {
  padding-inline: 8px;
}
header {
  display: flex;
  align-items: baseline;
  gap: 12px;
  margin-block-end: 12px;
}
h1 {
  font-size: 20px;
  line-height: 28px;
}
h2 button {
  font: inherit;
}
.work > :deep(.sample) {
  padding-block: 16px;
}
@media (max-width: 980px) {
  .work {
    grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
    align-content: start;
    overflow: auto;
  }
  .column {
    overflow: visible;
  }
  .work > :deep(.sample) {
    grid-column: 1 / -1;
    grid-template-rows: none;
    block-size: auto;
  }
}
@media (max-width: 600px) {
  .work {
    grid-template-columns: minmax(0, 1fr);
    padding-inline: 16px;
  }
}
</style>
