<script setup lang="ts">
import { autocompletion, type CompletionContext, type CompletionResult } from '@codemirror/autocomplete'
import { linter, type Diagnostic } from '@codemirror/lint'
import { Compartment, EditorState, type Extension } from '@codemirror/state'
import { EditorView, keymap, placeholder as placeholderOf } from '@codemirror/view'
import { minimalSetup } from 'codemirror'
import type { Completion } from '@wisteria/core'
import { onBeforeUnmount, onMounted, ref, watch } from 'vue'

/** A text field for a small language: with completion, and with the error while writing. */
const text = defineModel<string>({ required: true })
const {
  label,
  placeholder = '',
  complete,
  mistake,
  more = [],
  tall = false,
} = defineProps<{
  label: string
  placeholder?: string
  /** The completions at a place. */
  complete?: (text: string, at: number) => Completion
  /** The error in a text, and its place; undefined where there is none. */
  mistake?: (text: string) => { readonly message: string; readonly from: number } | undefined
  /** The extensions of a language. */
  more?: Extension
  tall?: boolean
}>()
const emit = defineEmits<{ run: [] }>()

const host = ref<HTMLElement>()
const language = new Compartment()
let view: EditorView | undefined

const source = (context: CompletionContext): CompletionResult | null => {
  if (!complete) return null
  const { from, suggestions } = complete(context.state.doc.toString(), context.pos)
  if (suggestions.length === 0) return null
  return {
    from,
    options: suggestions.map(({ label: written, detail }) => ({ label: written, detail: detail.slice(0, 60) })),
    validFor: /^[\w$.@"]*$/,
  }
}

const lint = linter(
  ({ state }): Diagnostic[] => {
    const problem = mistake?.(state.doc.toString())
    if (!problem) return []
    const from = Math.min(problem.from, state.doc.length)
    return [{ from, to: state.doc.length, severity: 'error', message: problem.message }]
  },
  { delay: 300 },
)

onMounted(() => {
  const run = { key: 'Mod-Enter', preventDefault: true, run: () => (emit('run'), true) }
  view = new EditorView({
    parent: host.value!,
    state: EditorState.create({
      doc: text.value,
      extensions: [
        keymap.of([run]),
        minimalSetup,
        EditorView.lineWrapping,
        placeholderOf(placeholder),
        EditorView.contentAttributes.of({ 'aria-label': label, spellcheck: 'false' }),
        EditorView.updateListener.of((update) => {
          if (update.docChanged) text.value = update.state.doc.toString()
        }),
        ...(complete ? [autocompletion({ override: [source], activateOnTyping: true })] : []),
        ...(mistake ? [lint] : []),
        language.of(more),
      ],
    }),
  })
})
watch(text, (now) => {
  if (view && view.state.doc.toString() !== now)
    view.dispatch({ changes: { from: 0, to: view.state.doc.length, insert: now } })
})
watch(
  () => more,
  (now) => view?.dispatch({ effects: language.reconfigure(now) }),
)
onBeforeUnmount(() => view?.destroy())
</script>

<template>
  <div ref="host" class="code" :class="{ tall }" dir="ltr" />
</template>

<style scoped>
.code {
  background: var(--w-paper);
  border: 1px solid var(--w-rule);
  border-radius: 2px;
  font-size: 13px;
}
.code:focus-within {
  outline: 2px solid var(--w-accent);
  outline-offset: -1px;
}
.code :deep(.cm-editor) {
  min-block-size: 32px;
  max-block-size: 160px;
  outline: none;
}
.code.tall :deep(.cm-editor) {
  min-block-size: 320px;
  max-block-size: 480px;
}
.code :deep(.cm-scroller) {
  font-family: var(--w-code);
  line-height: 20px;
  overflow: auto;
}
.code :deep(.cm-content) {
  caret-color: var(--w-ink);
}
.code :deep(.cm-cursor) {
  border-color: var(--w-ink);
}
.code :deep(.cm-placeholder) {
  color: var(--w-ink3);
}
.code :deep(.cm-selectionBackground) {
  background: var(--w-accent-wash) !important;
}
</style>

<style>
.cm-tooltip.cm-tooltip {
  background: var(--w-paper);
  color: var(--w-ink);
  border: 1px solid var(--w-hair);
  box-shadow: var(--w-shadow-raised);
}
.cm-tooltip.cm-tooltip-autocomplete > ul > li[aria-selected] {
  background: var(--w-accent-wash);
  color: var(--w-ink);
}
.cm-tooltip .cm-completionDetail {
  color: var(--w-ink2);
  font-style: normal;
}
.cm-tooltip .cm-diagnostic-error {
  border-color: var(--w-error);
}
</style>
