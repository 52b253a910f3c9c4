const prefix = 'elsewhere:'

/** The actor that stands for somebody of another service, whose content was imported. */
export const elsewhere = (name: string): string => prefix + name

/** The name of somebody of another service; undefined for actors of this one. */
export const nameOfElsewhere = (actor: string): string | undefined =>
  actor.startsWith(prefix) ? actor.slice(prefix.length) : undefined
