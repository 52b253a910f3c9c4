<script setup lang="ts">
import { isLinkAddress, shapeOf, type Field, type RichText } from '@wisteria/core'
import { Extension, Mark, mergeAttributes, Node } from '@tiptap/core'
import Code from '@tiptap/extension-code'
import { UniqueID } from '@tiptap/extension-unique-id'
import StarterKit from '@tiptap/starter-kit'
import { EditorContent, useEditor } from '@tiptap/vue-3'
import { ElButton, ElInput } from 'element-plus'
import { computed, ref, watch } from 'vue'
import PopPanel from '../components/PopPanel.vue'
import { useWorkingCopy } from '../editor/workingCopy'
import AssetControl from './AssetControl.vue'
import type { ControlProps } from './control'
import EntryControl from './EntryControl.vue'
import { cleanPasted } from './pasted'
import { blockNodes, fromNodes, newBlockId, toNodes, type EditorNode } from './richTextNodes'
import { t } from '../messages'

const props = defineProps<ControlProps>()
const emit = defineEmits<{ change: [value: unknown] }>()
const { site } = useWorkingCopy()
const accepts = computed(() => {
  const shape = shapeOf(props.field)
  return shape.is === 'richText' ? shape.entries : []
})

/** The title of a reference's target, shown inside the text once it is loaded. */
const names = new Map<string, string>()
async function nameOf(what: 'entry' | 'asset', id: string): Promise<string> {
  const cached = names.get(id)
  if (cached !== undefined) return cached
  const name = await (
    what === 'entry'
      ? site.editor.entry(id).then((target) => target.title)
      : site.editor.asset(id).then((target) => target.name)
  ).catch(() => t('controls.gone'))
  names.set(id, name)
  return name
}

/** A reference, as a block of its own or in running text. */
const reference = (what: 'entry' | 'asset', sign: string, isInline: boolean) => {
  const element = isInline ? 'span' : 'div'
  const capital = what === 'entry' ? t('controls.entry') : t('controls.asset')
  return Node.create({
    name: `${isInline ? 'inline' : 'held'}${capital}`,
    group: isInline ? 'inline' : 'block',
    inline: isInline,
    atom: true,
    addAttributes: () => ({ [what]: { default: '' } }),
    parseHTML: () => [
      {
        tag: `${element}[data-held-${what}]`,
        getAttrs: (element) => ({ [what]: element.getAttribute(`data-held-${what}`) }),
      },
    ],
    renderHTML: ({ node, HTMLAttributes }) => [
      element,
      mergeAttributes(HTMLAttributes, { [`data-held-${what}`]: String(node.attrs[what]) }),
    ],
    addNodeView:
      () =>
      ({ node }) => {
        const dom = document.createElement(element)
        dom.className = isInline ? 'held-inline' : 'held'
        dom.textContent = `${sign} …`
        void nameOf(what, String(node.attrs[what])).then((name) => (dom.textContent = `${sign} ${name}`))
        return { dom }
      },
  })
}

const referenceLink = (what: 'entry' | 'asset') =>
  Mark.create({
    name: `${what}Link`,
    inclusive: false,
    addAttributes: () => ({ [what]: { default: '' } }),
    parseHTML: () => [
      { tag: `a[data-${what}]`, getAttrs: (element) => ({ [what]: element.getAttribute(`data-${what}`) }) },
    ],
    renderHTML: ({ HTMLAttributes }) => ['a', { [`data-${what}`]: String(HTMLAttributes[what]) }, 0],
  })

/** The parts of blocks that are not shown while writing. */
const kept = Extension.create({
  name: 'kept',
  addGlobalAttributes: () => [
    { types: ['bulletList', 'orderedList', 'listItem'], attributes: { spread: { default: false, rendered: false } } },
    { types: ['codeBlock'], attributes: { meta: { default: null, rendered: false } } },
  ],
})

let shownText = JSON.stringify(props.value ?? null)
const editor = useEditor({
  content: toNodes((props.value as RichText | null | undefined) ?? undefined),
  editable: !props.disabled,
  extensions: [
    StarterKit.configure({
      heading: { levels: [2, 3, 4] },
      underline: false,
      code: false,
      link: { openOnClick: false, autolink: false, isAllowedUri: (address) => isLinkAddress(address) },
    }),
    // Machine text may be bold as well.
    Code.extend({ excludes: '' }),
    referenceLink('entry'),
    referenceLink('asset'),
    reference('entry', '↗', false),
    reference('asset', '▨', false),
    reference('entry', '↗', true),
    reference('asset', '▨', true),
    kept,
    UniqueID.configure({ types: blockNodes, generateID: newBlockId }),
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
    const text = JSON.stringify(document ?? null)
    // A new block got its id, and nothing else.
    if (text === shownText) return
    shownText = text
    emit('change', document)
  },
})
watch(
  () => [JSON.stringify(props.value ?? null), props.locale] as const,
  ([text]) => {
    if (text === shownText) return
    shownText = text
    show(props.value as RichText | null | undefined)
  },
)

/** Shows another document: only differences are replaced, so that writing elsewhere in it goes on. */
function show(document: RichText | null | undefined): void {
  if (!editor.value) return
  const { state, view } = editor.value
  const next = state.schema.nodeFromJSON(toNodes(document ?? undefined))
  const start = state.doc.content.findDiffStart(next.content)
  const end = state.doc.content.findDiffEnd(next.content)
  if (start === null || end === null) return
  // The common beginning and end may overlap, as where a word was doubled.
  const overlap = Math.max(0, start - Math.min(end.a, end.b))
  const change = state.tr.replace(start, end.a + overlap, next.slice(start, end.b + overlap))
  view.dispatch(change.setMeta('addToHistory', false).setMeta('preventUpdate', true))
}
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
  { sign: 'B', label: t('controls.bold'), isOn: () => is('bold'), act: () => chain().toggleBold().run() },
  { sign: 'I', label: t('controls.italics'), isOn: () => is('italic'), act: () => chain().toggleItalic().run() },
  { sign: '<>', label: t('controls.code'), isOn: () => is('code'), act: () => chain().toggleCode().run() },
  { sign: 'S', label: t('controls.struckOut'), isOn: () => is('strike'), act: () => chain().toggleStrike().run() },
  {
    sign: 'H2',
    label: t('controls.heading'),
    isOn: () => is('heading', { level: 2 }),
    act: () => chain().toggleHeading({ level: 2 }).run(),
  },
  {
    sign: 'H3',
    label: t('controls.smallerHeading'),
    isOn: () => is('heading', { level: 3 }),
    act: () => chain().toggleHeading({ level: 3 }).run(),
  },
  { sign: '•', label: t('controls.list'), isOn: () => is('bulletList'), act: () => chain().toggleBulletList().run() },
  {
    sign: '1.',
    label: t('controls.numberedList'),
    isOn: () => is('orderedList'),
    act: () => chain().toggleOrderedList().run(),
  },
  { sign: '“”', label: t('controls.quote'), isOn: () => is('blockquote'), act: () => chain().toggleBlockquote().run() },
  { sign: '—', label: t('controls.rule'), isOn: () => false, act: () => chain().setHorizontalRule().run() },
]

const address = ref('')
const isAddressWrong = computed(() => address.value !== '' && !isLinkAddress(address.value))
function link(): void {
  if (isAddressWrong.value || address.value === '') return
  chain().extendMarkRange('link').setLink({ href: address.value }).run()
  address.value = ''
}
const unlink = () =>
  chain()
    .extendMarkRange('link')
    .unsetLink()
    .extendMarkRange('entryLink')
    .unsetMark('entryLink')
    .extendMarkRange('assetLink')
    .unsetMark('assetLink')
    .run()
const entryField = computed<Field>(() => ({
  ...props.field,
  kind: 'entry',
  many: false,
  label: t('controls.entry'),
  options: { accepts: [...accepts.value] },
}))
const assetField = computed<Field>(() => ({
  ...props.field,
  kind: 'asset',
  many: false,
  label: t('controls.file'),
  options: {},
}))

/** Selected words become a link to the entry; without a selection, a reference is inserted between the paragraphs. */
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
    <div v-if="!disabled" class="tools" role="toolbar" :aria-label="t('controls.formOfWords', { field: field.label })">
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
      <PopPanel :label="t('controls.link')" :width="320">
        <template #reference
          ><button class="plain tool" type="button" :aria-pressed="is('link') || is('entryLink') || is('assetLink')">
            {{ t('controls.link') }}
          </button></template
        >
        <form class="pop" @submit.prevent="link">
          <ElInput v-model="address" :placeholder="t('controls.linkExample')" :aria-label="t('controls.address')" />
          <p v-if="isAddressWrong" class="error-text">{{ t('controls.addressBegins') }}</p>
          <span
            ><ElButton size="small" native-type="submit" :disabled="address === '' || isAddressWrong">{{
              t('controls.linkWords')
            }}</ElButton>
            <ElButton size="small" @click="unlink">{{ t('controls.unlink') }}</ElButton></span
          >
        </form>
      </PopPanel>
      <PopPanel v-if="accepts.length > 0" :label="t('controls.entryMore')" :width="360">
        <template #reference
          ><button class="plain tool" type="button">{{ t('controls.entryMore') }}</button></template
        >
        <p class="quiet hint">{{ t('controls.entryInText') }}</p>
        <EntryControl
          :id="`${id}-entry`"
          :field="entryField"
          :value="undefined"
          :locale="locale"
          :direction="direction"
          @change="putEntry"
        />
      </PopPanel>
      <PopPanel :label="t('controls.fileMore')" :width="360">
        <template #reference
          ><button class="plain tool" type="button">{{ t('controls.fileMore') }}</button></template
        >
        <AssetControl
          :id="`${id}-asset`"
          :field="assetField"
          :value="undefined"
          :locale="locale"
          :direction="direction"
          @change="putAsset"
        />
      </PopPanel>
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
.paper-words :deep(a[data-entry]),
.paper-words :deep(a[data-asset]),
.paper-words :deep(.held-inline) {
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
