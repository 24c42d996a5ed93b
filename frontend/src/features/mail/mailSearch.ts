export const MAIL_TABS = ['held', 'taken', 'back'] as const
export type MailTab = (typeof MAIL_TABS)[number]

/** Which mails are listed, and which of them is open. */
export interface MailSearch {
  tab?: MailTab | undefined
  mail?: string | undefined
}
