/** Whether everything is tried at length: `npm test -- --full`. */
export const isFull = process.env['WISTERIA_TEST_FULL'] === '1'

/** How often something is tried: as often as every run of the tests has time for, or as often as the whole run has. */
export const often = (usual: number, full: number): number => (isFull ? full : usual)
