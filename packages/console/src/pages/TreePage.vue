<script setup lang="ts">
import { ArrowDown, Plus, RefreshLeft } from '@element-plus/icons-vue'
import { ElButton, ElIcon, ElOption, ElSelect } from 'element-plus'
import type { TreeNode } from '@wisteria/client'
import { decide, fieldNamed, mainRegion, shapeOf, typeNamed, type ContentType, type NamedEdit } from '@wisteria/core'
import { computed, nextTick, onMounted, reactive, ref, shallowRef } from 'vue'
import { useActs } from '../acts'
import { useDragging } from '../components/dragging'
import PageTrouble from '../components/PageTrouble.vue'
import StateMark from '../components/StateMark.vue'
import StripBar from '../components/StripBar.vue'
import { regionsOf } from '../counterparts/regionNames'
import { useShortcuts } from '../shortcuts'
import TypeList from '../lists/TypeList.vue'
import { useRoute, useRouter } from 'vue-router'
import { openSite, type Site } from '../session'
import { forestOf, isWithin, linesOf, placeAfter, placeAt, placeOf, type Place } from '../tree/forest'
import { t } from '../messages'
import EntryLink from '../components/EntryLink.vue'

/** The tree of pages: moved by dragging and by keyboard, shown in menus or not. */
const props = defineProps<{ site: string }>()
const route = useRoute()
const router = useRouter()
const opened = shallowRef<Site>()
const nodes = shallowRef<readonly TreeNode[]>([])
const isComplete = ref(true)
const trouble = ref<unknown>()
const isLoaded = ref(false)
const folded = reactive(new Set<string>())

/** The regions of the site, and the one that is shown; it is in the address, so that it stays on reload. */
const regions = computed(() => (opened.value ? regionsOf(opened.value.settings) : []))
const region = computed(() => {
  const asked = route.query['region']
  return typeof asked === 'string' ? asked : mainRegion
})
const shown = computed(() =>
  regions.value.length === 0
    ? nodes.value
    : nodes.value.filter((node) => (node.region ?? region.value) === region.value),
)
const forest = computed(() => forestOf(shown.value))
const lines = computed(() => linesOf(forest.value, folded))
const mayMove = computed(
  () => opened.value !== undefined && decide(opened.value.caller, 'entry.write', { region: region.value }).allowed,
)
const edited = computed(() => shown.value.filter((node) => node.state === 'edited').length)
const editedHere = computed(() =>
  [
    'entry.state = "edited"',
    ...(shown.value.some((node) => node.region !== null) && regions.value.length > 0
      ? [`entry.region = ${JSON.stringify(region.value)}`]
      : []),
  ].join(' and '),
)
const menuFieldOf = (node: TreeNode): string | undefined =>
  opened.value && typeNamed(opened.value.model, node.type)?.menu

async function load(): Promise<void> {
  trouble.value = undefined
  try {
    opened.value ??= await openSite(props.site)
    const tree = await opened.value.editor.tree()
    nodes.value = tree.nodes
    isComplete.value = tree.isComplete
    isLoaded.value = true
  } catch (error) {
    trouble.value = error
  }
}
onMounted(load)

const { result, refused, act } = useActs(() => load())

async function move(node: TreeNode, place: Place | undefined): Promise<void> {
  const before = placeOf(forest.value, node.id)
  if (!place || !before || !mayMove.value) return
  if (place.parent !== null) folded.delete(place.parent)
  await act(
    async () => {
      await opened.value!.editor.place(node.id, place)
      steps.value.push({ node, back: () => opened.value!.editor.place(node.id, before) })
    },
    t('tree.moved', { name: node.title }),
  )
  await focusNode(node)
}

async function focusNode({ id }: TreeNode): Promise<void> {
  await nextTick()
  document.getElementById(`node-${id}`)?.focus()
}

/** Actions on this page that can be undone, the last at the end. */
const steps = ref<{ readonly node: TreeNode; readonly back: () => Promise<unknown> }[]>([])
async function undo(): Promise<void> {
  const step = steps.value.pop()
  if (!step) return
  await act(step.back, t('tree.undone', { name: step.node.title }))
  await focusNode(step.node)
}
useShortcuts({
  // Words in a field are undone by the browser.
  'mod+z': () => steps.value.length > 0 && !(document.activeElement instanceof HTMLInputElement) && undo(),
})

/** The types whose entries can be below a page, or at the root. */
const typesBelow = (node?: TreeNode): ContentType[] =>
  (opened.value?.model.types ?? []).filter((type) => {
    const field = type.parent === undefined ? undefined : fieldNamed(type, type.parent)
    const shape = field && shapeOf(field)
    const accepts = shape?.is === 'reference' && (node === undefined || shape.to.includes(node.type))
    const on = { type: type.name, region: type.regional ? (node?.region ?? region.value) : null, shared: true }
    const mayWrite = decide(opened.value!.caller, 'entry.write', on).allowed
    return accepts && mayWrite && (node !== undefined || type.root !== false)
  })

async function toggleMenu(node: TreeNode): Promise<void> {
  const field = menuFieldOf(node)
  if (!field || !mayMove.value) return
  const setMenu = async (edit: Pick<NamedEdit, 'do'> & { value?: boolean }): Promise<void> => {
    const { version } = await opened.value!.editor.entry(node.id)
    await opened.value!.editor.edit(node.id, version, [{ ...edit, at: [field] } as NamedEdit])
  }
  await act(
    async () => {
      await setMenu({ do: 'set', value: node.inMenu !== true })
      const before = node.inMenu
      steps.value.push({
        node,
        back: () => setMenu(before === null ? { do: 'clear' } : { do: 'set', value: before }),
      })
    },
    t(node.inMenu ? 'tree.willLeaveMenus' : 'tree.willBeInMenus', { name: node.title }),
  )
}

function onKey(event: KeyboardEvent, node: TreeNode, index: number): void {
  const rtl = document.documentElement.dir === 'rtl'
  const [inward, outward] = rtl ? ['ArrowLeft', 'ArrowRight'] : ['ArrowRight', 'ArrowLeft']
  const moves = { ArrowUp: 'up', ArrowDown: 'down', [inward!]: 'in', [outward!]: 'out' } as const
  const { key } = event
  if (event.altKey && key in moves) {
    event.preventDefault()
    void move(node, placeAfter(forest.value, node.id, moves[key as keyof typeof moves] as 'up'))
  } else if (key === 'ArrowUp' || key === 'ArrowDown') {
    event.preventDefault()
    const next = lines.value[index + (key === 'ArrowDown' ? 1 : -1)]
    if (next) document.getElementById(`node-${next.node.id}`)?.focus()
  } else if (key === outward) folded.add(node.id)
  else if (key === inward) folded.delete(node.id)
}

interface Target {
  readonly id: string
  readonly where: 'before' | 'after' | 'below'
}
const {
  dragged,
  place: target,
  from,
  onto,
} = useDragging<TreeNode, Target>(
  (moving, node, event) => {
    if (isWithin(forest.value, node.id, moving.id)) return undefined
    const box = (event.currentTarget as HTMLElement).getBoundingClientRect()
    const share = (event.clientY - box.top) / box.height
    return { id: node.id, where: share < 0.3 ? 'before' : share > 0.7 ? 'after' : 'below' }
  },
  (node, at) => move(node, placeAt(forest.value, at.id, at.where)),
)
</script>

<template>
  <main class="beside-lists" data-region="work">
    <TypeList v-if="opened" :site="opened" />
    <span v-else />
    <section class="tree">
      <h1 class="page-name">{{ t('lists.tree') }}</h1>
      <ElSelect
        v-if="regions.length > 0"
        class="region"
        :model-value="region"
        :aria-label="t('regions.region')"
        @update:model-value="router.replace({ query: { region: $event === mainRegion ? undefined : $event } })"
      >
        <ElOption v-for="{ name, label } in regions" :key="name" :value="name" :label="label" />
      </ElSelect>
      <PageTrouble v-if="trouble" :error="trouble" @again="load" />
      <p v-else-if="isLoaded && shown.length === 0" class="content empty">
        {{ t('tree.empty') }}
      </p>
      <ul v-else role="tree" :aria-label="t('tree.pages')" class="paper nodes">
        <li
          v-for="({ node, below, depth }, index) in lines"
          :id="`node-${node.id}`"
          :key="node.id"
          role="treeitem"
          :aria-level="depth + 1"
          :aria-expanded="below.length > 0 ? !folded.has(node.id) : undefined"
          tabindex="0"
          class="node"
          :class="[target?.id === node.id ? target.where : '', { dragged: dragged?.id === node.id }]"
          :style="{ '--depth': depth }"
          :draggable="mayMove"
          @keydown.self="onKey($event, node, index)"
          v-on="{ ...from(node), ...onto(node) }"
        >
          <button
            v-if="below.length > 0"
            class="plain sign"
            type="button"
            tabindex="-1"
            :aria-label="
              folded.has(node.id) ? t('tree.unfold', { name: node.title }) : t('tree.fold', { name: node.title })
            "
            @click="folded.has(node.id) ? folded.delete(node.id) : folded.add(node.id)"
          >
            <ElIcon :class="{ folded: folded.has(node.id) }" aria-hidden="true"><ArrowDown /></ElIcon>
          </button>
          <span v-else class="sign" />
          <StateMark :state="node.state" />
          <EntryLink :id="node.id" class="title serif" :site="props.site" :title="node.title" />
          <bdi v-if="node.path" class="path" dir="ltr">{{ node.path }}</bdi>
          <span v-if="folded.has(node.id)" class="quiet count">{{ t('tree.below', { count: below.length }) }}</span>
          <RouterLink
            v-for="type in typesBelow(node)"
            :key="type.name"
            class="new-below"
            :to="{
              name: 'new',
              params: { site: props.site, type: type.name },
              query: { parent: node.id, ...(node.region ? { region: node.region } : {}) },
            }"
            :aria-label="t('tree.newBelowNamed', { type: type.label.toLowerCase(), name: node.title })"
            ><ElIcon aria-hidden="true"><Plus /></ElIcon>
            {{ t('tree.newBelow', { type: type.label.toLowerCase() }) }}</RouterLink
          >
          <button
            v-if="menuFieldOf(node)"
            class="plain menu"
            type="button"
            :disabled="!mayMove"
            :aria-pressed="node.inMenu === true"
            :aria-label="`${node.inMenu ? t('tree.inMenus') : t('tree.notInMenus')}: ${node.title}`"
            @click="toggleMenu(node)"
          >
            {{ node.inMenu ? t('tree.inMenus') : t('tree.notInMenus') }}
          </button>
        </li>
      </ul>
      <p v-if="!isComplete" class="quiet">{{ t('tree.tooMany') }}</p>
    </section>
    <aside class="margin quiet">
      <p>
        {{ t('tree.howToMove') }}
      </p>
      <p>{{ t('tree.pathsFollow') }}</p>
    </aside>
  </main>
  <StripBar :result="result">
    <template #start>
      <span v-if="refused" class="error-text" role="alert">{{ refused }}</span>
      <span v-else>{{ t('tree.pageCount', { count: shown.length }) }}</span>
    </template>
    <template #middle>
      <RouterLink
        v-if="edited > 0"
        class="edited"
        :to="{ name: 'entries', params: { site: props.site }, query: { where: editedHere } }"
        ><StateMark state="edited" /> {{ t('tree.edited', { n: edited }) }}</RouterLink
      >
    </template>
    <template #end>
      <ElButton v-if="steps.length > 0" :icon="RefreshLeft" :title="t('tree.undoKey')" @click="undo">{{
        t('common.undo')
      }}</ElButton>
      <ElButton
        v-for="type in typesBelow()"
        :key="type.name"
        type="primary"
        @click="
          router.push({
            name: 'new',
            params: { site: props.site, type: type.name },
            query: type.regional && region !== mainRegion ? { region } : {},
          })
        "
        >{{ t('lists.create', { type: type.label.toLowerCase() }) }}</ElButton
      >
    </template>
  </StripBar>
</template>

<style scoped>
.beside-lists {
  --beside-lists: minmax(0, 704px) 240px;
}
.nodes {
  list-style: none;
  margin: 0 0 40px;
  padding: 8px 0;
}
.node {
  position: relative;
  display: flex;
  align-items: center;
  gap: 8px;
  min-block-size: 40px;
  padding-inline: calc(12px + var(--depth) * 24px) 16px;
}
.node:hover,
.node:focus-within {
  background: var(--w-accent-wash);
}
.node.dragged {
  opacity: 0.4;
}
.node.before {
  box-shadow: inset 0 2px var(--w-accent);
}
.node.after {
  box-shadow: inset 0 -2px var(--w-accent);
}
.node.below {
  outline: 2px solid var(--w-accent);
  outline-offset: -2px;
}
.sign {
  inline-size: 16px;
  color: var(--w-ink3);
}
[dir='rtl'] .sign {
  transform: scaleX(-1);
}
.title {
  font-size: 17px;
  line-height: 24px;
  color: var(--w-ink);
  text-decoration: none;
  white-space: nowrap;
  min-inline-size: 0;
  overflow: hidden;
  text-overflow: ellipsis;
}
.title:hover {
  text-decoration: underline;
}
.region {
  inline-size: 240px;
  margin-block-end: 12px;
}
.path {
  flex: 1 1000 0;
  min-inline-size: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  font: 12px/16px var(--w-code);
  color: var(--w-ink3);
}
/* Shown in the line with the pointer or the focus: a plus in every line would be too much. */
.new-below {
  display: none;
  align-items: center;
  gap: 4px;
  color: var(--w-accent);
}
.node:hover .new-below,
.node:focus-within .new-below {
  display: inline-flex;
}
.count,
.new-below,
.menu {
  font-size: 12px;
  white-space: nowrap;
}
.menu {
  margin-inline-start: auto;
  min-inline-size: 80px;
  text-align: end;
  color: var(--w-ink2);
}
.menu[aria-pressed='true'] {
  color: var(--w-accent);
}
.margin {
  font-size: 13px;
}
.empty {
  padding: 40px 0;
}
.edited {
  display: inline-flex;
  align-items: center;
  gap: 6px;
  color: var(--w-edited);
}
.sign .folded {
  transform: rotate(-90deg);
}
[dir='rtl'] .sign .folded {
  transform: rotate(90deg);
}
@media (max-width: 900px) {
  .nodes {
    margin-block-end: 12px;
  }
  .margin {
    padding-block-end: 24px;
  }
}
@media (max-width: 600px) {
  .node {
    flex-wrap: wrap;
    gap: 0 8px;
    padding-block: 6px;
    padding-inline: calc(8px + var(--depth) * 16px) 8px;
  }
  .title {
    flex: 1;
    white-space: normal;
  }
  /* On a line of its own, below the title. */
  .path {
    flex-basis: 100%;
    order: 1;
    padding-inline-start: 46px;
  }
  .new-below {
    order: 2;
    padding-inline-start: 46px;
  }
}
</style>
