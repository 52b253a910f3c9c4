<script setup lang="ts">
import { Plus } from '@element-plus/icons-vue'
import type { FieldOwner } from '@wisteria/core'
import { ElButton, ElIcon, ElInput } from 'element-plus'
import { computed, ref, watch } from 'vue'
import PopPanel from '../components/PopPanel.vue'
import { t } from '../messages'

/** Chooses the type of a new block: each with its symbol, label and help. */
const {
  types,
  fits,
  label,
  isLine = false,
} = defineProps<{
  types: readonly FieldOwner[]
  /** Whether another of a type fits. */
  fits: (type: FieldOwner) => boolean
  label: string
  /** Whether it is a line between two blocks, shown when the pointer is near. */
  isLine?: boolean
}>()
const emit = defineEmits<{ choose: [name: string] }>()
/** Whether the list is open; a key of the block before opens it too. */
const isOpen = defineModel<boolean>('open', { default: false })

const words = ref('')
/** So many are read at a glance. */
const few = 8
const shown = computed(() =>
  types.filter(({ label, name }) => `${label} ${name}`.toLowerCase().includes(words.value.trim().toLowerCase())),
)
/** The fields of a block without a help text. */
const says = (type: FieldOwner): string => type.help ?? type.fields.map((field) => field.label).join(', ')

const list = ref<HTMLElement>()
watch(isOpen, (now) => {
  if (now) words.value = ''
})
const buttons = (): HTMLElement[] => [
  ...(list.value?.querySelectorAll<HTMLElement>('button.type:not([disabled])') ?? []),
]
function step(by: 1 | -1): void {
  const all = buttons()
  const at = all.indexOf(document.activeElement as HTMLElement)
  all[Math.min(all.length - 1, Math.max(0, at + by))]?.focus()
}
function choose(type: FieldOwner): void {
  isOpen.value = false
  emit('choose', type.name)
}
</script>

<template>
  <span :class="isLine ? 'line' : 'end'">
    <PopPanel v-model="isOpen" :label="label" :width="360">
      <template #reference>
        <ElButton
          :size="isLine ? 'small' : 'default'"
          :circle="isLine"
          :aria-label="label"
          :title="isLine ? label : undefined"
          aria-haspopup="dialog"
          :aria-expanded="isOpen"
        >
          <ElIcon aria-hidden="true"><Plus /></ElIcon><template v-if="!isLine">&nbsp;{{ label }}</template>
        </ElButton>
      </template>
      <div ref="list" @keydown.down.prevent="step(1)" @keydown.up.prevent="step(-1)">
        <ElInput
          v-if="types.length > few"
          v-model="words"
          :placeholder="t('controls.findBlock')"
          :aria-label="t('controls.findBlock')"
          @keydown.enter.prevent="shown[0] && fits(shown[0]) && choose(shown[0])"
        />
        <ul>
          <li v-for="type in shown" :key="type.id">
            <button class="plain type" type="button" :disabled="!fits(type)" @click="choose(type)">
              <span class="sign" aria-hidden="true">{{ type.icon }}</span>
              <span class="label">{{ type.label }}</span>
              <span class="says">{{ fits(type) ? says(type) : t('controls.isFull') }}</span>
            </button>
          </li>
        </ul>
      </div>
    </PopPanel>
  </span>
</template>

<style scoped>
.line {
  display: flex;
  align-items: center;
  block-size: 16px;
  margin-block: -8px 0;
  opacity: 0;
}
.line::before,
.line::after {
  content: '';
  flex: 1;
  border-block-start: 1px solid var(--w-accent);
}
.line:hover,
.line:focus-within,
.line:has([aria-expanded='true']) {
  opacity: 1;
}
ul {
  max-block-size: 320px;
  margin: 0;
  padding: 0;
  overflow: auto;
  list-style: none;
}
.type {
  display: grid;
  grid-template-columns: 24px minmax(0, 1fr);
  inline-size: 100%;
  padding: 6px 8px;
  text-align: start;
}
.type:hover:not(:disabled),
.type:focus-visible {
  background: var(--w-accent-wash);
}
.sign {
  grid-row: span 2;
  color: var(--w-ink2);
}
.label {
  font-size: 14px;
  line-height: 20px;
  color: var(--w-ink);
}
.says {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  font-size: 12px;
  line-height: 16px;
  color: var(--w-ink2);
}
.type:disabled .label {
  color: var(--w-ink3);
}
@media (hover: none) {
  .line {
    opacity: 0.6;
  }
}
</style>
