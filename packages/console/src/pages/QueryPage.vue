<script setup lang="ts">
import { useClipboard } from '@vueuse/core'
import { decide, typeNamed } from '@wisteria/core'
import { ElButton, ElInput, ElRadioButton, ElRadioGroup } from 'element-plus'
import { buildClientSchema, getIntrospectionQuery, type GraphQLSchema } from 'graphql'
import { graphql } from 'cm6-graphql'
import { computed, onMounted, ref, shallowRef } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import PageTrouble from '../components/PageTrouble.vue'
import StripBar from '../components/StripBar.vue'
import CodeField from '../query/CodeField.vue'
import RestForm from '../query/RestForm.vue'
import { examplesFor, type Example } from '../query/examples'
import {
  addressOf,
  codeOf,
  curlOf,
  emptyGraphql,
  emptyRest,
  packed,
  unpacked,
  type GraphqlQuestion,
  type RestQuestion,
} from '../query/question'
import { run, type Told } from '../query/running'
import { openSite, type Site } from '../session'
import { t } from '../messages'

/** Builds and runs queries to the Read API. */
const props = defineProps<{ site: string }>()
const route = useRoute()
const router = useRouter()
const opened = shallowRef<Site>()
const trouble = ref<unknown>()
const api = ref<'rest' | 'graphql'>('rest')
const rest = ref<RestQuestion>(emptyRest)
const asked = ref<GraphqlQuestion>(emptyGraphql)
const key = ref('')
const told = shallowRef<Told>()
const isRunning = ref(false)
const shown = ref<'answer' | 'curl' | 'code' | 'link'>('answer')
const schema = shallowRef<GraphQLSchema>()
const somePath = ref<string>()

const base = computed(() => `${location.origin}/read/v1/${props.site}`)
const question = computed(() => (api.value === 'rest' ? rest.value : asked.value))
const examples = computed<Example[]>(() => (opened.value ? examplesFor(opened.value.model, somePath.value) : []))
const isReady = computed(() =>
  api.value === 'graphql'
    ? asked.value.query.trim() !== ''
    : rest.value.ask === 'at'
      ? rest.value.path !== ''
      : opened.value !== undefined && typeNamed(opened.value.model, rest.value.type) !== undefined,
)
const mayReadDrafts = computed(
  () => key.value !== '' || (opened.value ? decide(opened.value.caller, 'draft.read').allowed : false),
)

const language = computed(() => (schema.value ? graphql(schema.value) : []))

async function load(): Promise<void> {
  trouble.value = undefined
  try {
    opened.value = await openSite(props.site)
    const [first] = opened.value.model.types.filter((type) => type.cardinality === 'many')
    rest.value = { ...rest.value, type: first?.name ?? '' }
    const paths = await fetch(`${base.value}/paths?first=2`)
    if (paths.ok) somePath.value = ((await paths.json()) as { paths: { path: string }[] }).paths.at(-1)?.path
    const kept = unpacked(route.query['question'])
    if (kept) take(kept)
    else if (examples.value[0]) take(examples.value[0].question)
    await ask()
    await loadSchema()
  } catch (error) {
    trouble.value = error
  }
}
onMounted(load)

async function loadSchema(): Promise<void> {
  const answer = await fetch(`${base.value}/graphql`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify({ query: getIntrospectionQuery() }),
  })
  const { data } = (await answer.json()) as { data?: Parameters<typeof buildClientSchema>[0] }
  if (data) schema.value = buildClientSchema(data)
}

function take(next: RestQuestion | GraphqlQuestion): void {
  api.value = next.api
  if (next.api === 'rest') rest.value = { ...next, type: next.type || rest.value.type }
  else asked.value = next
}

async function ask(): Promise<void> {
  if (!isReady.value || isRunning.value) return
  isRunning.value = true
  shown.value = 'answer'
  try {
    told.value = await run(question.value, base.value, key.value.trim())
    trouble.value = undefined
    await router.replace({ query: { question: packed(question.value) } })
  } catch (error) {
    trouble.value = error
  } finally {
    isRunning.value = false
  }
}

async function tryOut(example: Example): Promise<void> {
  take(example.question)
  await ask()
}

const shownText = computed(() => {
  switch (shown.value) {
    case 'curl':
      return curlOf(question.value, base.value)
    case 'code':
      return codeOf(question.value, location.origin, props.site)
    case 'link':
      return base.value + addressOf(question.value)
    default:
      return told.value?.text ?? ''
  }
})
const { copied: isCopied, copy } = useClipboard({ source: shownText })
const milliseconds = (value: number): string =>
  t('query.milliseconds', { count: value < 10 ? value.toFixed(1) : Math.round(value) })
</script>

<template>
  <main class="work" data-region="work">
    <aside :aria-label="t('query.examples')">
      <h1 class="page-name">{{ t('query.query') }}</h1>
      <p class="quiet">
        {{ t('query.explained') }}
        <RouterLink :to="{ name: 'api', params: { site } }">{{ t('query.apiReference') }}</RouterLink>
      </p>
      <h2 class="small">{{ t('query.toBeginWith') }}</h2>
      <ul>
        <li v-for="example in examples" :key="example.says">
          <button class="plain" @click="tryOut(example)">{{ example.says }}</button>
        </li>
      </ul>
    </aside>
    <section v-if="opened" class="question" :aria-label="t('query.question')">
      <ElRadioGroup v-model="api" size="small" :aria-label="t('query.api')">
        <ElRadioButton value="rest">REST</ElRadioButton>
        <ElRadioButton value="graphql">GraphQL</ElRadioButton>
      </ElRadioGroup>
      <RestForm v-if="api === 'rest'" v-model="rest" :site="opened" :may-read-drafts="mayReadDrafts" @run="ask" />
      <div v-else class="graphql">
        <CodeField
          :label="t('query.graphqlQuery')"
          :model-value="asked.query"
          tall
          :more="language"
          @update:model-value="asked = { ...asked, query: $event }"
          @run="ask"
        />
        <label class="field"
          ><span>{{ t('query.variablesAsJson') }}</span
          ><CodeField
            :label="t('query.variables')"
            :model-value="asked.variables"
            placeholder='{ "first": 5 }'
            @update:model-value="asked = { ...asked, variables: $event }"
            @run="ask"
        /></label>
      </div>
      <label class="field key"
        ><span>{{ t('query.asWhom') }}</span
        ><ElInput
          v-model="key"
          type="password"
          autocomplete="off"
          :aria-label="t('query.asWhom')"
          :placeholder="t('query.tokenPlaceholder')"
      /></label>
    </section>
    <section class="answer" :aria-label="t('query.answer')" aria-live="polite">
      <PageTrouble v-if="trouble" :error="trouble" @again="load()" />
      <template v-else-if="told">
        <div class="shows">
          <ElRadioGroup v-model="shown" size="small" :aria-label="t('query.show')">
            <ElRadioButton value="answer">{{ t('query.answer') }}</ElRadioButton>
            <ElRadioButton value="curl">curl</ElRadioButton>
            <ElRadioButton value="code">SDK</ElRadioButton>
            <ElRadioButton value="link">{{ t('query.link') }}</ElRadioButton>
          </ElRadioGroup>
          <ElButton size="small" @click="copy()">{{ isCopied ? t('query.copied') : t('common.copy') }}</ElButton>
        </div>
        <pre tabindex="0" class="paper" dir="ltr">{{ shownText }}</pre>
        <p v-if="told.groups && shown === 'answer'" class="quiet small">
          {{ t('query.dependsOn', { groups: told.groups }) }}
        </p>
      </template>
    </section>
  </main>
  <StripBar>
    <template #start
      ><strong v-if="told" :class="{ 'error-text': !told.isGood }">{{ told.status }}</strong></template
    >
    <template #middle>
      <p v-if="told" class="facts">
        <span :title="told.served === undefined ? '' : t('query.ofItService', { time: milliseconds(told.served) })">{{
          milliseconds(told.took)
        }}</span>
        <span>{{ t('query.bytes', { count: told.bytes.toLocaleString(t('times.language')) }) }}</span>
        <span>{{ told.cache }}</span>
        <span v-if="told.cost !== null">{{ t('query.cost', { cost: told.cost }) }}</span>
      </p>
    </template>
    <template #end>
      <span class="quiet small">{{ t('query.askKey') }}</span>
      <ElButton type="primary" :disabled="!isReady" :loading="isRunning" @click="ask">{{ t('query.ask') }}</ElButton>
    </template>
  </StripBar>
</template>

<style scoped>
.work {
  display: grid;
  grid-template-columns: 216px minmax(320px, 440px) minmax(360px, 1fr);
  gap: 24px;
  padding: 16px 24px 0;
  overflow: hidden;
}
.work > * {
  overflow: auto;
  padding-block-end: 16px;
}
aside ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
aside li button {
  inline-size: 100%;
  padding-block: 6px;
  text-align: start;
  color: var(--w-accent);
}
h2.small {
  margin-block: 16px 4px;
  font-size: 12px;
  font-weight: 600;
  color: var(--w-ink2);
}
.question,
.graphql {
  display: flex;
  flex-direction: column;
  gap: 12px;
}
.field {
  display: flex;
  flex-direction: column;
  gap: 4px;
  font-size: 12px;
  color: var(--w-ink2);
}
.small {
  margin: 0;
  font-size: 12px;
}
.answer {
  display: flex;
  flex-direction: column;
  gap: 8px;
}
.facts {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 16px;
  margin: 0;
  color: var(--w-ink2);
}
.shows {
  display: flex;
  justify-content: space-between;
}
pre {
  flex: 1;
  margin: 0;
  padding: 12px 16px;
  overflow: auto;
  font: 13px/20px var(--w-code);
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}
@media (max-width: 980px) {
  .work {
    grid-template-columns: minmax(0, 1fr);
    gap: 12px;
    align-content: start;
    padding-inline: 16px;
    overflow: auto;
  }
  .work > * {
    overflow: visible;
    padding-block-end: 0;
  }
  aside ul {
    display: flex;
    flex-wrap: wrap;
    gap: 0 16px;
  }
  pre {
    flex: none;
    max-block-size: 60vh;
  }
}
</style>
