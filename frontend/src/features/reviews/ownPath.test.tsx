import { screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { useState } from 'react'
import { beforeEach, describe, expect, it, vi } from 'vitest'

import type { Schemas } from '../../api/client'
import { renderSeated, SEAT } from '../../testSeat'
import { useKept } from '../../ui/useKept'
import { OwnPath } from './OwnPath'
import type { StageGiven } from './useRouteSteps'

const asked = vi.fn()
vi.mock('../../api/client', async (original) => {
  const answer = (path: string) => {
    asked(path)
    if (path.endsWith('/people')) return { members: [{ who: { id: 'a', name: 'Anouk Ferreira', company: 'BHT' }, state: 'active' }], roles: [], companies: [] } // prettier-ignore
    return { stages: [], ends: [], end_trouble: '' }
  }
  return {
    ...(await original<object>()),
    api: {
      GET: (path: string) => Promise.resolve(answer(path)),
      POST: (path: string) => Promise.resolve(answer(path)),
    },
    unwrap: (promised: Promise<unknown>) => promised,
  }
})

const step = { name: 'Look', act: 'comment', whom: [{ kind: 'person', id: 's', words: 'Saoirse Tanaka' }], people: 1, quota: 'any', least: 1, days: 3, counting: 'working', own_allowed: false, sums_up: false, remind: { before: 1, every: 2, lead_after: 3 }, handing_on: true, planned_on: '2027-03-12' } // prettier-ignore
const ROUTE = { id: 'r', name: 'Short', purpose: 'One looks', stages: [{ steps: [step], then: {} }], starters: [], ends: {}, ends_said: [], may_change: false, may_start: true, retired: false, version: 1 } // prettier-ignore

function Page({ route, told }: { route: object; told: (stages: StageGiven[] | null) => void }) {
  const form = useKept('start-review', 'x')
  const [own, setOwn] = useState<StageGiven[] | null>(null)
  const put = (stages: StageGiven[] | null) => {
    setOwn(stages)
    told(stages)
  }
  return <OwnPath form={form} route={route as Schemas['RouteShown']} own={own} onOwn={put} />
}

beforeEach(() => {
  vi.clearAllMocks()
  localStorage.clear()
  SEAT.project.runs = false
})

describe('the path of a review before it is sent', () => {
  it('is the route’s where that is not to be changed', async () => {
    await renderSeated(<Page route={ROUTE} told={vi.fn()} />)
    expect(screen.getByRole('region', { name: 'The path' })).toBeVisible()
    expect(screen.queryByRole('button')).toBeNull()
  })

  it('takes other people where the route says so, and nothing else', async () => {
    const told = vi.fn()
    await renderSeated(<Page route={{ ...ROUTE, may_change: true }} told={told} />)
    await userEvent.click(screen.getByRole('button', { name: 'Put other people in' }))
    expect(screen.queryByLabelText('Step')).toBeNull()
    const whom = await screen.findByRole('combobox', { name: 'Whom: Look' })
    await userEvent.type(whom, 'Anouk')
    await userEvent.click(await screen.findByRole('option', { name: /Anouk/ }))
    expect(told).toHaveBeenLastCalledWith([
      expect.objectContaining({ steps: [expect.objectContaining({ name: 'Look', whom: [{ kind: 'person', id: 's' }, { kind: 'person', id: 'a' }] })] }), // prettier-ignore
    ])
    // What a route would be is tried by those who run the project alone.
    expect(asked).not.toHaveBeenCalledWith('/api/routes/tried')
    await userEvent.click(screen.getByRole('button', { name: 'As the route has it' }))
    expect(told).toHaveBeenLastCalledWith(null)
  })

  it('is written on as a whole by those who run the project', async () => {
    SEAT.project.runs = true
    const told = vi.fn()
    await renderSeated(<Page route={ROUTE} told={told} />)
    await userEvent.click(screen.getByRole('button', { name: 'Change it for this review' }))
    await userEvent.click(screen.getByLabelText('is not handed on'))
    expect(told).toHaveBeenLastCalledWith([
      expect.objectContaining({ steps: [expect.objectContaining({ handing_on: false })] }),
    ])
  })
})
