import { Link } from '@tanstack/react-router'
import { Bell as BellSign } from 'lucide-react'
import { Popover } from 'radix-ui'
import { useState } from 'react'

import { useBell, useNoteLookedAt } from '../../api/lookedAt'
import { useSeat } from '../../api/me'
import { Button } from '../../ui/Button'
import { ErrorNote, Loading } from '../../ui/Notes'
import { PathLink } from '../../ui/PathLink'
import { When } from '../../ui/Standing'

/** What I was told, newest first. What I have looked at is no longer counted. */
export function Bell() {
  const bell = useBell()
  const [open, setOpen] = useState(false)
  const unread = bell.data?.unread ?? 0
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger
        aria-label={unread ? `Notices, ${unread} unread` : 'Notices'}
        title="Notices"
        className="relative flex min-h-6 min-w-6 items-center justify-center gap-1 hover:text-plum max-sm:min-h-11 max-sm:min-w-9"
      >
        <BellSign size={17} aria-hidden />
        {unread > 0 && (
          <span
            aria-hidden
            className="min-w-[18px] bg-plum px-1 text-center text-fine leading-[17px] font-semibold text-on-plum"
          >
            {unread}
          </span>
        )}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          sideOffset={16}
          collisionPadding={12}
          aria-label="Notices"
          className="z-50 flex max-h-[70vh] w-[440px] max-w-[calc(100vw-24px)] flex-col border border-second bg-surface"
        >
          <Told onGo={() => setOpen(false)} />
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  )
}

function whyNot(unread: number, seesAs: boolean): string {
  if (seesAs) return 'You see as somebody else.'
  return unread ? '' : 'Nothing is unread.'
}

function Told({ onGo }: { onGo: () => void }) {
  const bell = useBell()
  const { me } = useSeat()
  const note = useNoteLookedAt()
  const notices = bell.data?.notices ?? []
  return (
    <>
      <div className="flex items-center justify-between gap-3 border-b border-line px-4 py-2">
        <h2 className="font-semibold">Notices</h2>
        <Link to="/account" onClick={onGo} className="ml-auto text-list text-plum underline">
          Settings
        </Link>
        <Button small why={whyNot(bell.data?.unread ?? 0, me.looker !== '')} onClick={() => void note()}>
          All are read
        </Button>
      </div>
      <div className="min-h-0 overflow-auto">
        <ErrorNote error={bell.error} again={() => void bell.refetch()} />
        {bell.isPending && <Loading what="the notices" />}
        {bell.data && !notices.length && (
          <p className="px-4 py-3 text-second">
            Nothing yet. You are told of steps that are with you, of answers to your marks, and of what you
            follow.
          </p>
        )}
        <ul>
          {notices.map((notice) => (
            <li key={notice.id} className="border-b border-line/60 last:border-0">
              <PathLink path={notice.link} onClick={onGo} className="block px-4 py-2 hover:bg-plum-tint">
                <span className="flex items-baseline gap-2">
                  <span className={`min-w-0 flex-1 break-words ${notice.unread ? 'font-semibold' : ''}`}>
                    {notice.words}
                    {notice.unread && <span className="sr-only">, unread</span>}
                  </span>
                  <span className="text-note whitespace-nowrap text-second">
                    <When at={notice.at} time />
                  </span>
                </span>
                <span className="block text-note text-second">because {notice.because}</span>
              </PathLink>
            </li>
          ))}
        </ul>
      </div>
    </>
  )
}
