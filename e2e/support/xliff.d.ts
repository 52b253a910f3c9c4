/** The parts of an independent XLIFF library that tests use; it has no types of its own. */
declare module 'xliff' {
  export function xliff2js(xliff: string): Promise<unknown>
  export function js2xliff(resources: unknown): Promise<unknown>
}
