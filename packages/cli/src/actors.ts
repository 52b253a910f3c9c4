import { WisteriaProblem, type Editor } from '@wisteria/client'
import { nameOfElsewhere } from '@wisteria/core'

/** The names of members, by `account:…`. Whoever may not see members, and every other actor, gets them as they are. */
export async function actorNames(editor: Editor): Promise<(actor: string) => string> {
  const members = await editor.members().then(
    (answer) => answer.members,
    (error: unknown) => {
      if (error instanceof WisteriaProblem && error.code === 'forbidden') return []
      throw error
    },
  )
  return (actor) =>
    members.find(({ account }) => `account:${account}` === actor)?.name ?? (nameOfElsewhere(actor) || actor)
}
