import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'

import { api, unwrap, type Schemas } from '../../api/client'
import { useSeat } from '../../api/me'
import { Button } from '../../ui/Button'
import { CopyAddress } from '../../ui/CopyAddress'
import { Dialog } from '../../ui/Dialog'
import { Select } from '../../ui/Field'
import { ErrorNote, Loading } from '../../ui/Notes'

type Shown = Schemas['FeedShown']
type View = NonNullable<Schemas['MakeFeed']['view']>

const WHOSE: Record<View, string> = {
  mine: 'those with me',
  company: 'those of my company',
  copied: 'those where I am copied in',
  '': 'all that I see',
}

const ABOUT =
  'Your calendar reads by itself what must be sent in, answered and on site. Who has the address reads it, too: it is secret, and you can withdraw it.'

function useFeed() {
  const { project } = useSeat()
  const client = useQueryClient()
  const queryKey = ['calendar-feed', project.id] as const
  const onSuccess = (shown: Shown | undefined) =>
    client.setQueryData(queryKey, shown ?? { address: '', view: '' })
  return {
    feed: useQuery({
      queryKey,
      queryFn: () =>
        unwrap(api.GET('/api/submittals/feed', { params: { query: { project_id: project.id } } })),
    }),
    make: useMutation({
      mutationFn: (view: View) =>
        unwrap(api.POST('/api/submittals/feed', { body: { project_id: project.id, view } })),
      onSuccess,
    }),
    withdraw: useMutation({
      mutationFn: () =>
        unwrap(api.POST('/api/submittals/feed/withdraw', { body: { project_id: project.id } })),
      onSuccess: () => onSuccess(undefined),
    }),
  }
}

/** The days of submittals in one's own calendar, by a secret address. */
export function Feed({ onClose }: { onClose: () => void }) {
  const { feed, make, withdraw } = useFeed()
  const [view, setView] = useState<View>('mine')
  return (
    <Dialog title="In my calendar" about={ABOUT} open onClose={onClose}>
      <div className="flex flex-col gap-4">
        <ErrorNote error={feed.error ?? make.error ?? withdraw.error} />
        {feed.isPending && <Loading what="the address" />}
        {feed.data && !feed.data.address && (
          <>
            <Select
              label="Whose submittals"
              value={view}
              onChange={(value) => setView(value as View)}
              choices={Object.entries(WHOSE).map(([code, words]) => ({ code, words }))}
            />
            <Button look="act" className="self-start" busy={make.isPending} onClick={() => make.mutate(view)}>
              Make the address
            </Button>
          </>
        )}
        {feed.data?.address && (
          <>
            <p>
              Add this address to your calendar as a subscription: {WHOSE[feed.data.view as View]}, from two
              months back to a year ahead.
            </p>
            <CopyAddress address={feed.data.address} />
            <Button
              look="stop"
              className="self-start"
              busy={withdraw.isPending}
              onClick={() => withdraw.mutate()}
            >
              Withdraw the address
            </Button>
          </>
        )}
      </div>
    </Dialog>
  )
}
