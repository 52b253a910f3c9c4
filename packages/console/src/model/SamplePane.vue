<script setup lang="ts">
import {
  chainOf,
  isLocalized,
  localeTags,
  project,
  readValues,
  sampleValues,
  resolveReferences,
  typeNamed,
  type ContentType,
  type FieldOwner,
  type Model,
} from '@wisteria/core'
import { computed, reactive, ref } from 'vue'
import FieldSet from '../editor/FieldSet.vue'
import { createWorkingCopy, provideWorkingCopy } from '../editor/workingCopy'
import { random } from '../controls/reordering'
import type { Site } from '../session'
import { t } from '../messages'
import MessageText from '../components/MessageText.vue'

/** The form for editors, above, and the JSON for readers, below: of the same made-up entry, live. */
const { site, model, owner, lit } = defineProps<{
  site: Site
  model: Model
  owner: FieldOwner
  lit: string | undefined
}>()
const emit = defineEmits<{ light: [name: string | undefined] }>()

/** A block is shown as the only value of a made-up entry. */
const asType = (owner: FieldOwner): ContentType =>
  'cardinality' in owner
    ? (owner as ContentType)
    : {
        ...owner,
        cardinality: 'many',
        namedBy: '',
        graphql: { type: t('model.sample'), one: 'sample', many: 'samples' },
      }
const sampled = { ...site, model }
const copy = createWorkingCopy(sampled, asType(owner), undefined)
Object.assign(copy.values, reactive(sampleValues(model, owner, site.settings)))
provideWorkingCopy({ ...copy, mayWrite: () => true })

const locale = ref(site.settings.defaultLocale)
const readers = computed<Record<string, unknown>>(() => {
  const type = asType(owner)
  const { document } = readValues(
    model,
    type,
    JSON.parse(JSON.stringify(copy.values)),
    localeTags(site.settings),
    random,
  )
  const { values } = project(model, type, document, chainOf(site.settings, locale.value))
  return resolveReferences(model, type, values, {
    typeOf: () => undefined,
    asset: (id) => ({ id, name: 'picture.webp', address: '…', mediaType: 'image/webp', alt: null }),
    listed: () => [],
    richText: 'document',
    links: { entry: () => undefined, asset: () => undefined },
  })
})
const lines = computed(() =>
  Object.entries(readers.value).map(([name, value]) => ({ name, text: JSON.stringify(value, null, 2) })),
)
const localized = computed(() => isLocalized(model, owner))
const address = computed(() => {
  const type = 'cardinality' in owner ? typeNamed(model, owner.name) : undefined
  return type ? `GET /read/v1/${site.name}/entries/${type.name}${type.cardinality === 'one' ? '' : '/{id}'}` : ''
})
const copyText = (): void =>
  void navigator.clipboard?.writeText(JSON.stringify(readers.value, null, 2)).catch(() => undefined)
</script>

<template>
  <div class="sample">
    <section
      class="form paper"
      :aria-label="t('model.whatEditorsGet')"
      @mouseover="
        emit('light', ($event.target as HTMLElement).closest<HTMLElement>('[id^=field-values-]')?.id.split('-')[2])
      "
    >
      <p class="kind">
        <MessageText v-if="localized" of="model.whatEditorsGetIn"
          ><template #locale
            ><select v-model="locale" :aria-label="t('model.localeOfSample')">
              <option v-for="item in site.settings.locales" :key="item.tag" :value="item.tag">{{ item.tag }}</option>
            </select></template
          ></MessageText
        ><template v-else>{{ t('model.whatEditorsGet') }}</template>
      </p>
      <FieldSet :owner="owner" :container="copy.values" :locale="locale" pointer="/values" />
    </section>
    <section class="json" :aria-label="t('model.whatReadersGet')">
      <p class="kind">
        {{ t('model.whatReadersGet') }} <code v-if="address">{{ address }}</code>
        <button class="plain link" type="button" @click="copyText">{{ t('common.copy') }}</button>
      </p>
      <pre dir="ltr"><span>{</span>
<span v-for="(line, index) in lines" :key="line.name" class="entry" :class="{ lit: lit === line.name }" @mouseenter="emit('light', line.name)" @mouseleave="emit('light', undefined)">  "{{ line.name }}": {{ line.text.replaceAll('\n', '\n  ') }}{{ index < lines.length - 1 ? ',' : '' }}
</span><span>}</span></pre>
    </section>
  </div>
</template>

<style scoped>
select {
  background: var(--w-paper);
  color: var(--w-ink);
}
.sample {
  display: grid;
  grid-template-rows: minmax(0, 1fr) minmax(0, 1fr);
  gap: 16px;
  block-size: 100%;
}
.form,
.json {
  overflow: auto;
  padding: 12px 24px;
}
.json {
  background: var(--w-sunk);
}
.kind {
  margin: 0 0 12px;
  font-size: 12px;
  color: var(--w-ink2);
}
pre {
  margin: 0;
  font: 12px/18px var(--w-code);
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}
.entry.lit {
  background: var(--w-accent-wash);
}
.link {
  color: var(--w-accent);
  text-decoration: underline;
}
.form :deep(.margin) {
  position: static;
  inline-size: auto;
}
</style>
