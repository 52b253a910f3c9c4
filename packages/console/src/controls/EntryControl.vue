<script setup lang="ts">
import { decide, fieldNamed, makeItemId, shapeOf, typeNamed, type ContentType, type State } from '@wisteria/core'
import { ElButton, ElOption, ElSelect } from 'element-plus'
import { computed, reactive, ref, watch } from 'vue'
import StateMark from '../components/StateMark.vue'
import { useWorkingCopy } from '../editor/workingCopy'
import type { ControlProps } from './control'
import { moved, random } from './reordering'
import { messageOf, t } from '../messages'
import EntryLink from '../components/EntryLink.vue'

const props = defineProps<ControlProps>()
const emit = defineEmits<{ change: [value: unknown] }>()
const { site, entry } = useWorkingCopy()

interface Candidate {
  readonly id: string
  readonly title: string
  readonly type: string
  readonly state: State
  readonly path?: string | null
}
interface Item {
  readonly id: string
  readonly value: string
}

const candidatesById = reactive(new Map<string, Candidate>())
const candidates = ref<Candidate[]>([])
const isSearching = ref(false)
const types = computed(() => {
  const shape = shapeOf(props.field)
  return shape.is === 'reference' ? shape.to : []
})
const items = computed<readonly Item[]>(() => (Array.isArray(props.value) ? (props.value as Item[]) : []))
const ids = computed(() =>
  props.field.many ? items.value.map((item) => item.value) : typeof props.value === 'string' ? [props.value] : [],
)

watch(
  ids,
  async (ids) => {
    for (const id of ids) {
      if (candidatesById.has(id)) continue
      const candidate = await site.editor.entry(id).catch(() => undefined)
      candidatesById.set(
        id,
        candidate
          ? { id, title: candidate.title, type: candidate.type, state: candidate.state }
          : { id, title: t('controls.entryGone'), type: '', state: 'withdrawn' },
      )
    }
  },
  { immediate: true },
)

const asked = ref('')
async function search(words: string): Promise<void> {
  asked.value = words.trim()
  isSearching.value = true
  const lists = await Promise.all(
    types.value.map(async (name) =>
      asked.value === ''
        ? (await site.editor.entries({ type: name, first: 20 })).entries
        : (await site.editor.search(asked.value, { type: name, first: 20 })).entries,
    ),
  ).catch(() => [])
  candidates.value = lists.flat().filter((list) => list.id !== entry.value?.id)
  for (const candidate of candidates.value) candidatesById.set(candidate.id, candidate)
  isSearching.value = false
}

/** Types of which a new entry can be created here, titled with the search words. */
const makeable = computed(() =>
  props.disabled || !decide(site.caller, 'entry.write').allowed
    ? []
    : types.value.flatMap((name) => {
        const type = typeNamed(site.model, name)
        return type && type.cardinality === 'many' && fieldNamed(type, type.namedBy)?.kind === 'text' ? [type] : []
      }),
)
const refused = ref('')
async function create(type: ContentType): Promise<void> {
  refused.value = ''
  const naming = fieldNamed(type, type.namedBy)!
  const name = naming.localized ? { [props.locale]: asked.value } : asked.value
  try {
    const created = await site.editor.create({ type: type.name, values: { [naming.name]: name } })
    candidatesById.set(created.id, { id: created.id, title: created.title, type: created.type, state: created.state })
    choose(created.id)
  } catch (error) {
    refused.value = t('controls.nothingCreated', { message: messageOf(error) })
  }
}

const titleOf = (id: string): string => candidatesById.get(id)?.title || '…'

function choose(id: string | undefined): void {
  if (!props.field.many) return emit('change', id || undefined)
  if (!id || ids.value.includes(id)) return
  emit('change', [...items.value, { id: makeItemId({ random }), value: id }])
}

function remove(id: string): void {
  const left = items.value.filter((item) => item.id !== id)
  emit('change', left.length > 0 ? left : undefined)
}

function move(index: number, step: 1 | -1): void {
  const next = moved(items.value, index, step)
  if (next) emit('change', next)
}
</script>

<template>
  <div>
    <ol v-if="field.many && items.length > 0" class="items">
      <li
        v-for="(item, index) in items"
        :key="item.id"
        tabindex="0"
        :aria-label="titleOf(item.value)"
        @keydown.alt.up.prevent="move(index, -1)"
        @keydown.alt.down.prevent="move(index, 1)"
      >
        <StateMark v-if="candidatesById.get(item.value)" :state="candidatesById.get(item.value)!.state" />
        <EntryLink :id="item.value" class="serif" :site="site.name" :title="titleOf(item.value)" />
        <span class="tools">
          <button
            class="plain"
            type="button"
            :disabled="disabled || index === 0"
            :aria-label="t('controls.moveUp', { name: titleOf(item.value) })"
            @click="move(index, -1)"
          >
            ↑
          </button>
          <button
            class="plain"
            type="button"
            :disabled="disabled || index === items.length - 1"
            :aria-label="t('controls.moveDown', { name: titleOf(item.value) })"
            @click="move(index, 1)"
          >
            ↓
          </button>
          <button
            class="plain"
            type="button"
            :disabled="disabled"
            :aria-label="t('controls.removeNamed', { name: titleOf(item.value) })"
            @click="remove(item.id)"
          >
            {{ t('common.remove') }}
          </button>
        </span>
      </li>
    </ol>
    <div class="pick">
      <ElSelect
        :id="id"
        class="select"
        filterable
        remote
        clearable
        :remote-method="search"
        :loading="isSearching"
        :model-value="field.many ? undefined : ids[0]"
        :placeholder="field.many ? t('controls.addMore') : t('controls.choose')"
        :disabled="disabled"
        @update:model-value="choose"
        @visible-change="(open: boolean) => open && search('')"
      >
        <template v-if="!field.many && ids[0]" #label>{{ titleOf(ids[0]) }}</template>
        <ElOption
          v-for="candidate in candidates"
          :key="candidate.id"
          :value="candidate.id"
          :label="candidate.title || t('common.noName')"
          :disabled="field.many && ids.includes(candidate.id)"
        >
          <span class="candidate">
            <StateMark :state="candidate.state" />
            <span class="serif" dir="auto">{{ candidate.title || t('common.noName') }}</span>
            <span v-if="types.length > 1" class="quiet">{{ typeNamed(site.model, candidate.type)?.label }}</span>
            <bdi v-if="candidate.path" class="quiet path" dir="ltr">{{ candidate.path }}</bdi>
          </span>
        </ElOption>
        <template v-if="asked !== '' && makeable.length > 0" #footer>
          <ElButton v-for="type in makeable" :key="type.id" size="small" @click="create(type)">{{
            t('controls.createNamed', { type: type.label.toLowerCase(), name: asked })
          }}</ElButton>
        </template>
      </ElSelect>
      <RouterLink v-if="!field.many && ids[0]" :to="{ name: 'entry', params: { site: site.name, id: ids[0] } }">{{
        t('common.open')
      }}</RouterLink>
    </div>
    <p v-if="refused" class="error-text">{{ refused }}</p>
  </div>
</template>

<style scoped>
.items {
  list-style: none;
  margin: 0 0 8px;
  padding: 0;
}
.items li {
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 4px 0;
  border-block-end: 1px solid var(--w-hair);
}
.items a {
  font-size: 17px;
  line-height: 28px;
  color: var(--w-ink);
}
.tools {
  margin-inline-start: auto;
  display: flex;
  gap: 12px;
  color: var(--w-ink2);
}
.tools :disabled {
  visibility: hidden;
}
.pick {
  display: flex;
  align-items: center;
  gap: 12px;
}
.select {
  inline-size: 320px;
}
.candidate {
  display: flex;
  align-items: center;
  gap: 8px;
}
.path {
  font: 12px/16px var(--w-code);
  max-inline-size: 180px;
  overflow: hidden;
  text-overflow: ellipsis;
}
</style>
