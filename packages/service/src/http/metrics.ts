import { collectDefaultMetrics, Counter, Gauge, Histogram, Registry } from 'prom-client'
import { perKernel } from '../kernel/perKernel.js'

/** Metrics of the running service, in Prometheus' text format. */
export class Metrics {
  readonly registry = new Registry()
  readonly #reads = new Counter({
    name: 'wisteria_reads_total',
    help: 'Requests of the Read API, by how they were answered.',
    labelNames: ['answered'],
    registers: [this.registry],
  })
  /** Each counted for itself: looking a label up costs more than counting. */
  readonly hit = this.#reads.labels('from_cache')
  readonly notModified = this.#reads.labels('not_modified')
  readonly fresh = this.#reads.labels('fresh')
  readonly refused = this.#reads.labels('refused')
  readonly #duration = new Histogram({
    name: 'wisteria_fresh_read_seconds',
    help: 'Time taken by reads that were not answered from the cache.',
    buckets: [0.001, 0.0025, 0.005, 0.01, 0.025, 0.05, 0.1, 0.25, 1, 5],
    registers: [this.registry],
  })

  /** Adds a value that is read on each request for metrics. */
  watch(name: string, help: string, value: () => number): void {
    new Gauge({
      name,
      help,
      registers: [this.registry],
      collect() {
        this.set(value())
      },
    })
  }

  /** Adds a value for each of several things, which are read on each request for metrics. */
  watchEach<Label extends string>(
    name: string,
    help: string,
    labels: readonly Label[],
    values: () => Promise<readonly (readonly [labels: Readonly<Record<Label, string>>, value: number])[]>,
  ): void {
    new Gauge({
      name,
      help,
      labelNames: [...labels],
      registers: [this.registry],
      async collect() {
        this.reset()
        for (const [labels, value] of await values()) this.set(labels, value)
      },
    })
  }

  took(milliseconds: number): void {
    this.fresh.inc()
    this.#duration.observe(milliseconds / 1000)
  }

  /** Also measures the process as a whole: memory, the event loop. */
  watchProcess(): void {
    collectDefaultMetrics({ register: this.registry })
  }
}

export const metricsOf = perKernel(() => new Metrics())
