import './index.css'

import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { RouterProvider } from '@tanstack/react-router'
import { StrictMode } from 'react'
import { createRoot } from 'react-dom/client'

import { Refused } from './api/problems'
import { takeOpening } from './api/takeOpening'
import { fetchPages, router } from './router'
import { Troubles } from './ui/Troubles'

const client = new QueryClient({
  defaultOptions: {
    // What sends or numbers is never sent later, by itself: it stays a filled form.
    mutations: { networkMode: 'always' },
    queries: {
      staleTime: 15_000,
      refetchOnWindowFocus: false,
      // A broken line is told, and not waited for in silence.
      networkMode: 'always',
      // What was refused stays refused; a broken line is tried again.
      retry: (count, error) => count < 3 && !(error instanceof Refused && error.problem.status > 0),
    },
  },
})

await takeOpening(client)

const place = document.getElementById('root')
if (!place) throw new Error('no place to draw')
createRoot(place).render(
  <StrictMode>
    <QueryClientProvider client={client}>
      <RouterProvider router={router} />
      <Troubles />
    </QueryClientProvider>
  </StrictMode>,
)

// A page that cannot be fetched now is asked for again when it is gone to.
const FETCH_AFTER_MS = 5000
setTimeout(() => void fetchPages().catch(() => undefined), FETCH_AFTER_MS)
