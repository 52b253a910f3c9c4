<script setup lang="ts">
import { compareWords, contentAt, placeIn, type NamedEdit, type Piece, type RebaseConflict } from '@wisteria/core'
import { useClipboard } from '@vueuse/core'
import { ElButton } from 'element-plus'
import { computed, reactive, ref, watch } from 'vue'
import ChangedWords from '../components/ChangedWords.vue'
import ConsequenceSheet from '../components/ConsequenceSheet.vue'
import { nameOfActor } from '../session'
import { inWords, wordsOf } from './inWords'
import { useWorkingCopy } from './workingCopy'
import { t } from '../messages'

/** The conflicting places, with a choice for each, and the other changes of the other person. */
const open = defineModel<boolean>({ required: true })
const emit = defineEmits<{ choose: [choice: (conflict: RebaseConflict) => 'ours' | 'theirs'] }>()
const copy = useWorkingCopy()
type Side = 'ours' | 'theirs'

const other = computed(() => (copy.newer.value ? nameOfActor(copy.site, copy.newer.value.updatedBy) : ''))
const keyOf = ({ at, locale }: RebaseConflict): string => JSON.stringify([at, locale ?? null])
const chosen = reactive(new Map<string, Side>())

/** The labels of a place; found in whichever of the three still has it. */
function nameOf({ at, locale }: { readonly at: readonly string[]; readonly locale?: string | undefined }): string {
  const place = [copy.values, copy.saved.value, copy.newer.value?.values ?? {}]
    .map((values) => placeIn(copy.site.model, copy.type, values, { at, locale }))
    .find((candidate) => candidate !== undefined)
  return `${place?.labels.join(', ') ?? at[0]}${locale ? ` (${locale})` : ''}`
}

/** Names come with the check of the last save, and of the other people's save. */
const reading = computed(() => ({
  model: copy.site.model,
  timeZone: copy.site.settings.timeZone,
  names: { ...names.value, ...copy.check.value?.names },
}))
/** The titles of entries and names of assets at the conflicting places. */
const names = ref<Readonly<Record<string, string>>>({})
watch(
  () => [open.value, copy.conflicts.value] as const,
  async ([isOpen, conflicts]) => {
    if (!isOpen) return
    const titles: Record<string, string> = {}
    for (const conflict of conflicts) {
      const kind = placeIn(copy.site.model, copy.type, copy.saved.value, conflict)?.field.kind
      if (kind !== 'entry' && kind !== 'asset') continue
      for (const values of [copy.values, copy.newer.value?.values ?? {}]) {
        const content = contentAt(values, conflict.at, conflict.locale)
        for (const id of [content].flat().filter((id) => typeof id === 'string'))
          titles[id] = (await nameOfId(kind, id).catch(() => undefined)) ?? ''
      }
    }
    names.value = Object.fromEntries(Object.entries(titles).filter(([, name]) => name !== ''))
  },
  { immediate: true },
)
const nameOfId = async (kind: 'entry' | 'asset', id: string): Promise<string> =>
  kind === 'entry' ? (await copy.site.editor.entry(id)).title : (await copy.site.editor.asset(id)).name

interface Said {
  readonly pieces?: readonly Piece[]
  readonly text?: string
}

/** The change of one of the two at a place: word by word in running text. */
function said(conflict: RebaseConflict, side: Side): Said {
  const edits = conflict[side]
  const whole = edits.find((edit) => edit.at.length === conflict.at.length && edit.do === 'remove')
  if (whole) return { text: t('conflict.removed') }
  const moved = edits.filter((edit) => edit.do === 'move')
  if (moved.length === edits.length) return { text: t('conflict.moved') }
  const inner = edits.filter((edit) => edit.at.length > conflict.at.length || edit.do === 'insert')
  if (inner.length > 0) return { text: t('conflict.changed', { what: [...new Set(inner.map(nameOf))].join('; ') }) }
  const field = placeIn(copy.site.model, copy.type, copy.saved.value, conflict)?.field
  const kind = field?.kind ?? 'text'
  const [before, now] = [copy.saved.value, side === 'ours' ? copy.values : (copy.newer.value?.values ?? {})].map(
    (values) => contentAt(values, conflict.at, conflict.locale),
  )
  const [old, mine] = [wordsOf(before, kind), wordsOf(now, kind)]
  if (old !== undefined && mine !== undefined && mine !== '')
    return { pieces: compareWords(old, mine, conflict.locale ?? copy.site.settings.defaultLocale) }
  return {
    text:
      now === undefined || now === null || now === ''
        ? t('conflict.emptied')
        : inWords(now, field ?? kind, reading.value),
  }
}

/** The words that are written here at a place, to be copied. */
function wordsHere(conflict: RebaseConflict): string | undefined {
  const kind = placeIn(copy.site.model, copy.type, copy.values, conflict)?.field.kind
  return kind && wordsOf(contentAt(copy.values, conflict.at, conflict.locale), kind)
}
const { copy: copyText, copied, text } = useClipboard({ legacy: true })

const rows = computed(() =>
  copy.conflicts.value.map((conflict) => ({
    key: keyOf(conflict),
    name: nameOf(conflict),
    locale: conflict.locale,
    ours: said(conflict, 'ours'),
    theirs: said(conflict, 'theirs'),
    words: wordsHere(conflict),
  })),
)
const elsewhere = computed(() => [
  ...new Set((copy.rebased.value?.elsewhere ?? []).map((edit: NamedEdit) => nameOf(edit))),
])
const isDecided = computed(() => rows.value.every(({ key }) => chosen.has(key)))

function all(side: Side): void {
  for (const { key } of rows.value) chosen.set(key, side)
}
function apply(): void {
  open.value = false
  emit('choose', (conflict) => chosen.get(keyOf(conflict)) ?? 'ours')
}
</script>

<template>
  <ConsequenceSheet v-model="open" :title="t('conflict.title', { other })">
    <p>{{ t('conflict.explained', { other }) }}</p>
    <table>
      <thead>
        <tr>
          <th scope="col">{{ t('conflict.place') }}</th>
          <th scope="col">
            {{ t('conflict.yours') }}
            <button class="plain link" type="button" @click="all('ours')">{{ t('conflict.keepOurs') }}</button>
          </th>
          <th scope="col">
            {{ other }}
            <button class="plain link" type="button" @click="all('theirs')">{{ t('conflict.keepTheirs') }}</button>
          </th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="row in rows" :key="row.key">
          <th scope="row">{{ row.name }}</th>
          <td v-for="side in ['ours', 'theirs'] as const" :key="side" :class="{ chosen: chosen.get(row.key) === side }">
            <label>
              <input
                type="radio"
                :name="row.key"
                :value="side"
                :checked="chosen.get(row.key) === side"
                :aria-label="
                  side === 'ours'
                    ? t('conflict.keepYours', { place: row.name })
                    : t('conflict.keepOther', { place: row.name, other })
                "
                @change="chosen.set(row.key, side)"
              />
              <span class="serif" dir="auto" :lang="row.locale">
                <ChangedWords v-if="row[side].pieces" :pieces="row[side].pieces" /><template v-else>{{
                  row[side].text
                }}</template>
              </span>
            </label>
            <button
              v-if="side === 'ours' && row.words"
              class="plain link copy"
              type="button"
              :aria-label="t('conflict.copyYours', { place: row.name })"
              @click="copyText(row.words)"
            >
              {{ copied && text === row.words ? t('query.copied') : t('common.copy') }}
            </button>
          </td>
        </tr>
      </tbody>
    </table>
    <p v-if="elsewhere.length > 0" class="quiet">
      {{ t('conflict.elsewhere', { other, places: elsewhere.join(', ') }) }}
    </p>
    <template #foot>
      <ElButton @click="open = false">{{ t('common.cancel') }}</ElButton>
      <span class="gap" />
      <span v-if="!isDecided" class="quiet">{{ t('conflict.chooseAll') }}</span>
      <ElButton type="primary" :disabled="!isDecided" @click="apply">{{ t('conflict.save') }}</ElButton>
    </template>
  </ConsequenceSheet>
</template>

<style scoped>
table {
  inline-size: 100%;
  border-collapse: collapse;
}
th,
td {
  padding: 8px 12px;
  text-align: start;
  vertical-align: top;
  border-block-end: 1px solid var(--w-hair);
}
th {
  font-size: 13px;
  font-weight: 400;
  color: var(--w-ink2);
}
td {
  inline-size: 40%;
  overflow-wrap: anywhere;
}
td.chosen {
  background: var(--w-accent-wash);
}
label {
  display: flex;
  gap: 8px;
  align-items: baseline;
  cursor: pointer;
}
.link {
  margin-inline-start: 8px;
  color: var(--w-accent);
  text-decoration: underline;
}
.copy {
  margin-inline-start: 24px;
  font-size: 13px;
}
.gap {
  flex: 1;
}
</style>
