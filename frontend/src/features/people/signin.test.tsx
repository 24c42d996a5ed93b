import { screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { beforeEach, describe, expect, it, vi } from 'vitest'

import { Refused } from '../../api/problems'
import { renderSeated } from '../../testSeat'
import { KeyLinkPage } from './KeyLinkPage'
import { SignInPage } from './SignInPage'

const GET = vi.fn()
const POST = vi.fn()
const navigate = vi.fn()
const asked = { next: '/' }
vi.mock('../../api/client', async (original) => ({
  ...(await original<object>()),
  api: {
    GET: (...said: unknown[]) => GET(...said) as unknown,
    POST: (...said: unknown[]) => POST(...said) as unknown,
  },
  unwrap: (answer: Promise<unknown>) => answer,
}))
vi.mock('@tanstack/react-router', async (original) => ({
  ...(await original<object>()),
  Link: ({ children }: { children: string }) => <a href="/elsewhere">{children}</a>,
  useSearch: () => asked,
  useParams: () => ({ token: 'tok' }),
  useNavigate: () => navigate,
}))

const demo = {
  password: 'brackwater',
  people: [{ name: 'Marit Osei', email: 'marit@x.example', job: 'document controller', company: 'HBC' }],
}
const refused = (code: string) =>
  new Refused({ code, status: 422, title: 'Refused', words: '', about: '' } as never)

beforeEach(() => {
  vi.clearAllMocks()
  asked.next = '/'
  GET.mockResolvedValue({ people: [], password: '' })
  POST.mockResolvedValue(undefined)
})

async function filled() {
  await renderSeated(<SignInPage />)
  await userEvent.type(screen.getByLabelText('E-mail'), 'marit@x.example')
  await userEvent.type(screen.getByLabelText('Password'), 'herring gulls')
}
const signIn = () => userEvent.click(screen.getByRole('button', { name: 'Sign in' }))
const body = (call = 0) => (POST.mock.calls[call]?.[1] as { body: object }).body

describe('signing in', () => {
  it.each([
    ['/register?words=a', '/register?words=a'],
    ['/', '/'],
    ['//elsewhere.example', '/'],
    ['https://elsewhere.example', '/'],
    ['/\\elsewhere.example', '/'],
  ])('leads to where one wanted to go, never outside: %s', async (next, to) => {
    asked.next = next
    await filled()
    await signIn()
    await waitFor(() => expect(navigate).toHaveBeenCalledWith({ to }))
    expect(body()).toEqual({ email: 'marit@x.example', password: 'herring gulls', code: '' })
  })

  it('asks for the code of the second factor when it is wanted', async () => {
    POST.mockRejectedValueOnce(refused('code_wanted'))
    await filled()
    await signIn()
    const code = await screen.findByLabelText(/^Code of your authenticator app/)
    expect(code).toHaveFocus()
    expect(screen.queryByRole('alert')).toBeNull()
    await userEvent.type(code, '123456')
    await signIn()
    await waitFor(() => expect(navigate).toHaveBeenCalledOnce())
    expect(body(1)).toMatchObject({ code: '123456' })
  })

  it('keeps what was typed when it is refused', async () => {
    POST.mockRejectedValueOnce(refused('sign_in_refused'))
    await filled()
    await signIn()
    expect(await screen.findByRole('alert')).toBeInTheDocument()
    expect(screen.getByLabelText('E-mail')).toHaveValue('marit@x.example')
    expect(screen.getByRole('button', { name: 'Sign in' })).not.toBeDead()
    expect(navigate).not.toHaveBeenCalled()
  })

  it('has the people of the demo at hand, and of no other', async () => {
    GET.mockResolvedValue(demo)
    await renderSeated(<SignInPage />)
    await userEvent.click(await screen.findByRole('button', { name: /Marit Osei/ }))
    await signIn()
    await waitFor(() => expect(body()).toMatchObject({ email: 'marit@x.example', password: 'brackwater' }))
  })
})

describe('a mailed link', () => {
  const invitation = { kind: 'invitation', name: 'Ida Quill', email: 'ida@x.example', project: 'North quay' }
  const go = () => screen.getByRole('button', { name: 'Set the password and go in' })

  it('invites by name, and goes in with the password that was typed twice', async () => {
    GET.mockResolvedValue(invitation)
    await renderSeated(<KeyLinkPage />)
    expect(await screen.findByText('North quay')).toBeInTheDocument()
    expect(screen.getByRole('heading')).toHaveTextContent('Welcome to Nod')
    await userEvent.type(screen.getByLabelText(/^Password, at least 12/), 'herring gulls at dawn')
    await userEvent.type(screen.getByLabelText('The same again'), 'herring gulls at dusk')
    expect(go()).toBeDead()
    await userEvent.clear(screen.getByLabelText('The same again'))
    await userEvent.type(screen.getByLabelText('The same again'), 'herring gulls at dawn')
    await userEvent.click(go())
    await waitFor(() => expect(navigate).toHaveBeenCalledWith({ to: '/' }))
    expect(body()).toEqual({ password: 'herring gulls at dawn', name: 'Ida Quill' })
  })

  it('sets a forgotten password anew without asking for a name', async () => {
    GET.mockResolvedValue({ ...invitation, kind: 'forgotten', project: '' })
    await renderSeated(<KeyLinkPage />)
    expect(await screen.findByText('ida@x.example')).toBeInTheDocument()
    expect(screen.getByRole('heading')).toHaveTextContent('A new password')
    expect(screen.queryByLabelText('Your name')).toBeNull()
  })

  it('that was used leads to the sign-in', async () => {
    GET.mockRejectedValue(refused('link_used'))
    await renderSeated(<KeyLinkPage />)
    expect(await screen.findByRole('alert')).toBeInTheDocument()
    expect(screen.getByText('To the sign-in')).toBeInTheDocument()
    expect(screen.queryByRole('button')).toBeNull()
  })
})
