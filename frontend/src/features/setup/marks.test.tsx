import { screen, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { beforeEach, describe, expect, it, vi } from 'vitest'

import { renderSeated, SEAT } from '../../testSeat'
import { MarksSection } from './MarksSection'

const PUT = vi.fn()
const setup = {
  version: 7,
  mark_inks: { by: 'company', inks: { PLS: 'violet' } },
  disciplines: [
    { code: 'A', words: 'Architecture' },
    { code: 'S', words: 'Structure' },
  ],
  companies: [
    { code: 'PLS', words: 'Plinthwork Structures' },
    { code: 'TRA', words: 'Tallow Reed Architects' },
  ],
  inks: { blue: '#0b5fa5', violet: '#6b3fa0' },
}

vi.mock('../../api/client', async (original) => ({
  ...(await original<object>()),
  api: { PUT: (...asked: unknown[]) => PUT(...asked) as unknown },
  unwrap: (answer: Promise<unknown>) => answer,
}))
vi.mock('./useSetup', async (original) => ({
  ...(await original<object>()),
  useSetup: () => ({ data: setup, error: null }),
}))

beforeEach(() => {
  vi.clearAllMocks()
  PUT.mockResolvedValue({ version: 8 })
  SEAT.project.leads = true
})

const ink = (of: string) => screen.getByLabelText(`Ink of ${of}`)

describe('the colours of marks', () => {
  it('are told by company, and what is changed is saved with the version seen', async () => {
    await renderSeated(<MarksSection />)
    expect(ink('Plinthwork Structures')).toHaveValue('violet')
    expect(ink('Tallow Reed Architects')).toHaveValue('')
    expect(screen.getByRole('button', { name: 'Save' })).toBeDead()
    await userEvent.selectOptions(ink('Tallow Reed Architects'), 'blue')
    await userEvent.click(screen.getByRole('button', { name: 'Save' }))
    expect(PUT).toHaveBeenCalledExactlyOnceWith('/api/projects/{project_id}/mark-inks', {
      params: { path: { project_id: 'bft' } },
      body: { version: 7, by: 'company', inks: { PLS: 'violet', TRA: 'blue' } },
    })
  })

  it('begin anew by discipline, and are back as they were by company', async () => {
    await renderSeated(<MarksSection />)
    const by = screen.getByLabelText('The ink goes by')
    await userEvent.selectOptions(by, 'discipline')
    expect(ink('Structure')).toHaveValue('')
    expect(screen.queryByText('Plinthwork Structures')).toBeNull()
    await userEvent.selectOptions(by, 'company')
    expect(ink('Plinthwork Structures')).toHaveValue('violet')
    await userEvent.selectOptions(by, '')
    expect(screen.queryByRole('table')).toBeNull()
    await userEvent.click(screen.getByRole('button', { name: 'Put back' }))
    expect(within(screen.getByRole('table')).getAllByRole('row')).toHaveLength(3)
  })

  it('are read by those who do not lead', async () => {
    SEAT.project.leads = false
    await renderSeated(<MarksSection />)
    expect(ink('Plinthwork Structures')).toBeDisabled()
    expect(screen.queryByRole('button', { name: 'Save' })).toBeNull()
    expect(screen.getByText('Leads of the project change this.')).toBeInTheDocument()
  })
})
