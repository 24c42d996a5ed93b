import { cleanup, screen, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { beforeEach, describe, expect, it, vi } from 'vitest'

import { renderSeated, SEAT } from '../../testSeat'
import { RoutesPage } from './RoutesPage'

const calls = vi.fn()
const saoirse = { id: 's', name: 'Saoirse Tanaka', company: 'TRA', job: '' }
const step = {
  name: 'Decide',
  act: 'decide',
  people: [saoirse],
  days: 2,
  counting: 'working',
  planned_on: '2027-03-11',
}
const routes = [
  { id: 'r1', name: 'Short', purpose: 'One decides', steps: [step], retired: false, version: 4 },
  { id: 'r2', name: 'Old', purpose: '', steps: [step, step], retired: true, version: 2 },
]
const answer = (path: string, body?: { steps: { people: string[] }[] }) => {
  if (path === '/api/routes') return routes
  if (path === '/api/routes/tried')
    return {
      steps: body?.steps.map(({ people }) => ({
        ends_on: '2027-03-11',
        trouble: people.length ? '' : 'Nobody is named for it.',
      })),
    }
  if (path.endsWith('/people')) return { members: [{ who: saoirse, state: 'active' }] }
  return {}
}

vi.mock('../../api/client', async (original) => {
  const ask =
    (method: string) =>
    (path: string, more?: { body?: { steps: { people: string[] }[] } }): Promise<unknown> => {
      calls(method, path, more)
      return Promise.resolve(answer(path, more?.body))
    }
  return {
    ...(await original<object>()),
    api: { GET: ask('GET'), POST: ask('POST'), PUT: ask('PUT') },
    unwrap: (asked: Promise<unknown>) => asked,
  }
})

beforeEach(() => {
  vi.clearAllMocks()
  localStorage.clear()
  SEAT.project.runs = true
})

const open = async (name: RegExp) => userEvent.click(await screen.findByRole('button', { name }))
const asked = (method: string, path: string) =>
  calls.mock.calls
    .filter(([how, where]) => how === method && where === path)
    .map(([, , more]) => more as unknown)

describe('the routes of a project', () => {
  it('are changed under the version that was seen', async () => {
    await renderSeated(<RoutesPage />)
    await open(/^Short/)
    const purpose = screen.getByLabelText('What it is for')
    await userEvent.clear(purpose)
    await userEvent.type(purpose, 'One decides alone')
    await userEvent.click(await screen.findByRole('button', { name: 'Save the route' }))
    expect(asked('PUT', '/api/routes/{route_id}')).toEqual([
      {
        params: { path: { route_id: 'r1' } },
        body: {
          name: 'Short',
          purpose: 'One decides alone',
          version: 4,
          steps: [{ name: 'Decide', act: 'decide', people: ['s'], days: 2, counting: 'working' }],
        },
      },
    ])
  })

  it('are not written over what another saved while one wrote', async () => {
    await renderSeated(<RoutesPage />)
    await open(/^Short/)
    await userEvent.type(screen.getByLabelText('What it is for'), ', today')
    const days = screen.getByLabelText('Within')
    await userEvent.clear(days)
    await userEvent.type(days, '10')
    expect(days).toHaveValue(10)
    const draft =
      Object.keys(localStorage).find((key) => localStorage.getItem(key)?.includes(', today')) ?? ''
    // Somebody has saved since: the page opened again has their version.
    const kept = localStorage.getItem(draft)?.replace('"seen":4', '"seen":3') ?? ''
    cleanup()
    localStorage.setItem(draft, kept)
    window.dispatchEvent(new StorageEvent('storage', { key: draft, newValue: kept }))
    await renderSeated(<RoutesPage />)
    await open(/^Short/)
    expect(await screen.findByRole('alert')).toHaveTextContent('Somebody changed this route')
    expect(screen.getByLabelText('What it is for')).toHaveValue('One decides, today')
    expect(screen.getByRole('button', { name: 'Save the route' })).toBeDead()
    await userEvent.click(screen.getByRole('button', { name: 'Mine takes its place' }))
    await userEvent.click(screen.getByRole('button', { name: 'Save the route' }))
    expect(asked('PUT', '/api/routes/{route_id}')).toMatchObject([
      { body: { version: 4, purpose: 'One decides, today', steps: [{ days: 10 }] } },
    ])
  })

  it('say at the row what cannot work, and at the button why it is dead', async () => {
    await renderSeated(<RoutesPage />)
    await open(/^A new route/)
    expect(await screen.findByText('Nobody is named for it.')).toBeVisible()
    expect(screen.getByRole('button', { name: 'Make the route' })).toBeDead()
    await userEvent.click(screen.getByRole('button', { name: 'Take step 1 away' }))
    expect(screen.getByRole('button', { name: 'Make the route' })).toBeDead()
    for (let count = 0; count < 10; count += 1)
      await userEvent.click(screen.getByRole('button', { name: 'Add a step' }))
    expect(screen.getByRole('button', { name: 'Add a step' })).toBeDead()
  })

  it('are brought back when they are retired, and retired only on a second press', async () => {
    await renderSeated(<RoutesPage />)
    await open(/^Old/)
    await userEvent.click(screen.getByRole('button', { name: 'Bring it back' }))
    expect(asked('POST', '/api/routes/{route_id}/bring-back')).toHaveLength(1)
    await open(/^Short/)
    await userEvent.click(screen.getByRole('button', { name: 'Retire it' }))
    expect(asked('POST', '/api/routes/{route_id}/retire')).toHaveLength(0)
    await userEvent.click(screen.getByRole('button', { name: /^Yes, nobody/ }))
    expect(asked('POST', '/api/routes/{route_id}/retire')).toHaveLength(1)
    expect(within(screen.getByRole('region', { name: 'Routes' })).getByText('retired')).toBeVisible()
  })

  it('are written by those who run the project alone', async () => {
    SEAT.project.runs = false
    await renderSeated(<RoutesPage />)
    expect(screen.getByText(/written by leads/)).toBeVisible()
  })
})
