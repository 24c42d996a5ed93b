import { useQueryClient } from '@tanstack/react-query'
import { useNavigate } from '@tanstack/react-router'
import { DropdownMenu } from 'radix-ui'

import { api, unwrap } from '../../api/client'
import type { Me } from '../../api/me'

/** Who I am, and the way out. */
export function MeMenu({ me }: { me: Me }) {
  const client = useQueryClient()
  const navigate = useNavigate()

  async function signOut() {
    await unwrap(api.POST('/api/sign-out'))
    client.clear()
    await navigate({ to: '/sign-in', search: { next: '/' } })
  }

  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger className="flex min-h-6 min-w-6 items-center justify-center gap-1.5 hover:text-plum max-sm:min-h-11 max-sm:min-w-9">
        <span className="max-w-[130px] truncate font-medium max-sm:sr-only">{me.person.name}</span>
        <span className="code text-note text-second">{me.person.company}</span>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          sideOffset={8}
          className="z-50 min-w-[220px] border border-second bg-surface py-1"
        >
          <p className="px-3 py-1.5 text-list text-second">
            {[me.person.name, me.person.job].filter(Boolean).join(', ')}
          </p>
          <DropdownMenu.Item
            onSelect={() => void navigate({ to: '/account' })}
            className="cursor-pointer px-3 py-1.5 outline-none data-[highlighted]:bg-plum-tint"
          >
            My account
          </DropdownMenu.Item>
          {me.steward && (
            <DropdownMenu.Item
              onSelect={() => void navigate({ to: '/workspace' })}
              className="cursor-pointer px-3 py-1.5 outline-none data-[highlighted]:bg-plum-tint"
            >
              The workspace
            </DropdownMenu.Item>
          )}
          <DropdownMenu.Item
            onSelect={() => void signOut()}
            className="cursor-pointer px-3 py-1.5 outline-none data-[highlighted]:bg-plum-tint"
          >
            Sign out
          </DropdownMenu.Item>
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  )
}
