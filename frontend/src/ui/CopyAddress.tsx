import { useState } from 'react'

import { Button } from './Button'

/** An address to be passed on, and what copies it; where copying is not allowed, it can be marked by hand. */
export function CopyAddress({ address }: { address: string }) {
  const [copied, setCopied] = useState(false)
  return (
    <div className="flex flex-wrap items-center gap-2">
      <code className="min-w-0 flex-1 border border-line bg-paper px-2 py-1 text-note break-all select-all">
        {address}
      </code>
      <Button
        small
        onClick={() =>
          void navigator.clipboard.writeText(address).then(
            () => setCopied(true),
            () => undefined,
          )
        }
      >
        {copied ? 'Copied' : 'Copy'}
      </Button>
    </div>
  )
}
