import { X } from 'lucide-react'
import { Dialog as Radix } from 'radix-ui'
import type { ReactNode } from 'react'

interface Props {
  title: string
  about: string
  open: boolean
  onClose: () => void
  children: ReactNode
  wide?: boolean
}

/** The first Escape shuts a list that is open in the dialog, the next one the dialog. */
function keepForOpenList(event: KeyboardEvent): void {
  const field = event.target
  if (field instanceof HTMLElement && field.role === 'combobox' && field.ariaExpanded === 'true')
    event.preventDefault()
}

/** A piece of work that needs the whole attention; Esc leaves it. */
export function Dialog({ title, about, open, onClose, children, wide = false }: Props) {
  return (
    <Radix.Root open={open} onOpenChange={(next) => !next && onClose()}>
      <Radix.Portal>
        <Radix.Overlay className="fixed inset-0 z-40 bg-ink/30" />
        <Radix.Content
          onEscapeKeyDown={keepForOpenList}
          className={`fixed top-16 left-1/2 z-50 flex max-h-[calc(100vh-96px)] w-[calc(100vw-48px)] -translate-x-1/2 flex-col border border-second bg-surface ${wide ? 'max-w-[860px]' : 'max-w-[560px]'}`}
        >
          <div className="flex items-start justify-between gap-4 border-b border-line px-5 py-3">
            <div>
              <Radix.Title className="text-head font-semibold">{title}</Radix.Title>
              <Radix.Description className="text-list text-second">{about}</Radix.Description>
            </div>
            <Radix.Close aria-label="Close" className="p-1 text-second hover:text-ink">
              <X size={18} />
            </Radix.Close>
          </div>
          <div className="overflow-auto px-5 py-4">{children}</div>
        </Radix.Content>
      </Radix.Portal>
    </Radix.Root>
  )
}
