import { act, cleanup, screen, waitFor, within } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { beforeEach, describe, expect, it, vi } from 'vitest'

import { renderSeated, SEAT } from '../../testSeat'
import { RoutesPage } from './RoutesPage'

const calls = vi.fn()
const saoirse = { id: 's', name: 'Saoirse Tanaka', company: 'TRA', job: '' }
const SAVED = {
  name: 'Decide',
  act: 'decide',
  quota: 'any',
  least: 1,
  days: 2,
  counting: 'working',
  own_allowed: false,
  sums_up: false,
  remind: { before: 1, every: 2, lead_after: 3 },
  handing_on: true,
  verdicts: '',
  marking: true,
}
const step = {
  ...SAVED,
  whom: [{ kind: 'person', id: 's', words: 'Saoirse Tanaka' }],
  people: 1,
  planned_on: '2027-03-11',
}
const alone = { steps: [step], then: {} }
const SHORT = { id: 'r1', name: 'Short', purpose: 'One decides', stages: [alone], starters: [], ends: {}, ends_said: [], may_change: false, shows: 'at_once', may_start: true, retired: false, version: 4 } // prettier-ignore
const routes = [SHORT, { ...SHORT, id: 'r2', name: 'Old', purpose: '', stages: [alone, alone], retired: true, version: 2 }] // prettier-ignore
interface Tried {
  ends: Record<string, { status: string }>
  stages: { steps: { whom: unknown[] }[] }[]
}
const tried = (body?: Tried) => {
  const after = body?.ends.A?.status
  return {
    end_trouble: after === 'S0' ? '“S0” is no status of this project.' : '',
    ends: after === 'A1' ? [{ verdict: 'A', words: 'A: status A1, which may be built from.' }] : [],
    stages: body?.stages.map(({ steps }) => ({
      hint: '',
      steps: steps.map(({ whom }) => ({
        ends_on: '2027-03-11',
        people: whom.length,
        trouble: whom.length ? '' : 'Nobody is named for it.',
      })),
    })),
  }
}
const made = { hold: undefined as Promise<unknown> | undefined }
const answer = (path: string, body?: Tried) => {
  if (path === '/api/routes/written') return made.hold
  if (path === '/api/routes') return routes
  if (path === '/api/routes/tried') return tried(body)
  if (path.endsWith('/people'))
    return {
      members: [{ who: saoirse, state: 'active' }],
      roles: [{ code: 'lead', name: 'Lead', people: 2 }],
      companies: [{ id: 'tra', name: 'Tamar Review', people: 3 }],
    }
  if (path === '/api/register/columns')
    return {
      columns: [
        { key: 'number' },
        { key: 'field:p', head: 'Package', choices: [] },
        { key: 'folder', choices: [{ code: 'site', words: 'Issued to the site' }] },
      ],
    }
  return {}
}

vi.mock('../../api/client', async (original) => {
  const ask =
    (method: string) =>
    (path: string, more?: { body?: Tried }): Promise<unknown> => {
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
          stages: [{ steps: [{ ...SAVED, whom: [{ kind: 'person', id: 's' }] }], then: {} }],
          may_start: [],
          ends: {},
          may_change: false,
          shows: 'at_once',
        },
      },
    ])
  })

  it('say what is done at the end by verdict, and what cannot be', async () => {
    await renderSeated(<RoutesPage />)
    await open(/^Short/)
    await userEvent.selectOptions(screen.getByLabelText('Status after A'), 'A1')
    expect(await screen.findByText('A: status A1, which may be built from.')).toBeVisible()
    await userEvent.selectOptions(screen.getByLabelText('A field to set after A'), 'field:p')
    await userEvent.type(screen.getByLabelText('Package after A'), 'Steel')
    await userEvent.click(await screen.findByRole('button', { name: 'Save the route' }))
    expect(asked('PUT', '/api/routes/{route_id}')).toMatchObject([
      { body: { ends: { A: { status: 'A1', fields: { 'field:p': 'Steel' } } } } },
    ])
    await userEvent.selectOptions(screen.getByLabelText('Status after A'), 'S0')
    expect(await screen.findAllByText('“S0” is no status of this project.')).not.toHaveLength(0)
    expect(screen.getByRole('button', { name: 'Save the route' })).toBeDead()
  })

  it('copy into a folder what may be used, with its ink if that is said, and nothing else', async () => {
    await renderSeated(<RoutesPage />)
    await open(/^Short/)
    expect(screen.queryByLabelText('with its ink after A')).toBeNull()
    await userEvent.selectOptions(await screen.findByLabelText('Copied after A into'), 'site')
    await userEvent.click(screen.getByLabelText('with its ink after A'))
    expect(screen.queryByLabelText('Copied after C into')).toBeNull()
    await userEvent.click(await screen.findByRole('button', { name: 'Save the route' }))
    expect(asked('PUT', '/api/routes/{route_id}')).toMatchObject([
      { body: { ends: { A: { copy_to: 'site', with_marks: true } } } },
    ])
    // Without a folder there is no ink to take along.
    await userEvent.selectOptions(screen.getByLabelText('Copied after A into'), '')
    await userEvent.click(screen.getByRole('button', { name: 'Save the route' }))
    expect(asked('PUT', '/api/routes/{route_id}')).toMatchObject([
      {},
      { body: { ends: { A: { copy_to: '', with_marks: false } } } },
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
      { body: { version: 4, purpose: 'One decides, today', stages: [{ steps: [{ days: 10 }] }] } },
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

  it('put steps beside each other, and somebody who sums up', async () => {
    await renderSeated(<RoutesPage />)
    await open(/^Short/)
    await userEvent.click(screen.getByRole('button', { name: 'Another beside it' }))
    await userEvent.type(screen.getAllByLabelText('Step')[1] as HTMLElement, 'Fire')
    const whom = screen.getAllByLabelText(/^Whom/)[1] as HTMLElement
    await userEvent.type(whom, 'tamar{Enter}')
    await userEvent.click(screen.getByRole('button', { name: 'Somebody sums up' }))
    await userEvent.type(screen.getAllByLabelText(/^Whom/)[2] as HTMLElement, 'lead{Enter}')
    await userEvent.selectOptions(
      screen.getByLabelText('A document with C, revise and resubmit'),
      'back to its author',
    )
    await userEvent.click(screen.getByRole('button', { name: 'Save the route' }))
    const { body } = asked('PUT', '/api/routes/{route_id}')[0] as {
      body: { stages: { steps: object[]; then: object }[] }
    }
    expect(body.stages).toHaveLength(1)
    expect(body.stages[0]?.then).toEqual({ C: 'back' })
    expect(body.stages[0]?.steps).toMatchObject([
      { name: 'Decide', sums_up: false },
      { name: 'Fire', act: 'decide', whom: [{ kind: 'company', id: 'tra' }], sums_up: false },
      { name: 'Sum up', act: 'decide', whom: [{ kind: 'role', id: 'lead' }], sums_up: true },
    ])
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

  it('leave open what one opened before the answer to a new one came', async () => {
    let come: (value: unknown) => void = () => undefined
    made.hold = new Promise((resolve) => {
      come = resolve
    })
    await renderSeated(<RoutesPage />)
    await open(/^Short/)
    await userEvent.click(screen.getByRole('button', { name: 'Copy it' }))
    await userEvent.click(await screen.findByRole('button', { name: 'Make the route' }))
    expect(asked('POST', '/api/routes/written')).toHaveLength(1)
    await open(/^Short/)
    const fetched = asked('GET', '/api/routes').length
    await act(async () => {
      come({ id: 'r3' })
      await made.hold
    })
    await waitFor(() => expect(asked('GET', '/api/routes').length).toBeGreaterThan(fetched))
    await userEvent.type(screen.getByLabelText('What it is for'), ' alone')
    expect(screen.getByRole('form', { name: 'The route Short' })).toBeVisible()
  })

  it('are written by those who run the project alone', async () => {
    SEAT.project.runs = false
    await renderSeated(<RoutesPage />)
    expect(screen.getByText(/written by leads/)).toBeVisible()
  })
})
