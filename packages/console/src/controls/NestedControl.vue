<script setup lang="ts">
import { blockTypeNamed, insideGroup, makeHandle, ownersInside, type Fielded } from '@wisteria/core'
import { ElButton } from 'element-plus'
import { computed, nextTick, reactive, watch } from 'vue'
import { useWorkingCopy } from '../editor/workingCopy'
import type { ControlProps } from './control'
import { moved, random } from './reordering'

/**
 * What has fields of its own: blocks, the elements of a repeated group, or one group. What is inside is written by the form
 * around, which puts its rows in the slot.
 */
const props = defineProps<ControlProps & { pointer: string; insideLocale: boolean }>()
const emit = defineEmits<{ change: [value: unknown] }>()
const { site } = useWorkingCopy()

interface Item {
  readonly handle: string
  readonly block?: string
  values: Record<string, unknown>
}

const group = computed(() => insideGroup(props.field))
const isOne = computed(() => group.value !== undefined && !props.field.many)
const items = computed<Item[]>(() => (Array.isArray(props.value) ? (props.value as Item[]) : []))
const accepted = computed(() => ownersInside(site.model, props.field))
const typeOf = (item: Item): Fielded | undefined => group.value ?? blockTypeNamed(site.model, item.block ?? '')
const noun = computed(() => (group.value ? 'item' : 'block'))

/** A group that holds nothing yet: it becomes the value with the first word that is written into it. */
const empty = reactive<Record<string, unknown>>({})
watch(empty, () => Object.keys(empty).length > 0 && props.value !== empty && emit('change', empty))
const one = computed(() =>
  typeof props.value === 'object' && props.value !== null ? (props.value as Record<string, unknown>) : empty,
)

/** Whether another of the type fits: `each` and `count` say how many there may be. */
function fits(type: Fielded): boolean {
  const each = (props.field.options['each'] ?? {}) as Readonly<Record<string, { readonly max?: number }>>
  const own = items.value.filter((item) => item.block === type.name).length
  const most = props.field.many ? (props.field.count?.max ?? Infinity) : 1
  return items.value.length < most && own < (each[type.name]?.max ?? Infinity)
}

function focusBlock(handle: string): void {
  void nextTick(() => document.getElementById(`block-${handle}`)?.focus())
}

function add(block: string): void {
  const handle = makeHandle({ random })
  emit('change', [...items.value, group.value ? { handle, values: {} } : { handle, block, values: {} }])
  focusBlock(handle)
}

function remove(index: number): void {
  const left = items.value.filter((_, position) => position !== index)
  emit('change', left.length > 0 ? left : undefined)
}

function move(index: number, step: 1 | -1): void {
  const next = moved(items.value, index, step)
  if (!next) return
  emit('change', next)
  focusBlock(items.value[index]!.handle)
}
</script>

<template>
  <div v-if="isOne" :id="id" class="group" role="group" :aria-label="field.label">
    <slot name="inside" :owner="group!" :container="one" :pointer="pointer" />
  </div>
  <div v-else :id="id" class="blocks" role="group" :aria-label="field.label">
    <section v-for="(item, index) in items" :key="item.handle" class="block">
      <header
        :id="`block-${item.handle}`"
        tabindex="0"
        :aria-label="`${typeOf(item)?.label}, ${noun} ${index + 1} of ${items.length}. Alt with an arrow moves it.`"
        @keydown.alt.up.prevent="move(index, -1)"
        @keydown.alt.down.prevent="move(index, 1)"
      >
        <span>{{ group ? index + 1 : `${typeOf(item)?.icon ?? ''} ${typeOf(item)?.label ?? ''}` }}</span>
        <span class="tools">
          <button
            class="plain"
            type="button"
            :disabled="disabled || index === 0"
            :aria-label="`Move ${noun} ${index + 1} up`"
            @click="move(index, -1)"
          >
            ↑
          </button>
          <button
            class="plain"
            type="button"
            :disabled="disabled || index === items.length - 1"
            :aria-label="`Move ${noun} ${index + 1} down`"
            @click="move(index, 1)"
          >
            ↓
          </button>
          <button
            class="plain"
            type="button"
            :disabled="disabled"
            :aria-label="`Remove ${noun} ${index + 1}`"
            @click="remove(index)"
          >
            Remove
          </button>
        </span>
      </header>
      <slot
        v-if="typeOf(item)"
        name="inside"
        :owner="typeOf(item)!"
        :container="item.values"
        :pointer="`${pointer}/${index}/values`"
      />
    </section>
    <p v-if="accepted.some(fits)" class="add">
      <span class="quiet">Add</span>
      <ElButton
        v-for="type in accepted"
        :key="type.id"
        size="small"
        :disabled="disabled || !fits(type)"
        :title="fits(type) ? (type.help ?? '') : 'As many as fit are there already.'"
        @click="add(type.name)"
        >{{ group ? field.label.toLowerCase() : type.label }}</ElButton
      >
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
header {
  display: flex;
  justify-content: space-between;
  font-size: 12px;
  line-height: 16px;
  color: var(--w-ink3);
}
.tools {
  display: flex;
  gap: 12px;
  opacity: 0;
}
.block:hover > header .tools,
.block:focus-within > header .tools {
  opacity: 1;
}
.tools :disabled {
  visibility: hidden;
}
.add {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
  margin: 8px 0 0;
}
</style>
