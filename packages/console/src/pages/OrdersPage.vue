<script setup lang="ts">
import type { OrderItemView, OrderView } from '@wisteria/core'
import { decide } from '@wisteria/core'
import { ElButton, ElProgress } from 'element-plus'
import { onBeforeUnmount, ref, shallowRef, watch } from 'vue'
import { useActs } from '../acts'
import ConfirmButton from '../components/ConfirmButton.vue'
import EntryLink from '../components/EntryLink.vue'
import PageTrouble from '../components/PageTrouble.vue'
import RowTable from '../components/RowTable.vue'
import StripBar from '../components/StripBar.vue'
import { useSettings } from '../site/settingsPage'
import { nameOfActor } from '../session'
import { ago, moment } from '../times'
import { t } from '../messages'

/** Orders for translations from machines and agencies: how far each is, and the result for each entry. */
const props = defineProps<{ site: string }>()
const { site, content, trouble, load } = useSettings(props.site, async ({ editor }) => {
  const [{ orders }, { connectors }, { rules }] = await Promise.all([
    editor.ordering.orders(),
    editor.ordering.connectors(),
    editor.ordering.rules(),
  ])
  return { orders, connectors, rules }
})
const { result, refused, act } = useActs(load)

/** The order whose entries are shown. */
const shown = ref<string>()
const items = shallowRef<readonly OrderItemView[]>([])
const next = ref<number | null>(null)
async function loadItems(after?: number): Promise<void> {
  if (shown.value === undefined || !site.value) return
  const page = await site.value.editor.ordering.orderEntries(shown.value, after)
  items.value = after === undefined ? page.entries : [...items.value, ...page.entries]
  next.value = page.next
}
async function show(order: string): Promise<void> {
  shown.value = shown.value === order ? undefined : order
  items.value = []
  await loadItems()
}

/** How often a running order is asked about, in milliseconds. */
const pause = 1500
let timer: ReturnType<typeof setTimeout> | undefined
watch(content, (now) => {
  clearTimeout(timer)
  if (!now?.orders.some(({ state }) => state === 'running')) return
  timer = setTimeout(() => {
    void load()
    void loadItems()
  }, pause)
})
onBeforeUnmount(() => clearTimeout(timer))

const connectorOf = ({ connector }: OrderView): string =>
  content.value?.connectors.find(({ id }) => id === connector)?.label ?? ''
const byWhom = ({ rule, actor }: OrderView): string =>
  rule === null
    ? nameOfActor(site.value!, actor)
    : t('ordering.byRule', { label: content.value?.rules.find(({ id }) => id === rule)?.label ?? '' })
const percentOf = ({ done, failed, total }: OrderView): number => Math.round((100 * (done + failed)) / total)
const may = ({ locale }: OrderView): boolean =>
  site.value !== undefined && decide(site.value.caller, 'entry.translate', { locales: [locale] }).allowed
const retry = ({ id }: OrderView) =>
  act(async () => {
    await site.value!.editor.ordering.retryOrder(id)
    await loadItems()
  }, t('ordering.sentAgain'))
const stop = ({ id }: OrderView) => act(() => site.value!.editor.ordering.stopOrder(id), t('ordering.stopped'))
</script>

<template>
  <main class="table-page" data-region="work">
    <header>
      <h1 class="page-name">{{ t('ordering.orders') }}</h1>
      <nav class="pages">
        <RouterLink :to="{ name: 'connectors', params: { site: props.site } }">{{
          t('settings.connectors')
        }}</RouterLink>
        <RouterLink :to="{ name: 'translations', params: { site: props.site } }">{{
          t('translating.board')
        }}</RouterLink>
      </nav>
    </header>
    <PageTrouble v-if="trouble" :error="trouble" @again="load" />
    <div v-else-if="content" class="paper scroll" tabindex="0" role="region" :aria-label="t('ordering.orders')">
      <p v-if="refused" class="error-text" role="alert">{{ refused }}</p>
      <p v-if="content.orders.length === 0" class="content">{{ t('ordering.noOrders') }}</p>
      <RowTable
        v-else
        :heads="[
          t('ordering.when'),
          t('ordering.connector'),
          t('ordering.into'),
          t('ordering.howFar'),
          t('ordering.words'),
        ]"
        has-actions
      >
        <template v-for="order in content.orders" :key="order.id">
          <tr>
            <th scope="row">
              <button class="plain link" type="button" :aria-expanded="shown === order.id" @click="show(order.id)">
                <time :datetime="order.createdAt" :title="moment(order.createdAt)">{{ ago(order.createdAt) }}</time>
              </button>
              <span class="quiet by"
                ><bdi>{{ byWhom(order) }}</bdi></span
              >
            </th>
            <td>
              <bdi>{{ connectorOf(order) }}</bdi>
            </td>
            <td>
              <bdi>{{ order.locale }}</bdi><span v-if="order.publish" class="quiet by">{{
                t('ordering.isPublished')
              }}</span>
            </td>
            <td>
              <ElProgress
                v-if="order.state === 'running'"
                :percentage="percentOf(order)"
                :format="() => t('common.entriesDone', { done: order.done + order.failed, total: order.total })"
              />
              <span v-else-if="order.state === 'stopped'">{{
                t('ordering.stoppedAt', { done: order.done, total: order.total })
              }}</span>
              <span v-else>{{ t('ordering.translated', { n: order.done }) }}</span>
              <span v-if="order.failed > 0" class="error-text by">{{ t('ordering.failed', { n: order.failed }) }}</span>
            </td>
            <td>{{ order.words }}</td>
            <td class="actions">
              <template v-if="may(order)">
                <ElButton v-if="order.failed > 0 && order.state !== 'stopped'" size="small" @click="retry(order)">{{
                  t('ordering.retry')
                }}</ElButton>
                <ConfirmButton
                  v-if="order.state === 'running'"
                  :label="t('ordering.stopMore')"
                  :question="t('ordering.stopQuestion')"
                  :verb="t('ordering.stop')"
                  @confirm="stop(order)"
                />
              </template>
            </td>
          </tr>
          <tr v-if="shown === order.id" class="inside">
            <td colspan="6">
              <ul>
                <li v-for="item in items" :key="item.position">
                  <EntryLink :id="item.entry" class="serif" :site="props.site" :title="item.title || item.entry" />
                  <span :class="{ 'error-text': item.state === 'failed' }">{{
                    t(`ordering.states.${item.state}`)
                  }}</span>
                  <span class="quiet"
                    >{{ item.message }}
                    <template v-if="item.state === 'waiting' && item.attempts > 0 && item.nextAt">{{
                      t('ordering.nextAttempt', { when: moment(item.nextAt) })
                    }}</template></span
                  >
                </li>
              </ul>
              <button v-if="next !== null" class="plain link" type="button" @click="loadItems(next)">
                {{ t('common.showMore') }}
              </button>
            </td>
          </tr>
        </template>
      </RowTable>
    </div>
  </main>
  <StripBar :result="result" />
</template>

<style scoped>
.scroll {
  align-self: start;
  max-block-size: 100%;
  overflow: auto;
  padding: 16px 24px 24px;
}
.by {
  display: block;
  font-size: 13px;
}
.inside td {
  padding-block-start: 0;
}
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  display: grid;
  grid-template-columns: minmax(160px, 1fr) 110px minmax(0, 2fr);
  gap: 4px 16px;
  padding-block: 4px;
}
.plain.link {
  color: var(--w-accent);
}
@media (max-width: 880px) {
  .table-page {
    padding: 16px 8px 0;
  }
  .scroll {
    padding-inline: 12px;
  }
  li {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
