<script setup lang="ts">
import { blockTypeNamed, chainOf, holdsLocales, namedReader, fieldRuleState, type Field } from '@wisteria/core'
import { Back } from '@element-plus/icons-vue'
import type { UsedBy } from '@wisteria/client'
import { ElIcon } from 'element-plus'
import { computed, ref, watch } from 'vue'
import { firstWords } from '../controls/firstWords'
import { focusField } from './focusField'
import { useWorkingCopy } from './workingCopy'
import { t } from '../messages'
import EntryLink from '../components/EntryLink.vue'
import StateMark from '../components/StateMark.vue'

/** The fields and blocks of the entry, with where it differs from public and where something is wrong. */
const { locale } = defineProps<{ locale: string }>()
const copy = useWorkingCopy()
const { type, site } = copy

interface Line {
  readonly pointer: string
  readonly label: string
  readonly isInner: boolean
}

const pointerOf = (field: Field): string => `/values/${field.name}${holdsLocales(field, false) ? '/' + locale : ''}`

/** The fields that are shown now. */
const shown = computed(() => {
  const read = namedReader(chainOf(site.settings, locale))
  return type.fields.filter((field) => fieldRuleState(site.model, type, field, copy.values, read).isShown)
})

const lines = computed<Line[]>(() =>
  shown.value.flatMap((field) => {
    const heading = { pointer: pointerOf(field), label: field.label, isInner: false }
    const content = copy.read(copy.values, field.name, holdsLocales(field, false) ? locale : undefined)
    if (field.kind !== 'block' || !Array.isArray(content)) return [heading]
    const blocks = content as { id: string; block: string; values: Record<string, unknown> }[]
    return [
      heading,
      ...blocks.map((block, index) => {
        const type = blockTypeNamed(site.model, block.block)
        const words = firstWords(type, block.values, locale)
        const label = type?.label ?? block.block
        return {
          pointer: `${heading.pointer}/${index}`,
          label: words ? `${label}: ${shortened(words)}` : label,
          isInner: true,
        }
      }),
    ]
  }),
)

/** Cut by letters and not by width, so that the beginning is visible in either direction. */
const shortened = (text: string): string => (text.length > 20 ? text.slice(0, 19) + '…' : text)

const has = (pointers: readonly (string | undefined)[], line: Line): boolean =>
  pointers.some((pointer) => pointer === line.pointer || (line.isInner && pointer?.startsWith(line.pointer + '/')))
const changed = computed(() => copy.changes.value.map((change) => change.pointer))
const wrong = computed(() => copy.problems.value.map((problem) => problem.pointer))

const usedBy = ref<readonly UsedBy[]>([])
watch(
  () => copy.entry.value?.id,
  async (id) => {
    usedBy.value =
      id === undefined
        ? []
        : (await site.editor.usage(id).catch(() => ({ usedBy: [] }))).usedBy.filter(({ inBin }) => !inBin)
  },
  { immediate: true },
)
const shownUses = 30

/** The list that the user came from, with its query; else that of the type. */
const before = (history.state as { back?: unknown }).back
const back =
  typeof before === 'string' && before.startsWith(`/${site.name}/entries`)
    ? { to: before, label: t('entry.backToList') }
    : {
        to: {
          name: 'entries',
          params: { site: site.name, ...(type.cardinality === 'many' ? { type: type.name } : {}) },
        },
        label: type.cardinality === 'many' ? type.label : t('lists.allTypes'),
      }

function go(line: Line): void {
  const block = line.isInner ? line.pointer + '-values' : line.pointer
  const target =
    document.getElementById(`field${line.pointer.replaceAll('/', '-')}`) ??
    document.querySelector<HTMLElement>(`[id^="field${block.replaceAll('/', '-')}"]`)
  if (target) focusField(target)
}
</script>

<template>
  <nav class="outline" :aria-label="t('entry.outline')" data-region="outline">
    <RouterLink class="back" :to="back.to"
      ><ElIcon class="arrow" aria-hidden="true"><Back /></ElIcon> {{ back.label }}</RouterLink
    >
    <ol>
      <li v-for="line in lines" :key="line.pointer" :class="{ inner: line.isInner, wrong: has(wrong, line) }">
        <button class="plain" type="button" @click="go(line)">
          <bdi>{{ line.label }}</bdi>
          <svg
            v-if="has(wrong, line)"
            viewBox="0 0 14 14"
            width="12"
            height="12"
            role="img"
            :aria-label="t('entry.wrongHere')"
          >
            <path d="M7 1 L13.5 13 H0.5 Z" fill="none" stroke="currentColor" stroke-width="1.5" />
          </svg>
          <StateMark v-else-if="has(changed, line)" state="edited" class="sign" />
        </button>
      </li>
    </ol>
    <details v-if="usedBy.length > 0" class="uses">
      <summary>{{ t('entry.usedByCount', { count: usedBy.length }) }}</summary>
      <ul>
        <li v-for="referrer in usedBy.slice(0, shownUses)" :key="referrer.id">
          <EntryLink :id="referrer.id" :site="site.name" :title="referrer.title" />
        </li>
        <li v-if="usedBy.length > shownUses" class="quiet">
          {{ t('common.andMore', { count: usedBy.length - shownUses }) }}
        </li>
      </ul>
    </details>
  </nav>
</template>

<style scoped>
.outline {
  position: sticky;
  inset-block-start: 0;
  max-block-size: 100%;
  overflow: auto;
  font-size: 13px;
}
.back {
  display: flex;
  align-items: center;
  gap: 6px;
  margin-block-end: 12px;
  padding-inline-start: 12px;
  color: var(--w-ink2);
  text-decoration: none;
}
.back:hover {
  color: var(--w-accent);
}
[dir='rtl'] .arrow {
  transform: scaleX(-1);
}
summary {
  cursor: pointer;
  color: var(--w-ink2);
}
.uses {
  margin-block-start: 16px;
  padding-inline-start: 13px;
}
.uses ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
.uses li {
  padding: 2px 0;
}
ol {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  padding-inline-start: 12px;
}
li.inner {
  padding-inline-start: 26px;
}
.sign {
  transform: scale(0.85);
}
.plain {
  display: flex;
  gap: 6px;
  align-items: center;
  inline-size: 100%;
  padding: 3px 0;
  color: var(--w-ink2);
}
.plain:hover {
  color: var(--w-ink);
}
.plain bdi {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.wrong .plain {
  color: var(--w-error);
}
</style>
