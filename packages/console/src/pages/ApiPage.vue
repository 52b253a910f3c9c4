<script setup lang="ts">
import { ElInput, ElRadioButton, ElRadioGroup } from 'element-plus'
import { computed, nextTick, ref, shallowRef, useTemplateRef, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import PageTrouble from '../components/PageTrouble.vue'
import StripBar from '../components/StripBar.vue'
import { t } from '../messages'
import { operationsByTag, type ApiDocument } from '../query/apiDocument'
import CodedText from '../query/CodedText.vue'
import OperationDetails from '../query/OperationDetails.vue'

/** The API reference, made from the OpenAPI documents of the service itself. */
const props = defineProps<{ site: string }>()
const route = useRoute()
const router = useRouter()
const which = computed<'read' | 'edit'>(() => (route.query['api'] === 'edit' ? 'edit' : 'read'))
const address = computed(() =>
  which.value === 'read' ? `/read/v1/${props.site}/openapi.json` : '/edit/v1/openapi.json',
)
const document = shallowRef<ApiDocument>()
const trouble = shallowRef<unknown>()
const words = ref('')
async function load(): Promise<void> {
  trouble.value = document.value = undefined
  const asked = address.value
  try {
    const answer = await fetch(asked)
    if (!answer.ok) throw new Error(t('query.noDocument', { status: answer.status, statusText: answer.statusText }))
    const received = (await answer.json()) as ApiDocument
    if (asked === address.value) document.value = received
  } catch (error) {
    trouble.value = error
  }
}
watch(address, load, { immediate: true })

const groups = computed(() => (document.value ? operationsByTag(document.value) : []))
const operations = computed(() => groups.value.flatMap((group) => group.operations))
/** Operations that have all words in their summary, method or path. */
const matches = computed(() => {
  const wanted = words.value.toLowerCase().split(/\s+/).filter(Boolean)
  return groups.value
    .map((group) => ({
      ...group,
      operations: group.operations.filter(({ id, summary }) =>
        wanted.every((word) => `${id} ${summary} ${group.name}`.toLowerCase().includes(word)),
      ),
    }))
    .filter((group) => group.operations.length > 0)
})
const chosen = computed(() => operations.value.find(({ id }) => id === route.query['operation']) ?? operations.value[0])
const details = useTemplateRef<HTMLElement>('details')
watch(chosen, async () => {
  await nextTick()
  if (details.value) details.value.scrollTop = 0
})
const addressOf = (operation: string) => ({ query: { api: which.value, operation } })
</script>

<template>
  <main class="work" data-region="work">
    <nav class="operations" :aria-label="t('api.operations')">
      <h1 class="page-name">{{ t('query.apiReference') }}</h1>
      <ElRadioGroup
        :model-value="which"
        size="small"
        :aria-label="t('query.api')"
        @update:model-value="(api) => router.push({ query: { api: String(api) } })"
      >
        <ElRadioButton value="read">{{ t('query.reading') }}</ElRadioButton>
        <ElRadioButton value="edit">{{ t('query.editing') }}</ElRadioButton>
      </ElRadioGroup>
      <ElInput v-model="words" clearable :placeholder="t('api.find')" :aria-label="t('api.find')" />
      <section v-for="group in matches" :key="group.name">
        <h2>{{ group.name }}</h2>
        <ul>
          <li v-for="operation in group.operations" :key="operation.id">
            <RouterLink
              :to="addressOf(operation.id)"
              :class="{ here: operation === chosen }"
              :aria-current="operation === chosen ? 'page' : undefined"
              ><b>{{ operation.method }}</b> <CodedText :text="operation.summary"
            /></RouterLink>
          </li>
        </ul>
      </section>
      <p v-if="document && matches.length === 0" class="quiet">{{ t('api.noOperation') }}</p>
    </nav>
    <div ref="details" class="details">
      <PageTrouble v-if="trouble" :error="trouble" @again="load" />
      <OperationDetails v-else-if="document && chosen" :key="chosen.id" :document="document" :operation="chosen" />
    </div>
  </main>
  <StripBar>
    <template #start
      ><span v-if="document">{{ t('api.operationCount', { n: operations.length }) }}</span></template
    >
    <template #middle>
      <RouterLink :to="{ name: 'query', params: { site } }">{{ t('query.tryIt') }}</RouterLink>
      <a :href="address" target="_blank" rel="noreferrer">{{ t('query.openApi') }}</a>
    </template>
  </StripBar>
</template>

<style scoped>
.work {
  display: grid;
  grid-template-columns: 320px minmax(0, 1fr);
  overflow: hidden;
}
.operations,
.details {
  overflow: auto;
  padding: 16px 24px;
}
.operations {
  display: flex;
  flex-direction: column;
  gap: 12px;
  border-inline-end: 1px solid var(--w-hair);
}
.operations h1 {
  margin: 0;
}
h2 {
  margin: 4px 0;
  font-size: 13px;
  color: var(--w-ink2);
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
li a {
  display: grid;
  grid-template-columns: 52px minmax(0, 1fr);
  padding: 4px 8px;
  border-inline-start: 2px solid var(--w-hair);
  font-size: 13px;
  line-height: 18px;
  color: var(--w-ink);
  text-decoration: none;
}
li a:hover {
  background: var(--w-accent-wash);
}
li a.here {
  border-color: var(--w-accent);
  background: var(--w-accent-wash);
  color: var(--w-accent);
}
li b {
  font: 600 11px/18px var(--w-code);
  color: var(--w-ink3);
}
@media (max-width: 900px) {
  .work {
    grid-template-columns: minmax(0, 1fr);
    grid-auto-rows: max-content;
    overflow: auto;
  }
  .operations {
    max-block-size: 320px;
    border-inline-end: 0;
    border-block-end: 1px solid var(--w-hair);
  }
  .details {
    overflow: visible;
  }
}
</style>
