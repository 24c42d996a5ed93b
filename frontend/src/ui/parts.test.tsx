import { screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { describe, expect, it, vi } from 'vitest'

import type { Schemas } from '../api/client'
import { renderSeated } from '../testSeat'
import { ErrorNote, ProgressBar, Weight } from './Notes'
import { Panel } from './Panel'
import { VerdictMark } from './Stamp'
import { Due, When } from './Standing'
import { Details } from './Trail'

describe('dates in lists', () => {
  it.each([
    [{ due_on: '2027-03-05', days_late: 2 }, '5 Mar2 d late'],
    [{ due_on: '2027-03-09', days_late: 0 }, '9 Martoday'],
    [{ due_on: '2028-03-09', days_late: 0 }, '9 Mar 2028'],
    [{ due_on: null, days_late: 0 }, ''],
  ])('%o is shown as %s', async (standing, text) => {
    await renderSeated(<Due standing={standing} />)
    expect(screen.getByTestId('seat')).toHaveTextContent(text)
  })

  it('tell the zone on hovering', async () => {
    await renderSeated(<When at="2027-07-09T08:30:00Z" time />)
    expect(screen.getByText('9 Jul, 09:30')).toHaveAttribute(
      'title',
      expect.stringContaining('British Summer Time'),
    )
  })
})

describe('a finding and a verdict', () => {
  it('have their words, never colour alone', async () => {
    await renderSeated(
      <>
        <Weight weight="same" />
        <VerdictMark code="C" />
        <VerdictMark code="" />
      </>,
    )
    expect(screen.getByText('Same')).toBeInTheDocument()
    expect(screen.getByTitle('revise and resubmit')).toHaveTextContent('Crevise and resubmit')
  })
})

describe('a trail entry', () => {
  const entry: Schemas['Entry'] = {
    seq: 7, at: '2027-03-09T08:00:00Z', who: 'Marit Osei', company: 'HBC', came_from: 'browser', kind: 'revision_filed',
    words: 'filed a revision', subject_kind: 'document', subject_id: 'd', about: 'BFT-1 P02', why: 'agreed by phone',
    private: false, leaf: 'ab', before: { title: 'Old', sha256: null },
    after: { title: 'New', sha256: 'a'.repeat(64), points: [[1, 2]], answers: [{ number: 'BFT-1', verdict: 'A', comment: '' }] },
  } // prettier-ignore

  it('tells before and after in words, and leaves out what no person reads', async () => {
    await renderSeated(<Details entry={entry} />)
    const text = screen.getByTestId('seat').textContent ?? ''
    expect(text).toContain('title Old New')
    expect(text).toContain(`SHA-256  ${'a'.repeat(12)}…`)
    expect(text).toContain('answers BFT-1, A')
    expect(text).toContain('“agreed by phone”')
    expect(text).not.toContain('points')
  })
})

describe('the panel', () => {
  it('shuts with Esc, but not while somebody types', async () => {
    const onClose = vi.fn()
    await renderSeated(
      <Panel label="Dossier" onClose={onClose}>
        <input aria-label="Reply" />
      </Panel>,
    )
    await userEvent.type(screen.getByLabelText('Reply'), 'half a thought{Escape}')
    expect(onClose).not.toHaveBeenCalled()
    await userEvent.click(document.body)
    await userEvent.keyboard('{Escape}')
    expect(onClose).toHaveBeenCalledOnce()
  })

  it('is made wider by keyboard and stays so', async () => {
    await renderSeated(
      <Panel label="Dossier" onClose={() => undefined}>
        text
      </Panel>,
    )
    const handle = screen.getByRole('slider')
    const before = Number(handle.getAttribute('aria-valuenow'))
    handle.focus()
    await userEvent.keyboard('{ArrowLeft}')
    expect(Number(handle.getAttribute('aria-valuenow'))).toBe(before + 24)
    expect(localStorage.getItem('nod.panel.420')).toBe(String(before + 24))
  })
})

it('an error says what happened and gives a way to try again', async () => {
  const again = vi.fn()
  await renderSeated(<ErrorNote error={new Error('The line is dead.')} again={again} />)
  expect(screen.getByRole('alert')).toHaveTextContent('The line is dead.')
  await userEvent.click(screen.getByRole('button', { name: 'Try again' }))
  expect(again).toHaveBeenCalledOnce()
})

it('progress is told in per cent to those who listen', async () => {
  await renderSeated(<ProgressBar done={30} of={120} label="Upload" />)
  expect(screen.getByRole('progressbar', { name: 'Upload' })).toHaveAttribute('aria-valuenow', '25')
})
