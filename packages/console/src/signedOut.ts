import { Service, type SignedIn } from '@wisteria/client'
import { shallowRef } from 'vue'

/** Without the question that `service` asks when nobody is signed in. */
const plain = new Service({ baseUrl: '' })

/** The question to sign in again; there while it is open. */
const question = shallowRef<{ readonly answer: (isSignedIn: boolean) => void }>()
let asked: Promise<boolean> | undefined

/**
 * Asks to sign in again, once for all calls that find out that the session has ended. They wait meanwhile, so that nothing
 * that was typed or begun is lost.
 * @returns whether somebody did.
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
