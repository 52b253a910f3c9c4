<script setup lang="ts">
import type { AdoptedModel } from '@wisteria/client'
import { decide } from '@wisteria/core'
import { ElButton, ElInput } from 'element-plus'
import { computed, nextTick, onMounted, ref, shallowRef } from 'vue'
import ConsequencesSheet from '../model/ConsequencesSheet.vue'
import { useRouter } from 'vue-router'
import PageTrouble from '../components/PageTrouble.vue'
import StripBar from '../components/StripBar.vue'
import ModelHistory from '../model/ModelHistory.vue'
import ModelStrip from '../model/ModelStrip.vue'
import { boxWidth, layOut, neighbourOf, type Box, type Direction, type Link } from '../model/mapLayout'
import { openDraft, type ModelDraft } from '../model/modelDraft'
import { openSite, type Site } from '../session'
import { t } from '../messages'
import MessageText from '../components/MessageText.vue'

/** All types and blocks, and their references. */
const props = defineProps<{ site: string }>()
const router = useRouter()
const opened = shallowRef<Site>()
const draft = shallowRef<ModelDraft>()
const history = shallowRef<readonly AdoptedModel[]>([])
const trouble = shallowRef<unknown>()
const chosen = ref<string>()
/** A list where a map would not fit. */
const isList = ref(matchMedia('(max-width: 600px)').matches)
const making = ref<'type' | 'block'>()
const label = ref('')

async function load(): Promise<void> {
  trouble.value = undefined
  try {
    const site = await openSite(props.site)
    draft.value = await openDraft(site)
    history.value = (await site.editor.modelHistory()).models
    opened.value = site
  } catch (error) {
    trouble.value = error
  }
}
onMounted(load)

/** The version to go back to. */
const backTo = ref<number>()
const isGoingBack = ref(false)
function goBack(version: number): void {
  backTo.value = version
  void nextTick(() => (isGoingBack.value = true))
}
const mayChange = computed(() => opened.value !== undefined && decide(opened.value.caller, 'model.change').allowed)
const map = computed(() => (draft.value ? layOut(draft.value.model.value) : undefined))
const isEmpty = computed(() => draft.value?.sources.length === 0)
/** The box under the pointer, and those that it is linked with. */
const lit = computed(
  () =>
    new Set(
      (map.value?.links ?? []).flatMap(({ from, to }) =>
        from === chosen.value || to === chosen.value ? [from, to] : [],
      ),
    ),
)
const isLit = ({ from, to }: Link): boolean => from === chosen.value || to === chosen.value
const addressOf = (box: Box) => ({
  name: 'model-type',
  params: { site: props.site, kind: box.isBlock ? 'block' : 'type', type: box.owner.name },
})
const changed = (box: Box): boolean =>
  (draft.value?.changes.value ?? []).some(
    (consequence) => consequence.place === box.owner.name || consequence.place.startsWith(box.owner.name + '.'),
  )
const leadsTo = (box: Box): string =>
  (map.value?.links ?? [])
    .filter((link) => link.from === box.id)
    .map((link) =>
      t('model.leadsTo', {
        fields: link.fields.join(', '),
        type: map.value!.boxes.find((candidate) => candidate.id === link.to)?.owner.label ?? '',
      }),
    )
    .join('; ')

const keys: Record<string, Direction> = { ArrowLeft: 'left', ArrowRight: 'right', ArrowUp: 'up', ArrowDown: 'down' }
function onKey(event: KeyboardEvent, box: Box): void {
  const direction = keys[event.key]
  if (!direction || !map.value) return
  event.preventDefault()
  const next = neighbourOf(map.value, box.id, direction)
  if (next) document.getElementById(`box-${next}`)?.focus()
}

function make(): void {
  const name =
    making.value === 'type' ? draft.value?.addType(label.value.trim()) : draft.value?.addBlock(label.value.trim())
  if (name) void router.push({ name: 'model-type', params: { site: props.site, kind: making.value, type: name } })
}
const points = (all: readonly (readonly [number, number])[]): string => all.map(([x, y]) => `${x},${y}`).join(' ')
/** Names of fields, as many as there is room for beside a line. */
const shortened = (fields: readonly string[]): string => {
  const text = fields.join(', ')
  return text.length > 17 ? `${text.slice(0, 16)}…` : text
}
</script>

<template>
  <main class="work" data-region="work">
    <PageTrouble v-if="trouble" :error="trouble" @again="load" />
    <template v-else-if="draft && map && opened">
      <section class="map">
        <header>
          <h1 class="serif">
            {{ t('model.typeCount', { n: draft.model.value.types.length }) }},
            {{ t('model.blockTypeCount', { n: draft.model.value.blockTypes.length }) }}
          </h1>
          <button class="plain link" type="button" :aria-pressed="isList" @click="isList = !isList">
            {{ isList ? t('model.showMap') : t('model.showList') }}
          </button>
        </header>
        <p v-if="isEmpty" class="empty content">
          <MessageText of="model.noModel"
            ><template #command><code>wisteria model adopt FOLDER</code></template></MessageText
          >
        </p>
        <ul v-if="isList" class="list">
          <li v-for="box in map.boxes" :key="box.id">
            <RouterLink :to="addressOf(box)">{{ box.owner.icon }} {{ box.owner.label }}</RouterLink>
            <code>{{ box.owner.name }}</code>
            <span class="quiet">
              {{ t(box.isBlock ? 'model.blockTypeFields' : 'model.typeFields', { n: box.owner.fields.length }) }}
              {{ leadsTo(box) }}</span
            >
          </li>
        </ul>
        <div v-else class="drawing" dir="ltr" :style="{ inlineSize: `${map.width}px`, blockSize: `${map.height}px` }">
          <svg :viewBox="`0 0 ${map.width} ${map.height}`" :width="map.width" :height="map.height" aria-hidden="true">
            <defs>
              <marker
                id="end"
                viewBox="0 0 8 8"
                refX="7"
                refY="4"
                markerUnits="userSpaceOnUse"
                markerWidth="8"
                markerHeight="8"
                orient="auto"
              >
                <path d="M0 0 L8 4 L0 8 z" class="tip" />
              </marker>
            </defs>
            <g
              v-for="line in map.lines"
              :key="`${line.from} ${line.to}`"
              :class="{ lit: isLit(line), dim: chosen && !isLit(line) }"
            >
              <polyline :points="points(line.points)" marker-end="url(#end)" />
              <text :x="line.label.at[0]" :y="line.label.at[1]" :text-anchor="line.label.anchor">
                {{ isLit(line) ? line.fields.join(', ') : shortened(line.fields) }}
              </text>
            </g>
          </svg>
          <h2
            v-if="draft.model.value.blockTypes.length > 0"
            class="caption"
            :style="{ insetBlockStart: `${map.blocksAt}px` }"
          >
            {{ t('model.blockTypes') }}
          </h2>
          <RouterLink
            v-for="box in map.boxes"
            :id="`box-${box.id}`"
            :key="box.id"
            :to="addressOf(box)"
            class="box"
            :class="{
              block: box.isBlock,
              changed: changed(box),
              lit: lit.has(box.id),
              dim: chosen && !lit.has(box.id) && chosen !== box.id,
            }"
            :style="{
              insetInlineStart: `${box.x}px`,
              insetBlockStart: `${box.y}px`,
              inlineSize: `${boxWidth}px`,
              blockSize: `${box.height}px`,
            }"
            @focus="chosen = box.id"
            @blur="chosen = undefined"
            @mouseenter="chosen = box.id"
            @mouseleave="chosen = undefined"
            @keydown="onKey($event, box)"
          >
            <b class="serif">{{ box.owner.icon }} {{ box.owner.label }}</b>
            <span
              ><code>{{ box.owner.name }}</code> {{ box.owner.fields.length
              }}{{ 'cardinality' in box.owner && box.owner.cardinality === 'one' ? t('model.one') : '' }}</span
            ><span class="visually-hidden"
              >{{ box.isBlock ? t('model.blockTypeOnly') : t('model.typeOnly') }} {{ leadsTo(box) }}</span
            >
          </RouterLink>
        </div>
      </section>
      <ModelHistory class="history" :site="opened" :versions="history" :may-change="mayChange" @go-back="goBack" />
    </template>
  </main>
  <ConsequencesSheet
    v-if="draft && opened && backTo !== undefined"
    v-model="isGoingBack"
    :draft="draft"
    :site="opened"
    :version="backTo"
    @adopted="load"
  />
  <ModelStrip v-if="draft && opened" :draft="draft" :site="opened" @adopted="load">
    <template v-if="mayChange" #middle>
      <form v-if="making" class="making" @submit.prevent="make">
        <ElInput
          v-model="label"
          size="small"
          autofocus
          :placeholder="making === 'type' ? t('model.typeExample') : t('model.blockTypeExample')"
          :aria-label="making === 'type' ? t('model.labelOfType') : t('model.labelOfBlockType')"
          @keydown.esc="making = undefined"
        />
        <ElButton size="small" native-type="submit" :disabled="!/^\s*[A-Za-z]/.test(label)">{{
          t('model.create')
        }}</ElButton>
      </form>
      <template v-else>
        <ElButton size="small" @click="((making = 'type'), (label = ''))">{{ t('model.createType') }}</ElButton>
        <ElButton size="small" @click="((making = 'block'), (label = ''))">{{ t('model.createBlockType') }}</ElButton>
      </template>
    </template>
  </ModelStrip>
  <StripBar v-else />
</template>

<style scoped>
.work {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 272px;
  gap: 24px;
  overflow: hidden;
}
.map,
.history {
  overflow: auto;
  padding: 16px 24px;
}
header {
  display: flex;
  align-items: baseline;
  gap: 16px;
}
h1 {
  font-size: 20px;
  line-height: 28px;
}
.link {
  color: var(--w-accent);
  text-decoration: underline;
}
.drawing {
  position: relative;
}
svg {
  position: absolute;
  inset: 0;
}
polyline {
  fill: none;
  stroke: var(--w-ink3);
  stroke-width: 1.25;
}
text {
  fill: var(--w-ink2);
  font-size: 11px;
  paint-order: stroke;
  stroke: var(--w-ground);
  stroke-width: 4px;
}
.caption {
  position: absolute;
  inset-inline-start: 24px;
  color: var(--w-ink2);
}
.lit polyline {
  stroke: var(--w-accent);
  stroke-width: 2;
}
.lit text {
  fill: var(--w-accent);
}
g.dim {
  opacity: 0.2;
}
.tip {
  fill: var(--w-ink3);
}
.box {
  position: absolute;
  display: grid;
  align-content: center;
  padding: 4px 12px;
  background: var(--w-paper);
  border: 1px solid var(--w-rule);
  border-radius: 4px;
  color: var(--w-ink);
  text-decoration: none;
  line-height: 20px;
}
.box.block {
  border-style: dashed;
}
.box.changed {
  border-inline-start: 4px solid var(--w-edited);
}
.box.dim {
  opacity: 0.55;
}
.box.lit {
  border-color: var(--w-accent);
}
.box:hover,
.box:focus {
  background: var(--w-accent-wash);
}
.box b {
  font-weight: 600;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
.box span {
  font-size: 12px;
  color: var(--w-ink3);
  white-space: nowrap;
  overflow: hidden;
}
.box code {
  font-size: 12px;
}
.list {
  padding: 0;
  list-style: none;
}
.list code {
  margin-inline: 8px;
}
.list li {
  padding-block: 6px;
  border-block-end: 1px solid var(--w-hair);
}
.making {
  display: flex;
  gap: 8px;
}
.empty {
  max-inline-size: 640px;
}
@media (max-width: 1100px) {
  .work {
    grid-template-columns: minmax(0, 1fr);
    grid-auto-rows: max-content;
    gap: 0;
    overflow: auto;
  }
  .map {
    overflow-y: hidden;
  }
}
@media (max-width: 600px) {
  .map,
  .history {
    padding-inline: 16px;
  }
  header {
    flex-wrap: wrap;
    gap: 0 16px;
  }
}
</style>
