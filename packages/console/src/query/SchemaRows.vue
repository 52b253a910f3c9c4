<script setup lang="ts">
import { ArrowRight } from '@element-plus/icons-vue'
import { ElIcon } from 'element-plus'
import { computed, reactive } from 'vue'
import { t } from '../messages'
import { limitsOf, partsOf, resolved, typeOf, type ApiDocument, type Part, type Schema } from './apiDocument'
import CodedText from './CodedText.vue'

/** The members of a schema, a row each; nested ones open in their place, at any depth. */
const { document, schema } = defineProps<{ document: ApiDocument; schema: Schema }>()
const parts = computed(() => partsOf(document, schema))
const open = reactive(new Set<string>())
const hasMore = (part: Part): boolean => partsOf(document, part.schema).length > 0
const toggle = (name: string): unknown => (open.has(name) ? open.delete(name) : open.add(name))

function limitWords(part: Part): string {
  const all = limitsOf(resolved(document, part.schema)).map(({ unit, min, max }) => {
    const range =
      min === undefined
        ? t('api.atMost', { max: max! })
        : max === undefined || max >= 2 ** 53 - 1
          ? t('api.atLeast', { min })
          : t('api.range', { min, max })
    return unit === 'number' ? range : t(`api.${unit}`, { range })
  })
  const { default: usual } = part.schema
  return [...all, ...(usual === undefined ? [] : [t('api.usual', { value: JSON.stringify(usual) })])].join(', ')
}
</script>

<template>
  <ul class="parts">
    <li v-for="part in parts" :key="part.name">
      <div class="part">
        <button
          v-if="hasMore(part)"
          class="plain more"
          type="button"
          :aria-expanded="open.has(part.name)"
          @click="toggle(part.name)"
        >
          <ElIcon class="sign" :class="{ open: open.has(part.name) }" aria-hidden="true"><ArrowRight /></ElIcon>
          <code dir="ltr">{{ part.name }}</code>
        </button>
        <code v-else class="leaf" dir="ltr">{{ part.name }}</code>
        <span class="says">
          <code class="type" dir="ltr">{{ typeOf(part.schema) }}</code>
          <small v-if="part.isRequired">{{ t('api.required') }}</small>
          <small v-if="limitWords(part)">{{ limitWords(part) }}</small>
          <CodedText
            v-if="part.schema.description ?? resolved(document, part.schema).description"
            class="description"
            :text="part.schema.description ?? resolved(document, part.schema).description!"
          />
        </span>
      </div>
      <SchemaRows v-if="open.has(part.name)" :document="document" :schema="part.schema" />
    </li>
  </ul>
</template>

<style scoped>
.parts {
  list-style: none;
  margin: 0;
  padding: 0;
}
.parts .parts {
  margin-inline-start: 8px;
  padding-inline-start: 16px;
  border-inline-start: 1px solid var(--w-rule);
}
.part {
  display: grid;
  grid-template-columns: minmax(140px, 220px) minmax(0, 1fr);
  gap: 4px 16px;
  padding-block: 6px;
  border-block-end: 1px solid var(--w-hair);
}
.leaf {
  padding-inline-start: 20px;
}
.more {
  display: flex;
  align-items: center;
  gap: 6px;
  text-align: start;
}
.more code {
  color: var(--w-accent);
}
code {
  font-size: 13px;
  overflow-wrap: anywhere;
}
.sign {
  inline-size: 14px;
  color: var(--w-ink3);
}
[dir='rtl'] .sign {
  transform: scaleX(-1);
}
.sign.open,
[dir='rtl'] .sign.open {
  transform: rotate(90deg);
}
.says {
  display: flex;
  flex-wrap: wrap;
  gap: 0 12px;
  align-items: baseline;
}
.type {
  color: var(--w-ink2);
}
small {
  font-size: 12px;
  color: var(--w-ink3);
}
.description {
  flex-basis: 100%;
  font-size: 13px;
}
@media (max-width: 700px) {
  .part {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
