import '@fontsource/fraunces/latin-400.css'
import '@fontsource/fraunces/latin-600.css'
import '@fontsource/ibm-plex-mono/latin-400.css'
import '@fontsource/ibm-plex-mono/latin-600.css'
import '@fontsource/ibm-plex-sans/latin-400.css'
import '@fontsource/ibm-plex-sans/latin-600.css'
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { StrictMode } from 'react'
import { createRoot } from 'react-dom/client'
import { App } from './app/App'
import { ApiError, Offline } from './api/client'
import './ui/theme.css'

const client = new QueryClient({
  defaultOptions: {
    queries: {
      // A refusal stays a refusal; a server out of reach is asked again until it is back.
      retry: (count, error) =>
        error instanceof Offline || (!(error instanceof ApiError) && count < 3),
      retryDelay: 1000,
      // The server may be on this very machine: what the browser thinks of the network says nothing.
      networkMode: 'always',
      staleTime: 30_000,
      gcTime: 60_000,
      refetchOnWindowFocus: false,
    },
  },
})

const root = document.getElementById('root')
if (root)
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={client}>
        <App />
      </QueryClientProvider>
    </StrictMode>,
  )
