/** The start of every secret that messages are signed with, as Standard Webhooks writes it. */
export const secretMark = 'whsec_'
