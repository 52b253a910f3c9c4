<script setup lang="ts">
import { decide, translatedLocales, type GlossaryTerm } from '@wisteria/core'
import { Delete } from '@element-plus/icons-vue'
import { ElButton, ElInput, ElOption, ElSelect } from 'element-plus'
import { computed, nextTick, ref, shallowRef, useTemplateRef } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import PageTrouble from '../components/PageTrouble.vue'
import StripBar from '../components/StripBar.vue'
import { openSite, type Site } from '../session'
import { useShortcuts } from '../shortcuts'
import { messageOf, t } from '../messages'

/** The terms of a site, with their translations into one locale at a time. */
const props = defineProps<{ site: string }>()
const route = useRoute()
const router = useRouter()
const opened = shallowRef<Site>()
const terms = ref<GlossaryTerm[]>([])
const saved = ref('[]')
const version = ref(0)
const wanted = ref('')
const trouble = shallowRef<unknown>()
const refused = ref('')
const result = ref('')
const isSaving = ref(false)

async function load(): Promise<void> {
  trouble.value = undefined
  try {
    opened.value = await openSite(props.site)
    const glossary = await opened.value.editor.translations.glossary()
    terms.value = [...glossary.terms]
    saved.value = JSON.stringify(terms.value)
    version.value = glossary.version
  } catch (error) {
    trouble.value = error
  }
}
void load()

const targets = computed(() => (opened.value ? translatedLocales(opened.value.settings) : []))
const locale = computed(() => {
  const asked = route.query['locale']
  return targets.value.find(({ tag }) => tag === asked)?.tag ?? targets.value[0]?.tag ?? ''
})
const mayWrite = computed(() => opened.value !== undefined && decide(opened.value.caller, 'entry.write').allowed)
const isChanged = computed(() => JSON.stringify(terms.value) !== saved.value)
const shown = computed(() =>
  terms.value
    .map((term, index) => ({ term, index }))
    .filter(({ term }) => term.term.toLowerCase().includes(wanted.value.trim().toLowerCase())),
)

function change(index: number, next: Partial<GlossaryTerm>): void {
  result.value = ''
  terms.value = terms.value.map((term, at) => (at === index ? { ...term, ...next } : term))
}
function translate(index: number, next: { use?: string; avoid?: string }): void {
  const { translations } = terms.value[index]!
  const now = translations[locale.value] ?? {}
  const use = next.use ?? now.use ?? ''
  const avoid = next.avoid === undefined ? (now.avoid ?? []) : next.avoid.split(',').map((word) => word.trimStart())
  const written = { ...(use === '' ? {} : { use }), ...(avoid.join('') === '' ? {} : { avoid }) }
  const { [locale.value]: _, ...rest } = translations
  change(index, {
    translations: Object.keys(written).length === 0 ? rest : { ...rest, [locale.value]: written },
  })
}
const columns = computed(() => [
  {
    name: 'term',
    head: t('translating.term'),
    value: (term: GlossaryTerm) => term.term,
    set: (index: number, term: string) => change(index, { term }),
  },
  {
    name: 'use',
    head: t('translating.use'),
    isTranslated: true,
    value: (term: GlossaryTerm) => term.translations[locale.value]?.use ?? '',
    set: (index: number, use: string) => translate(index, { use }),
  },
  {
    name: 'avoid',
    head: t('translating.avoid'),
    isTranslated: true,
    value: (term: GlossaryTerm) => term.translations[locale.value]?.avoid?.join(', ') ?? '',
    set: (index: number, avoid: string) => translate(index, { avoid }),
  },
  {
    name: 'note',
    head: t('translating.note'),
    value: (term: GlossaryTerm) => term.note ?? '',
    set: (index: number, note: string) => change(index, { note }),
  },
])
const list = useTemplateRef<HTMLElement>('list')
async function add(): Promise<void> {
  wanted.value = ''
  terms.value = [...terms.value, { term: '', translations: {} }]
  await nextTick()
  list.value?.querySelector<HTMLInputElement>('.term-row:last-child input')?.focus()
}
const remove = (index: number): void => void (terms.value = terms.value.filter((_, at) => at !== index))

async function save(): Promise<void> {
  if (!isChanged.value || isSaving.value) return
  isSaving.value = true
  refused.value = ''
  try {
    const written = terms.value.map(({ note, ...term }) => ({
      ...term,
      ...(note?.trim() ? { note } : {}),
      translations: Object.fromEntries(
        Object.entries(term.translations).map(([tag, { use, avoid }]) => [
          tag,
          {
            ...(use ? { use } : {}),
            ...(avoid ? { avoid: avoid.map((word) => word.trim()).filter(Boolean) } : {}),
          },
        ]),
      ),
    }))
    const now = await opened.value!.editor.translations.setGlossary(written, version.value)
    terms.value = [...now.terms]
    saved.value = JSON.stringify(terms.value)
    version.value = now.version
    result.value = t('translating.glossarySaved')
  } catch (error) {
    refused.value = messageOf(error)
  } finally {
    isSaving.value = false
  }
}
useShortcuts({ 'mod+s': () => void save(), 'mod+enter': () => void save() })
</script>

<template>
  <main class="work" data-region="work">
    <header>
      <h1 class="page-name">{{ t('translating.glossary') }}</h1>
      <ElInput
        v-model="wanted"
        class="find"
        size="small"
        clearable
        :placeholder="t('translating.findTerm')"
        :aria-label="t('translating.findTerm')"
      />
      <ElSelect
        :model-value="locale"
        class="locale"
        size="small"
        :aria-label="t('translating.into')"
        @change="(tag: string) => router.replace({ query: { locale: tag } })"
        ><ElOption v-for="{ tag, label } in targets" :key="tag" :value="tag" :label="`${label} (${tag})`"
      /></ElSelect>
    </header>
    <PageTrouble v-if="trouble" :error="trouble" @again="load" />
    <template v-else-if="opened">
      <p v-if="terms.length === 0" class="content">{{ t('translating.noTerms') }}</p>
      <div v-else ref="list" class="paper list" role="table" :aria-label="t('translating.glossary')">
        <div class="heads" role="row">
          <span v-for="column in columns" :key="column.name" role="columnheader">{{ column.head }}</span>
        </div>
        <div v-for="{ term, index } in shown" :key="index" class="term-row" role="row">
          <span v-for="column in columns" :key="column.name" role="cell"
            ><ElInput
              :model-value="column.value(term)"
              :disabled="!mayWrite"
              :lang="column.isTranslated ? locale : undefined"
              :aria-label="column.head"
              @update:model-value="column.set(index, $event)"
          /></span>
          <span role="cell"
            ><ElButton
              v-if="mayWrite"
              text
              :icon="Delete"
              :aria-label="t('translating.removeTerm', { term: term.term })"
              @click="remove(index)"
          /></span>
        </div>
      </div>
      <p v-if="mayWrite">
        <ElButton @click="add">{{ t('translating.addTerm') }}</ElButton>
      </p>
    </template>
  </main>
  <StripBar :result="result">
    <template #start>
      <span v-if="refused" class="error-text" role="alert" :title="refused">{{ refused }}</span>
      <template v-else-if="!result">{{ t('translating.termCount', { n: terms.length }) }}</template>
    </template>
    <template #end>
      <ElButton v-if="isChanged && mayWrite" type="primary" :loading="isSaving" @click="save">{{
        t('translating.saveGlossary')
      }}</ElButton>
    </template>
  </StripBar>
</template>

<style scoped>
.work {
  padding: 24px;
  overflow: auto;
}
header {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 8px 24px;
}
.find,
.locale {
  inline-size: 220px;
}
.list {
  padding: 8px 16px;
}
.heads,
.term-row {
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr)) minmax(0, 1.5fr) 40px;
  gap: 12px;
  padding: 6px 0;
  align-items: center;
}
.heads {
  font-size: 13px;
  color: var(--w-ink2);
}
.term-row {
  border-block-start: 1px solid var(--w-hair);
}
@media (max-width: 700px) {
  .heads {
    display: none;
  }
  .term-row {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
