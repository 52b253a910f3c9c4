import { backlogs, type Backlog } from '@wisteria/store'
import type { Kernel } from '../kernel/kernel.js'
import type { Metrics } from './metrics.js'

/** Adds how far each webhook is behind. */
export function watchWebhooks(kernel: Kernel, metrics: Metrics): void {
  let reading: ReturnType<typeof backlogs> | undefined
  // All values of one request for metrics come from one question.
  const read = () => (reading ??= backlogs(kernel.database).finally(() => (reading = undefined)))
  const watch = (name: string, help: string, value: (backlog: Backlog) => number): void =>
    metrics.watchEach(name, help, ['site', 'webhook'], async () =>
      (await read()).map((backlog) => [{ site: backlog.site, webhook: backlog.id }, value(backlog)]),
    )
  watch('wisteria_webhook_deliveries_waiting', 'Deliveries that wait for a webhook.', ({ waiting }) => waiting)
  watch('wisteria_webhook_deliveries_failed', 'Deliveries that were given up.', ({ failed }) => failed)
  watch('wisteria_webhook_lag_seconds', 'Since when the oldest delivery waits.', ({ oldest }) =>
    oldest === null ? 0 : Math.max(0, (kernel.now - Date.parse(oldest)) / 1000),
  )
}
