<script setup lang="ts">
import { computed } from 'vue'
import { t } from '../messages'
import { typeOf, type ApiDocument, type Operation, type Schema } from './apiDocument'
import CodedText from './CodedText.vue'
import SchemaRows from './SchemaRows.vue'

/** One operation of an API: its parameters, answers and refusals. */
const { document, operation } = defineProps<{ document: ApiDocument; operation: Operation }>()

/** Parameters as the parts of a schema, so that they are shown as everything else is. */
const groups = computed(() =>
  (['path', 'query', 'header'] as const)
    .map((place) => ({ place, parameters: operation.parameters.filter((parameter) => parameter.in === place) }))
    .filter(({ parameters }) => parameters.length > 0)
    .map(({ place, parameters }) => ({
      place,
      schema: {
        type: 'object',
        required: parameters.filter(({ required }) => required).map(({ name }) => name),
        properties: Object.fromEntries(
          parameters.map(({ name, schema = {}, description, examples = {} }) => {
            const [example] = Object.values(examples)
            const more = example === undefined ? [] : [t('api.example', { value: String(example.value) })]
            const says = [description ?? schema.description, ...more].filter(Boolean).join(' ')
            return [name, { ...schema, ...(says ? { description: says } : {}) }]
          }),
        ),
      } satisfies Schema,
    })),
)
const printed = (value: unknown): string => JSON.stringify(value, null, 2)
</script>

<template>
  <article>
    <h2><CodedText :text="operation.summary" /></h2>
    <p class="call" dir="ltr">
      <b>{{ operation.method }}</b> <code>{{ operation.path }}</code>
    </p>
    <p v-if="operation.description" class="says"><CodedText :text="operation.description" /></p>
    <section v-for="group in groups" :key="group.place">
      <h3>{{ t(`api.in.${group.place}`) }}</h3>
      <SchemaRows :document="document" :schema="group.schema" />
    </section>
    <section v-if="operation.body">
      <h3>{{ operation.body.isRequired ? t('api.body') : t('api.optionalBody') }}</h3>
      <div v-for="content in operation.body.contents" :key="content.mediaType">
        <p class="media" dir="ltr">
          <code>{{ content.mediaType }}</code> <code>{{ typeOf(content.schema) }}</code>
        </p>
        <SchemaRows :document="document" :schema="content.schema" />
      </div>
    </section>
    <section v-for="answer in operation.answers" :key="answer.status">
      <h3>{{ answer.status === '2XX' ? t('query.answer') : t('api.answer', { status: answer.status }) }}</h3>
      <p class="says"><CodedText :text="answer.says" /></p>
      <div v-for="content in answer.contents" :key="content.mediaType">
        <p class="media" dir="ltr">
          <code>{{ content.mediaType }}</code> <code>{{ typeOf(content.schema) }}</code>
        </p>
        <SchemaRows :document="document" :schema="content.schema" />
        <template v-if="content.example !== undefined">
          <h4>{{ t('api.exampleAnswer') }}</h4>
          <pre class="paper" tabindex="0" dir="ltr">{{ printed(content.example) }}</pre>
        </template>
      </div>
    </section>
    <section v-if="operation.refusals.length > 0">
      <h3>{{ t('api.refusals') }}</h3>
      <dl>
        <div v-for="refusal in operation.refusals" :key="refusal.status">
          <dt>{{ refusal.status }}</dt>
          <dd><CodedText :text="refusal.says" /></dd>
        </div>
      </dl>
    </section>
  </article>
</template>

<style scoped>
article {
  max-inline-size: 860px;
  padding-block-end: 40px;
}
h2 {
  margin: 0 0 8px;
  font: 600 20px/28px var(--w-content);
}
h3 {
  margin: 24px 0 4px;
  font-size: 14px;
}
h4 {
  margin: 16px 0 8px;
  font-size: 13px;
  color: var(--w-ink2);
}
.call {
  margin: 0;
  padding: 8px 12px;
  background: var(--w-sunk);
  border-radius: 4px;
  overflow-wrap: anywhere;
}
.call b {
  margin-inline-end: 8px;
  font-size: 13px;
}
.says {
  margin: 8px 0 0;
}
.media {
  display: flex;
  flex-wrap: wrap;
  gap: 12px;
  margin: 8px 0;
  color: var(--w-ink2);
}
pre {
  margin: 0;
  padding: 12px 16px;
  max-block-size: 480px;
  overflow: auto;
  font: 13px/20px var(--w-code);
}
dl {
  margin: 0;
}
dl div {
  display: grid;
  grid-template-columns: 56px minmax(0, 1fr);
  padding-block: 4px;
  border-block-end: 1px solid var(--w-hair);
}
dd {
  margin: 0;
}
</style>
