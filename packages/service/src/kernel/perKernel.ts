import type { Kernel } from './kernel.js'

/** State of a room for each running service: made on first use, dropped with the service. */
export function perKernel<State>(make: (kernel: Kernel) => State): (kernel: Kernel) => State {
  const kept = new WeakMap<Kernel, { readonly state: State }>()
  return (kernel) => {
    const cached = kept.get(kernel)
    if (cached) return cached.state
    const state = make(kernel)
    kept.set(kernel, { state })
    return state
  }
}
