const alphabet = '0123456789abcdefghjkmnpqrstvwxyz'

/** The inputs that a rule needs from outside: time and randomness are arguments, never read from within. */
export interface Environment {
  /** Milliseconds since the epoch. */
  readonly now: () => number
  /** That many random bytes. */
  readonly random: (bytes: number) => Uint8Array
}

/** 20 lowercase base32 characters: 50 bits of time, then 50 of chance, so that ids sort by when they were made. */
export function makeId({ now, random }: Environment): string {
  let time = now()
  let head = ''
  for (let index = 0; index < 10; index++) {
    head = alphabet[time % 32]! + head
    time = Math.floor(time / 32)
  }
  return head + letters(random(10))
}

/** Another id of the same time. @param bytes ten of them. */
export const idOfSameTime = (id: string, bytes: Uint8Array): string => id.slice(0, 10) + letters(bytes.subarray(0, 10))

/** The stable name of a block or list item inside an entry: 8 base32 characters, unique in its entry. */
export function makeItemId({ random }: Pick<Environment, 'random'>): string {
  return letters(random(8))
}

const letters = (bytes: Uint8Array): string => Array.from(bytes, (byte) => alphabet[byte % 32]).join('')

export const idPattern = /^[0-9a-z]{20}$/
export const itemIdPattern = /^[A-Za-z0-9_-]{1,40}$/
