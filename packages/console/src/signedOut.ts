import { Service, type SignedIn } from '@wisteria/client'
import { shallowRef } from 'vue'

/** Without the dialogue that `service` shows when nobody is signed in. */
const plain = new Service({ baseUrl: '' })

/** The question to sign in again; there while it is open. */
const question = shallowRef<{ readonly answer: (isSignedIn: boolean) => void }>()
let asked: Promise<boolean> | undefined

/**
 * Shows the sign-in dialogue, once for all calls that meet the end of the session. They wait meanwhile, so that nothing is lost.
 * @returns whether the user signed in.
 */
function askToSignIn(): Promise<boolean> {
  asked ??= new Promise<boolean>((resolve) => {
    question.value = {
      answer: (isSignedIn) => {
        question.value = undefined
        asked = undefined
        resolve(isSignedIn)
      },
    }
  })
  return asked
}

/** Signs the same account in again. */
const signInAs = (email: string, password: string): Promise<SignedIn> => plain.signIn({ email, password })

export const signedOut = { question, askToSignIn, signInAs }
