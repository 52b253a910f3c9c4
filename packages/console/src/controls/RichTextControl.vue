<script setup lang="ts">
import { isLinkAddress, shapeOf, type Field, type RichText } from '@wisteria/core'
import { Mark, mergeAttributes, Node } from '@tiptap/core'
import StarterKit from '@tiptap/starter-kit'
import { EditorContent, useEditor } from '@tiptap/vue-3'
import { ElButton, ElInput, ElPopover } from 'element-plus'
import { computed, ref, watch } from 'vue'
import { useWorkingCopy } from '../editor/workingCopy'
import AssetControl from './AssetControl.vue'
import type { ControlProps } from './control'
import EntryControl from './EntryControl.vue'
import { cleanPasted } from './pasted'
import { fromNodes, toNodes, type EditorNode } from './richTextNodes'

const props = defineProps<ControlProps>()
const emit = defineEmits<{ change: [value: unknown] }>()
const { site } = useWorkingCopy()
const accepts = computed(() => {
  const shape = shapeOf(props.field)
  return shape.is === 'richText' ? shape.entries : []
})

/** What a reference stands for, said inside the text once it is known. */
const names = new Map<string, string>()
async function nameOf(what: 'entry' | 'asset', id: string): Promise<string> {
  const known = names.get(id)
  if (known !== undefined) return known
  const name = await (
    what === 'entry' ? site.editor.entry(id).then((one) => one.title) : site.editor.asset(id).then((one) => one.name)
  ).catch(() => 'something that is gone')
  names.set(id, name)
  return name
}

const held = (what: 'entry' | 'asset', sign: string) =>
  Node.create({
    name: what === 'entry' ? 'heldEntry' : 'heldAsset',
    group: 'block',
    atom: true,
    addAttributes: () => ({ [what]: { default: '' } }),
    parseHTML: () => [
      { tag: `div[data-held-${what}]`, getAttrs: (element) => ({ [what]: element.getAttribute(`data-held-${what}`) }) },
    ],
    renderHTML: ({ node, HTMLAttributes }) => [
      'div',
      mergeAttributes(HTMLAttributes, { [`data-held-${what}`]: String(node.attrs[what]) }),
    ],
    addNodeView:
      () =>
      ({ node }) => {
        const dom = document.createElement('div')
        dom.className = 'held'
        dom.textContent = `${sign} …`
        void nameOf(what, String(node.attrs[what])).then((name) => (dom.textContent = `${sign} ${name}`))
        return { dom }
      },
  })

const entryLink = Mark.create({
  name: 'entryLink',
  inclusive: false,
  addAttributes: () => ({ entry: { default: '' } }),
  parseHTML: () => [{ tag: 'a[data-entry]', getAttrs: (element) => ({ entry: element.getAttribute('data-entry') }) }],
  renderHTML: ({ HTMLAttributes }) => ['a', { 'data-entry': String(HTMLAttributes['entry']) }, 0],
})

let own = JSON.stringify(props.value ?? null)
const editor = useEditor({
  content: toNodes((props.value as RichText | undefined) ?? { blocks: [] }),
  editable: !props.disabled,
  extensions: [
    StarterKit.configure({
      heading: { levels: [2, 3, 4] },
      underline: false,
      link: { openOnClick: false, autolink: false, isAllowedUri: (address) => isLinkAddress(address) },
    }),
    entryLink,
    held('entry', '↗'),
    held('asset', '▨'),
  ],
  editorProps: {
    transformPastedHTML: cleanPasted,
    attributes: () => ({
      id: props.id,
      role: 'textbox',
      'aria-multiline': 'true',
      'aria-label': props.field.label,
      dir: props.direction,
      lang: props.locale,
    }),
  },
  onUpdate: ({ editor: now }) => {
    const document = fromNodes(now.getJSON() as EditorNode)
    own = JSON.stringify(document ?? null)
    emit('change', document)
  },
})
watch(
  () => [props.value, props.locale] as const,
  ([value]) => {
    const text = JSON.stringify(value ?? null)
    if (text === own) return
    own = text
    editor.value?.commands.setContent(toNodes((value as RichText | undefined) ?? { blocks: [] }), { emitUpdate: false })
  },
)
watch(
  () => props.disabled,
  (now) => editor.value?.setEditable(!now),
)

interface Tool {
  readonly sign: string
  readonly label: string
  readonly isOn: () => boolean
  readonly act: () => void
}
const chain = () => editor.value!.chain().focus()
const is = (name: string, attributes?: Record<string, unknown>) => editor.value?.isActive(name, attributes) ?? false
const tools: Tool[] = [
  { sign: 'B', label: 'Bold', isOn: () => is('bold'), act: () => chain().toggleBold().run() },
  { sign: 'I', label: 'Italics', isOn: () => is('italic'), act: () => chain().toggleItalic().run() },
  { sign: '<>', label: 'Code', isOn: () => is('code'), act: () => chain().toggleCode().run() },
  { sign: 'S', label: 'Struck out', isOn: () => is('strike'), act: () => chain().toggleStrike().run() },
  {
    sign: 'H2',
    label: 'Heading',
    isOn: () => is('heading', { level: 2 }),
    act: () => chain().toggleHeading({ level: 2 }).run(),
  },
  {
    sign: 'H3',
    label: 'Smaller heading',
    isOn: () => is('heading', { level: 3 }),
    act: () => chain().toggleHeading({ level: 3 }).run(),
  },
  { sign: '•', label: 'List', isOn: () => is('bulletList'), act: () => chain().toggleBulletList().run() },
  { sign: '1.', label: 'Numbered list', isOn: () => is('orderedList'), act: () => chain().toggleOrderedList().run() },
  { sign: '❝', label: 'Quote', isOn: () => is('blockquote'), act: () => chain().toggleBlockquote().run() },
  { sign: '—', label: 'Rule', isOn: () => false, act: () => chain().setHorizontalRule().run() },
]

const address = ref('')
const isAddressWrong = computed(() => address.value !== '' && !isLinkAddress(address.value))
function link(): void {
  if (isAddressWrong.value || address.value === '') return
  chain().extendMarkRange('link').setLink({ href: address.value }).run()
  address.value = ''
}
const unlink = () =>
  chain().extendMarkRange('link').unsetLink().extendMarkRange('entryLink').unsetMark('entryLink').run()
const entryField = computed<Field>(() => ({
  ...props.field,
  kind: 'entry',
  many: false,
  label: 'Entry',
  options: { accepts: [...accepts.value] },
}))
const assetField = computed<Field>(() => ({ ...props.field, kind: 'asset', many: false, label: 'File', options: {} }))

/** Words that are chosen become a link to the entry; without any, it stands between the paragraphs. */
function putEntry(id: unknown): void {
  if (typeof id !== 'string') return
  const { empty } = editor.value!.state.selection
  if (empty)
    chain()
      .insertContent({ type: 'heldEntry', attrs: { entry: id } })
      .run()
  else chain().setMark('entryLink', { entry: id }).run()
}
const putAsset = (id: unknown) =>
  typeof id === 'string' &&
  chain()
    .insertContent({ type: 'heldAsset', attrs: { asset: id } })
    .run()
</script>

<template>
  <div class="rich" :class="{ disabled }">
    <div v-if="!disabled" class="tools" role="toolbar" :aria-label="`${field.label}: form of the words`">
      <button
        v-for="tool in tools"
        :key="tool.label"
        class="plain tool"
        type="button"
        :title="tool.label"
        :aria-label="tool.label"
        :aria-pressed="tool.isOn()"
        @mousedown.prevent
        @click="tool.act()"
      >
        {{ tool.sign }}
      </button>
      <ElPopover trigger="click" :width="320" placement="bottom-start">
        <template #reference
          ><button class="plain tool" type="button" :aria-pressed="is('link') || is('entryLink')">
            Link…
          </button></template
        >
        <form class="pop" @submit.prevent="link">
          <ElInput v-model="address" placeholder="https://… or /path" aria-label="Address" />
          <p v-if="isAddressWrong" class="error-text">Begin with https://, http://, mailto:, tel:, / or #.</p>
          <span
            ><ElButton size="small" native-type="submit" :disabled="address === '' || isAddressWrong"
              >Link the chosen words</ElButton
            >
            <ElButton size="small" @click="unlink">Unlink</ElButton></span
          >
        </form>
      </ElPopover>
      <ElPopover v-if="accepts.length > 0" trigger="click" :width="360" placement="bottom-start">
        <template #reference><button class="plain tool" type="button">Entry…</button></template>
        <p class="quiet hint">Chosen words become a link to it; without any, it stands by itself.</p>
        <EntryControl
          :id="`${id}-entry`"
          :field="entryField"
          :value="undefined"
          :locale="locale"
          :direction="direction"
          @change="putEntry"
        />
      </ElPopover>
      <ElPopover trigger="click" :width="360" placement="bottom-start">
        <template #reference><button class="plain tool" type="button">File…</button></template>
        <AssetControl
          :id="`${id}-asset`"
          :field="assetField"
          :value="undefined"
          :locale="locale"
          :direction="direction"
          @change="putAsset"
        />
      </ElPopover>
    </div>
    <EditorContent v-if="editor" class="content paper-words" :editor="editor" />
  </div>
</template>

<style scoped>
.rich {
  border-block-end: 1px solid var(--w-rule);
}
.tools {
  display: flex;
  flex-wrap: wrap;
  gap: 2px;
  position: sticky;
  inset-block-start: 0;
  z-index: 1;
  background: var(--w-paper);
}
.tool {
  min-inline-size: 28px;
  padding: 4px 6px;
  text-align: center;
  font-size: 12px;
  line-height: 16px;
  color: var(--w-ink2);
  border-radius: 2px;
}
.tool:hover,
.tool[aria-pressed='true'] {
  background: var(--w-accent-wash);
  color: var(--w-accent-press);
}
.pop {
  display: grid;
  gap: 8px;
}
.pop p,
.hint {
  margin: 0 0 8px;
  font-size: 12px;
}
.paper-words :deep(.ProseMirror) {
  min-block-size: 84px;
  padding-block: 8px;
  outline: none;
}
.paper-words :deep(.ProseMirror:focus-visible) {
  box-shadow: 0 2px 0 var(--w-accent);
}
.paper-words :deep(p) {
  margin: 0 0 12px;
}
.paper-words :deep(h2) {
  margin: 16px 0 8px;
  font-size: 20px;
  line-height: 28px;
}
.paper-words :deep(h3) {
  margin: 12px 0 8px;
  font-size: 17px;
}
.paper-words :deep(blockquote) {
  margin: 0 0 12px;
  padding-inline-start: 16px;
  border-inline-start: 2px solid var(--w-rule);
}
.paper-words :deep(pre) {
  padding: 8px 12px;
  background: var(--w-sunk);
  font: 13px/20px var(--w-code);
}
.paper-words :deep(a[data-entry]) {
  color: var(--w-accent);
  text-decoration: underline dotted;
  text-underline-offset: 3px;
}
.paper-words :deep(.held) {
  margin: 0 0 12px;
  padding: 8px 12px;
  background: var(--w-sunk);
  font: 14px/20px var(--w-interface);
}
.paper-words :deep(.held.ProseMirror-selectednode) {
  outline: 2px solid var(--w-accent);
}
</style>
