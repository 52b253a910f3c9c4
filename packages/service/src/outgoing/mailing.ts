import { createTransport } from 'nodemailer'
import type { Kernel } from '../kernel/kernel.js'

/** A mail in plain text. */
export interface OutgoingMail {
  readonly to: readonly string[]
  readonly subject: string
  readonly text: string
  /** The same for each attempt: it is in the `Message-ID`, so that a mail server can tell that it has it already. */
  readonly id: string
}

/** What the mail server answered. */
export interface MailOutcome {
  /** Its reply code (RFC 5321), 250 where it took the mail; null where there was none. */
  readonly code: number | null
  readonly answer: string
}

const timeoutMilliseconds = 15_000

/** Hands a mail to the mail server of the service. It never rejects. */
export async function sendMail(
  { options: { mailServer, mailFrom }, ending }: Pick<Kernel, 'options' | 'ending'>,
  { to, subject, text, id }: OutgoingMail,
): Promise<MailOutcome> {
  const transport = createTransport({
    url: mailServer,
    connectionTimeout: timeoutMilliseconds,
    greetingTimeout: timeoutMilliseconds,
    socketTimeout: timeoutMilliseconds,
    disableFileAccess: true,
    disableUrlAccess: true,
  })
  const close = () => transport.close()
  ending.signal.addEventListener('abort', close)
  try {
    const domain = mailFrom.split('@').at(-1)!
    const sent = await transport.sendMail({
      from: mailFrom,
      to: [...to],
      subject,
      text,
      messageId: `<${id}@${domain}>`,
      // So that no holiday notice answers it (RFC 3834).
      headers: { 'Auto-Submitted': 'auto-generated' },
    })
    return { code: 250, answer: String(sent.response) }
  } catch (error) {
    const { responseCode, message } = error as Error & { readonly responseCode?: number }
    return { code: responseCode ?? null, answer: message }
  } finally {
    ending.signal.removeEventListener('abort', close)
    transport.close()
  }
}
