<script setup lang="ts">
import { blockTypeNamed, makeHandle, shapeOf } from '@wisteria/core'
import { ElButton } from 'element-plus'
import { computed, nextTick } from 'vue'
import { useWorkingCopy } from '../editor/workingCopy'
import type { ControlProps } from './control'
import { moved, random } from './reordering'

/** The blocks of an entry, in order. What is inside one is written by the form around, which puts its rows in the slot. */
const props = defineProps<ControlProps & { pointer: string; insideLocale: boolean }>()
const emit = defineEmits<{ change: [value: unknown] }>()
const { site } = useWorkingCopy()

interface Block {
  readonly handle: string
  readonly block: string
  values: Record<string, unknown>
}

const blocks = computed<Block[]>(() => (Array.isArray(props.value) ? (props.value as Block[]) : []))
const accepted = computed(() => {
  const shape = shapeOf(props.field)
  return shape.is === 'blocks' ? shape.of.flatMap((name) => blockTypeNamed(site.model, name) ?? []) : []
})
const typeOf = (block: Block) => blockTypeNamed(site.model, block.block)

function focusBlock(handle: string): void {
  void nextTick(() => document.getElementById(`block-${handle}`)?.focus())
}

function add(block: string): void {
  const handle = makeHandle({ random })
  emit('change', [...blocks.value, { handle, block, values: {} }])
  focusBlock(handle)
}

function remove(index: number): void {
  const left = blocks.value.filter((_, position) => position !== index)
  emit('change', left.length > 0 ? left : undefined)
}

function move(index: number, step: 1 | -1): void {
  const next = moved(blocks.value, index, step)
  if (!next) return
  emit('change', next)
  focusBlock(blocks.value[index]!.handle)
}
</script>

<template>
  <div :id="id" class="blocks" role="group" :aria-label="field.label">
    <section v-for="(block, index) in blocks" :key="block.handle" class="block">
      <header
        :id="`block-${block.handle}`"
        tabindex="0"
        :aria-label="`${typeOf(block)?.label}, block ${index + 1} of ${blocks.length}. Alt with an arrow moves it.`"
        @keydown.alt.up.prevent="move(index, -1)"
        @keydown.alt.down.prevent="move(index, 1)"
      >
        <span>{{ typeOf(block)?.label }}</span>
        <span class="tools">
          <button
            class="plain"
            type="button"
            :disabled="disabled || index === 0"
            :aria-label="`Move block ${index + 1} up`"
            @click="move(index, -1)"
          >
            ↑
          </button>
          <button
            class="plain"
            type="button"
            :disabled="disabled || index === blocks.length - 1"
            :aria-label="`Move block ${index + 1} down`"
            @click="move(index, 1)"
          >
            ↓
          </button>
          <button
            class="plain"
            type="button"
            :disabled="disabled"
            :aria-label="`Remove block ${index + 1}`"
            @click="remove(index)"
          >
            Remove
          </button>
        </span>
      </header>
      <slot
        v-for="own in typeOf(block)?.fields ?? []"
        :key="own.id"
        name="field"
        :field="own"
        :container="block.values"
        :pointer="`${pointer}/${index}/values/${own.name}`"
      />
    </section>
    <p class="add">
      <span class="quiet">Add</span>
      <ElButton v-for="type in accepted" :key="type.id" size="small" :disabled="disabled" @click="add(type.name)">{{
        type.label
      }}</ElButton>
    </p>
  </div>
</template>

<style scoped>
.block {
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
