<script setup lang="ts">
import { useClipboard } from '@vueuse/core'
import {
  completeCondition,
  completeSelection,
  decide,
  readCondition,
  readSelection,
  typeNamed,
  type ContentType,
  type WisteriaError,
} from '@wisteria/core'
import { ElButton, ElInput, ElOption, ElRadioButton, ElRadioGroup, ElSelect } from 'element-plus'
import { buildClientSchema, getIntrospectionQuery, type GraphQLSchema } from 'graphql'
import { graphql } from 'cm6-graphql'
import { computed, onMounted, ref, shallowRef } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import PageTrouble from '../components/PageTrouble.vue'
import StripBar from '../components/StripBar.vue'
import CodeField from '../query/CodeField.vue'
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

/** Questions to the Read API, put together and tried. */
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
const type = computed<ContentType | undefined>(() => opened.value && typeNamed(opened.value.model, rest.value.type))
const owners = computed(() =>
  rest.value.ask === 'at' ? (opened.value?.model.types ?? []) : type.value ? [type.value] : [],
)
const examples = computed<Example[]>(() => (opened.value ? examplesFor(opened.value.model, somePath.value) : []))
const facts = computed(() =>
  rest.value.edition === 'draft'
    ? (['updated', 'published', 'state', 'type'] as const)
    : (['updated', 'published', 'type'] as const),
)
const isReady = computed(() =>
  api.value === 'graphql'
    ? asked.value.query.trim() !== ''
    : rest.value.ask === 'at'
      ? rest.value.path !== ''
      : type.value !== undefined,
)
const mayReadDrafts = computed(
  () => key.value !== '' || (opened.value ? decide(opened.value.caller, 'draft.read').allowed : false),
)

const change = (more: Partial<RestQuestion>): void => {
  rest.value = { ...rest.value, ...more }
}

/** What a check refuses, and from where on. */
function mistakeIn(text: string, check: () => void): { message: string; from: number } | undefined {
  if (text.trim() === '') return undefined
  try {
    check()
    return undefined
  } catch (error) {
    const { line = 1, column = 1 } = (error as WisteriaError).problems[0] ?? {}
    const from =
      text
        .split('\n')
        .slice(0, line - 1)
        .join('\n').length +
      (line > 1 ? 1 : 0) +
      column -
      1
    return { message: (error as WisteriaError).message, from }
  }
}
const wrongCondition = (text: string) =>
  mistakeIn(text, () =>
    readCondition(text, {
      model: opened.value!.model,
      owners: owners.value,
      systemFacts: facts.value,
      timeZone: opened.value!.settings.timeZone,
    }),
  )
const wrongSelection = (text: string) =>
  mistakeIn(text, () => void readSelection(text, opened.value!.model, owners.value))
const inCondition = (text: string, at: number) =>
  completeCondition(text, at, opened.value!.model, owners.value, facts.value)
const inSelection = (text: string, at: number) => completeSelection(text, at, opened.value!.model, owners.value)
const language = computed(() => (schema.value ? graphql(schema.value) : []))

async function load(): Promise<void> {
  trouble.value = undefined
  try {
    opened.value = await openSite(props.site)
    const [first] = opened.value.model.types.filter((type) => type.cardinality === 'many')
    change({ type: first?.name ?? '' })
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
      <form v-if="api === 'rest'" @submit.prevent="ask">
        <div class="row">
          <ElSelect
            :model-value="rest.ask"
            :aria-label="t('query.whatIsAskedFor')"
            @update:model-value="change({ ask: $event })"
          >
            <ElOption value="list" :label="t('query.entriesOf')" />
            <ElOption value="at" :label="t('query.atPath')" />
          </ElSelect>
          <ElInput
            v-if="rest.ask === 'at'"
            :model-value="rest.path"
            :aria-label="t('query.path')"
            placeholder="/activities/night-walk"
            @update:model-value="change({ path: $event })"
          />
          <ElSelect
            v-else
            :model-value="rest.type"
            :aria-label="t('query.type')"
            @update:model-value="change({ type: $event })"
          >
            <ElOption v-for="item in opened.model.types" :key="item.name" :value="item.name" :label="item.label" />
          </ElSelect>
        </div>
        <template v-if="rest.ask === 'list'">
          <label class="field"
            ><span><code>where</code> {{ t('query.aCondition') }}</span
            ><CodeField
              :key="`where ${rest.type}`"
              label="where"
              :model-value="rest.where"
              placeholder='format = "walk" and starts &gt;= now'
              :complete="inCondition"
              :mistake="wrongCondition"
              @update:model-value="change({ where: $event })"
              @run="ask"
          /></label>
          <div class="row">
            <label class="field"
              ><span><code>search</code> {{ t('query.words') }}</span
              ><ElInput :model-value="rest.search" aria-label="search" @update:model-value="change({ search: $event })"
            /></label>
            <label class="field"
              ><span><code>sort</code></span
              ><ElInput
                :model-value="rest.sort"
                aria-label="sort"
                placeholder="-entry.updated"
                @update:model-value="change({ sort: $event })"
            /></label>
          </div>
        </template>
        <label class="field"
          ><span><code>pick</code> {{ t('query.whatOfEach') }}</span
          ><CodeField
            :key="`pick ${rest.ask} ${rest.type}`"
            label="pick"
            :model-value="rest.pick"
            placeholder="title, museum(name)"
            :complete="inSelection"
            :mistake="wrongSelection"
            @update:model-value="change({ pick: $event })"
            @run="ask"
        /></label>
        <div class="row">
          <label v-if="rest.ask === 'list'" class="field"
            ><span><code>first</code></span
            ><ElInput
              :model-value="rest.first"
              aria-label="first"
              inputmode="numeric"
              placeholder="20"
              @update:model-value="change({ first: $event })"
          /></label>
          <label v-if="rest.ask === 'list'" class="field"
            ><span><code>locale</code></span
            ><ElSelect
              :model-value="rest.locale"
              aria-label="locale"
              clearable
              :placeholder="opened.settings.defaultLocale"
              @update:model-value="change({ locale: $event ?? '' })"
            >
              <ElOption
                v-for="locale in opened.settings.locales"
                :key="locale.tag"
                :value="locale.tag"
                :label="locale.tag" />
              <ElOption value="auto" label="auto" /></ElSelect
          ></label>
          <label class="field"
            ><span><code>edition</code></span
            ><ElSelect
              :model-value="rest.edition"
              aria-label="edition"
              @update:model-value="change({ edition: $event })"
            >
              <ElOption value="published" label="published" />
              <ElOption value="draft" label="draft" :disabled="!mayReadDrafts" /></ElSelect
          ></label>
        </div>
      </form>
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
      <div class="row end">
        <label class="field key"
          ><span>{{ t('query.asWhom') }}</span
          ><ElInput
            v-model="key"
            type="password"
            autocomplete="off"
            :aria-label="t('query.asWhom')"
            :placeholder="t('query.tokenPlaceholder')"
        /></label>
        <ElButton type="primary" :disabled="!isReady" :loading="isRunning" @click="ask">{{ t('query.ask') }}</ElButton>
      </div>
      <p class="quiet small">{{ t('query.askKey') }}</p>
    </section>
    <section class="answer" :aria-label="t('query.answer')" aria-live="polite">
      <PageTrouble v-if="trouble" :error="trouble" @again="load()" />
      <template v-else-if="told">
        <p class="facts">
          <strong :class="{ 'error-text': !told.isGood }">{{ told.status }}</strong>
          <span :title="told.served === undefined ? '' : t('query.ofItService', { time: milliseconds(told.served) })">{{
            milliseconds(told.took)
          }}</span>
          <span>{{ t('query.bytes', { count: told.bytes.toLocaleString(t('times.language')) }) }}</span>
          <span>{{ told.cache }}</span>
          <span v-if="told.cost !== null">{{ t('query.cost', { cost: told.cost }) }}</span>
        </p>
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
  <StripBar />
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
form,
.graphql {
  display: flex;
  flex-direction: column;
  gap: 12px;
}
.row {
  display: grid;
  grid-auto-flow: column;
  grid-auto-columns: 1fr;
  gap: 12px;
}
.row.end {
  grid-template-columns: 1fr auto;
  grid-auto-columns: auto;
  align-items: end;
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
</style>
