<script setup lang="ts">
import {
  blockTypeNamed,
  insideGroup,
  makeItemId,
  ownersInside,
  printValues,
  withDefaults,
  type FieldOwner,
} from '@wisteria/core'
import { Plus } from '@element-plus/icons-vue'
import { ElButton, ElIcon } from 'element-plus'
import { computed, nextTick, reactive, ref, watch } from 'vue'
import { useDragging } from '../components/dragging'
import { firstControl } from '../editor/focusField'
import { useWorkingCopy } from '../editor/workingCopy'
import BlockPicker from './BlockPicker.vue'
import ItemHead from './ItemHead.vue'
import { copied, copyItem, fitsInto, withNewHandles, type CopiedItem } from './blockClipboard'
import type { ControlProps } from './control'
import { firstWords } from './firstWords'
import { moved, movedTo, random } from './reordering'
import { t } from '../messages'

/**
 * Values with fields of their own: blocks, the elements of a repeated group, or one group. The form around it renders their rows in
 * the slot.
 */
const props = defineProps<ControlProps & { pointer: string; insideLocale: boolean }>()
const emit = defineEmits<{ change: [value: unknown] }>()
const { site, problems, reveal, recordStep, untouched } = useWorkingCopy()

interface Item {
  readonly id: string
  readonly block?: string
  values: Record<string, unknown>
}

const group = computed(() => insideGroup(props.field))
const isOne = computed(() => group.value !== undefined && !props.field.many)
const items = computed<Item[]>(() => (Array.isArray(props.value) ? (props.value as Item[]) : []))
const accepted = computed(() => ownersInside(site.model, props.field))
const typeOf = (item: Item): FieldOwner | undefined => group.value ?? blockTypeNamed(site.model, item.block ?? '')
const noun = computed(() => t(group.value ? 'controls.item' : 'controls.block'))

/** An empty group: it becomes a value with the first text that is written into it. */
const empty = reactive<Record<string, unknown>>({})
watch(empty, () => Object.keys(empty).length > 0 && props.value !== empty && emit('change', empty))
const groupValues = computed(() =>
  typeof props.value === 'object' && props.value !== null ? (props.value as Record<string, unknown>) : empty,
)

/** Whether another block of the type fits, by `each` and `count`. */
function fits(type: FieldOwner): boolean {
  const each = (props.field.options['each'] ?? {}) as Readonly<Record<string, { readonly max?: number }>>
  const sameKind = items.value.filter((item) => item.block === type.name).length
  const most = props.field.many ? (props.field.count?.max ?? Infinity) : 1
  return items.value.length < most && sameKind < (each[type.name]?.max ?? Infinity)
}

function focusBlock(id: string): void {
  void nextTick(() => document.getElementById(`block-${id}`)?.focus())
}

/** Every action on the list is an undo step of its own, separate from the typing before it. */
function put(next: readonly Item[] | undefined): void {
  recordStep.value()
  emit('change', next)
  recordStep.value()
}

/** Focuses the first field of a new block. It shows no problems before it had the focus. */
function writeIn(id: string): void {
  untouched.add(id)
  void nextTick(() => {
    const header = document.getElementById(`block-${id}`)
    const control = header?.parentElement && firstControl(header.parentElement)
    if (control) control.focus()
    else header?.focus()
    header?.parentElement?.scrollIntoView({ block: 'nearest' })
  })
}
function onLeave(event: FocusEvent, id: string): void {
  const section = event.currentTarget as HTMLElement
  if (event.relatedTarget instanceof Node && !section.contains(event.relatedTarget)) untouched.delete(id)
}

/** Adds a block after the given one; at the end when left out. */
function add(block: string, after = items.value.length - 1): void {
  const id = makeItemId({ random })
  const owner = group.value ?? blockTypeNamed(site.model, block)
  const { settings } = site
  const moment = { now: Date.now(), timeZone: settings.timeZone }
  const begun = owner ? withDefaults(site.model, owner, {}, settings, moment, random, props.insideLocale) : {}
  const values = owner ? printValues(site.model, owner, begun, props.insideLocale) : {}
  const added = group.value ? { id, values } : { id, block, values }
  put([...items.value.slice(0, after + 1), added, ...items.value.slice(after + 1)])
  writeIn(id)
}

/** Whether one more of a kind fits: the list has a limit, and each kind may have its own. */
const fitsItem = (item: CopiedItem): boolean => {
  const type = typeOf(item)
  return type !== undefined && fits(type)
}

function insert(item: CopiedItem, after: number): void {
  const inserted = withNewHandles(site.model, item)
  put([...items.value.slice(0, after + 1), inserted, ...items.value.slice(after + 1)])
  focusBlock(inserted.id)
}
const copy = (index: number): void => copyItem(site.name, props.field, items.value[index]!)
function cut(index: number): void {
  copy(index)
  remove(index)
}
const mayPaste = computed(
  () =>
    !props.disabled &&
    fitsInto(site.model, site.name, props.field) &&
    copied.value !== undefined &&
    fitsItem(copied.value.item),
)
function paste(after: number): void {
  if (mayPaste.value) insert(copied.value!.item, after)
}
function duplicate(index: number): void {
  if (fitsItem(items.value[index]!)) insert(items.value[index]!, index)
}

/** On a focused block, with the key that browsers use for the same: inside a control text is copied as usual. */
function onKey(event: KeyboardEvent, index: number): void {
  const command = event.ctrlKey || event.metaKey
  const keys: Record<string, () => void> = {
    c: () => copy(index),
    x: () => !props.disabled && cut(index),
    v: () => paste(index),
    d: () => !props.disabled && duplicate(index),
  }
  const act = command && !event.altKey && !event.shiftKey ? keys[event.key.toLowerCase()] : undefined
  if (act) act()
  else if (event.key === 'Delete' && !props.disabled) remove(index)
  else if (event.key === 'Enter' && mayAdd.value) openPicker(index)
  else if (event.key === 'ArrowLeft' || event.key === 'ArrowRight') toggle(items.value[index]!.id)
  else return
  event.preventDefault()
}

const mayAdd = computed(() => !props.disabled && accepted.value.some(fits))
/** Behind which block the list of types is open. */
const picking = ref<number>()
function openPicker(after: number): void {
  if (group.value) add(group.value.name, after)
  else picking.value = after
}

const folded = reactive(new Set<string>())
const isFolded = (item: Item): boolean => folded.has(item.id)
/** A block with the focus in it does not fold. */
const hasFocus = (id: string): boolean => {
  const inside = document.getElementById(`block-${id}`)?.parentElement
  const { activeElement } = document
  return inside?.contains(activeElement) === true && activeElement?.id !== `block-${id}`
}
function fold(id: string): void {
  if (!hasFocus(id)) folded.add(id)
}
function toggle(id: string): void {
  if (!folded.delete(id)) fold(id)
}
function foldAll(): void {
  const isAll = items.value.every(isFolded)
  for (const { id } of items.value)
    if (isAll) folded.delete(id)
    else fold(id)
}
/** A new problem, or a link to one, opens its block; only a click folds it again. */
watch(
  () => [reveal.value, ...problems.value.map((problem) => problem.pointer ?? '')],
  (now, before) => {
    const news = now.filter((pointer, index) => (index === 0 ? pointer !== before[0] : !before.includes(pointer)))
    for (const [index, { id }] of items.value.entries())
      if (news.some((pointer) => pointer.startsWith(`${props.pointer}/${index}/`))) folded.delete(id)
  },
)
const { dragged, place, from, onto } = useDragging<number, number>(
  (_, index) => index,
  (start, end) => {
    const next = movedTo(items.value, start, end)
    if (next) put(next)
  },
)

function remove(index: number): void {
  const left = items.value.filter((_, position) => position !== index)
  put(left.length > 0 ? left : undefined)
  const neighbour = left[Math.min(index, left.length - 1)]
  if (neighbour) focusBlock(neighbour.id)
}

function move(index: number, step: 1 | -1): void {
  const next = moved(items.value, index, step)
  if (!next) return
  put(next)
  focusBlock(items.value[index]!.id)
}
</script>

<template>
  <div v-if="isOne" :id="id" class="group" role="group" :aria-label="field.label">
    <slot name="inside" :owner="group!" :container="groupValues" :pointer="pointer" />
  </div>
  <div v-else :id="id" class="blocks" role="group" :aria-label="field.label">
    <p v-if="items.length > 0" :id="`${id}-keys`" class="visually-hidden">{{ t('controls.itemKeys') }}</p>
    <p v-if="items.length > 2" class="all">
      <button class="plain quiet" type="button" @click="foldAll">
        {{ items.every((item) => folded.has(item.id)) ? t('controls.unfoldAll') : t('controls.foldAll') }}
      </button>
    </p>
    <section
      v-for="(item, index) in items"
      :key="item.id"
      class="block"
      :class="{ dragged: dragged === index, over: place === index && dragged !== index, up: (dragged ?? 0) > index }"
      @focusout="onLeave($event, item.id)"
      v-on="onto(index)"
    >
      <ItemHead
        :id="`block-${item.id}`"
        :label="typeOf(item)?.label ?? ''"
        :icon="group ? undefined : typeOf(item)?.icon"
        :noun="noun"
        :number="index + 1"
        :count="items.length"
        :is-numbered="group !== undefined"
        :first-words="
          isFolded(item) ? firstWords(group ?? blockTypeNamed(site.model, item.block ?? ''), item.values) : undefined
        "
        :disabled="disabled"
        :may-duplicate="fitsItem(item)"
        :aria-describedby="`${id}-keys`"
        @toggle="toggle(item.id)"
        @copy="copy(index)"
        @duplicate="duplicate(index)"
        @cut="cut(index)"
        @move="move(index, $event)"
        @remove="remove(index)"
        @keydown.alt.up.prevent.self="move(index, -1)"
        @keydown.alt.down.prevent.self="move(index, 1)"
        @keydown.self.exact="onKey($event, index)"
        @keydown.ctrl.self.exact="onKey($event, index)"
        @keydown.meta.self.exact="onKey($event, index)"
        v-on="from(index)"
      />
      <slot
        v-if="typeOf(item) && !isFolded(item)"
        name="inside"
        :owner="typeOf(item)!"
        :container="item.values"
        :pointer="`${pointer}/${index}/values`"
      />
      <BlockPicker
        v-if="!group && mayAdd && index < items.length - 1"
        class="between"
        is-line
        :open="picking === index"
        :types="accepted"
        :fits="fits"
        :label="t('controls.addAfter', { number: index + 1 })"
        @update:open="picking = $event ? index : undefined"
        @choose="(name) => add(name, index)"
      />
    </section>
    <p v-if="mayAdd" class="add">
      <ElButton v-if="group" @click="add(group.name)"
        ><ElIcon aria-hidden="true"><Plus /></ElIcon>&nbsp;{{ t('controls.addTo', { field: field.label }) }}</ElButton
      >
      <BlockPicker
        v-else
        :open="picking === items.length - 1"
        :types="accepted"
        :fits="fits"
        :label="t('controls.addBlock')"
        @update:open="picking = $event ? items.length - 1 : undefined"
        @choose="(name) => add(name)"
      />
      <ElButton v-if="mayPaste" size="small" @click="paste(items.length - 1)">{{ t('controls.paste') }}</ElButton>
    </p>
  </div>
</template>

<style scoped>
.block,
.group {
  margin-block-end: 16px;
  padding-inline-start: 16px;
  border-inline-start: 1px solid var(--w-hair);
}
.between {
  margin-inline-start: -16px;
}
.all {
  margin: 0 0 4px;
  font-size: 12px;
}
.block.dragged {
  opacity: 0.4;
}
.block.over {
  box-shadow: 0 2px var(--w-accent);
}
.block.over.up {
  box-shadow: 0 -2px var(--w-accent);
}
.add {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
  margin: 8px 0 0;
}
</style>
