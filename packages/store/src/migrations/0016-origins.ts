/*
 * What the translated units of a revision were made from: a JSON object by locale and unit. Null in revisions of earlier versions: the
 * first save of an entry works it out from what was published (`seedOrigins` in core).
 */
export const name = '0016-origins'

export const statements: readonly string[] = [`alter table revisions add column origins text`]
