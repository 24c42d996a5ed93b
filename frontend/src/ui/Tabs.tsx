import { Tabs as Radix } from 'radix-ui'
import type { ReactNode } from 'react'

export interface Tab {
  key: string
  words: string
  count?: number
  content: ReactNode
}

interface Props {
  tabs: Tab[]
  label: string
  /** The one that an address asks for; the first where there is none such. */
  asked?: string | undefined
}

/** The dossier's tabs. */
export function Tabs({ tabs, label, asked }: Props) {
  const first = tabs.find((tab) => tab.key === asked) ?? tabs[0]
  return (
    <Radix.Root key={first?.key} defaultValue={first?.key} className="flex min-h-0 flex-1 flex-col">
      <Radix.List aria-label={label} className="flex flex-wrap gap-x-1 border-b border-line px-4">
        {tabs.map((tab) => (
          <Radix.Trigger
            key={tab.key}
            value={tab.key}
            className="-mb-px border-b-2 border-transparent px-2 py-1.5 text-list text-second data-[state=active]:border-plum data-[state=active]:font-semibold data-[state=active]:text-ink"
          >
            {tab.words}
            {tab.count ? <span className="ml-1 text-second">{tab.count}</span> : null}
          </Radix.Trigger>
        ))}
      </Radix.List>
      {tabs.map((tab) => (
        <Radix.Content key={tab.key} value={tab.key} className="min-h-0 flex-1 overflow-auto px-4 py-3">
          {tab.content}
        </Radix.Content>
      ))}
    </Radix.Root>
  )
}
