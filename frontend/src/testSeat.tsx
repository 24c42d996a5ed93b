import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { createMemoryHistory, createRootRoute, createRouter, RouterProvider } from '@tanstack/react-router'
import { render, screen } from '@testing-library/react'
import type { ReactNode } from 'react'

import { SeatContext, type Seat } from './api/me'
import { VerdictContext } from './ui/Stamp'

/** Marit's seat at Brackwater, on Tuesday 9 March 2027. */
export const SEAT: Seat = {
  me: {
    person: { id: 'marit', name: 'Marit Osei', company: 'HBC', job: 'document controller' },
    email: 'marit@hollinbrook.example',
    steward: false,
    looker: '',
    csrf_token: '',
    projects: [],
    live_port: 1,
    live_url: '',
    demo: true,
    now: '2027-03-09T08:30:00Z',
  },
  project: {
    id: 'bft',
    number: 'BFT',
    name: 'Brackwater Ferry Terminal',
    time_zone: 'Europe/London',
    roles: ['controller'],
    level: 'keep',
    runs: true,
    leads: false,
    tools: ['reviews', 'transmittals'],
    today: '2027-03-09',
    disciplines: { A: 'Architecture' },
    statuses: { S0: 'work in progress', S3: 'review and comment', A1: 'accepted' },
    verdict_set: [
      {
        code: 'A',
        words: 'proceed',
        meaning: 'go',
        may_be_used: true,
        needs_new_revision: false,
        of_set: '',
      },
      {
        code: 'C',
        words: 'revise and resubmit',
        meaning: 'stop',
        may_be_used: false,
        needs_new_revision: true,
        of_set: '',
      },
    ],
  },
}

/** Renders something as it would stand inside the frame; resolves when it is there. */
export async function renderSeated(content: ReactNode): Promise<void> {
  const root = createRootRoute({ component: () => <div data-testid="seat">{content}</div> })
  const router = createRouter({ routeTree: root, history: createMemoryHistory() })
  render(
    <QueryClientProvider client={new QueryClient()}>
      <SeatContext.Provider value={SEAT}>
        <VerdictContext.Provider value={SEAT.project.verdict_set}>
          <RouterProvider router={router as never} />
        </VerdictContext.Provider>
      </SeatContext.Provider>
    </QueryClientProvider>,
  )
  await screen.findByTestId('seat')
}
