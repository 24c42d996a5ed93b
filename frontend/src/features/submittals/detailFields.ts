import type { Details, Submittal } from './useSubmittals'

/** What is typed of a submittal, as it is typed. */
export interface Fields {
  number: string
  title: string
  kind: string
  company: string
  approver: string
  section: string
  paragraph: string
  description: string
  reference: string
  category: string
  location: string
  milestone: string
  required: string
  planned: string
  lead: string
  leadIn: string
  review: string
  rounds: string
  preparation: string
}

export const EMPTY: Fields = {
  number: '',
  title: '',
  kind: '',
  company: '',
  approver: '',
  section: '',
  paragraph: '',
  description: '',
  reference: '',
  category: '',
  location: '',
  milestone: '',
  required: '',
  planned: '',
  lead: '',
  leadIn: 'working days',
  review: '',
  rounds: '1',
  preparation: '',
}

export function fieldsOf(submittal: Submittal): Fields {
  const { line } = submittal
  return {
    number: line.number,
    title: line.title,
    kind: line.kind,
    company: submittal.company_id,
    approver: submittal.approver?.id ?? '',
    section: line.section,
    paragraph: submittal.paragraph,
    description: submittal.description,
    reference: submittal.reference,
    category: submittal.category,
    location: line.location,
    milestone: line.milestone,
    required: line.required_on ?? '',
    planned: submittal.planned_on ?? '',
    lead: submittal.lead === null ? '' : String(submittal.lead),
    leadIn: submittal.lead_in,
    review: String(submittal.review_days),
    rounds: String(submittal.rounds_expected),
    preparation: String(submittal.preparation),
  }
}

const whole = (text: string) => /^\d{1,4}$/.test(text.trim())

/** Which of the times is not a whole number; only the lead may be left open. */
export function wholeNumbers(fields: Fields): string | false {
  if (fields.lead.trim() && !whole(fields.lead)) return 'The lead time is a whole number.'
  const needed = {
    review: 'The review',
    rounds: 'The rounds',
    preparation: 'Preparing another round',
  } as const
  for (const [field, words] of Object.entries(needed))
    if (!whole(fields[field as keyof typeof needed])) return `${words}: a whole number.`
  return false
}

/** All of it, as it is sent. */
export function detailsOf(fields: Fields): Details {
  return {
    title: fields.title,
    kind: fields.kind,
    company_id: fields.company,
    approver_id: fields.approver,
    section: fields.section,
    paragraph: fields.paragraph,
    description: fields.description,
    reference: fields.reference,
    category: fields.category,
    location: fields.location,
    milestone: fields.milestone,
    required_on: fields.required || null,
    planned_on: fields.planned || null,
    lead: fields.lead.trim() ? Number(fields.lead) : null,
    lead_in: fields.leadIn === 'weeks' ? 'weeks' : 'working days',
    review_days: Number(fields.review),
    rounds: Number(fields.rounds),
    preparation: Number(fields.preparation),
  }
}
