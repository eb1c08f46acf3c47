import './styles.css'

import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { StrictMode } from 'react'
import { createRoot } from 'react-dom/client'
import { BrowserRouter, Route, Routes } from 'react-router'

import { WeighScreen } from '@/features/weigh'

const queries = new QueryClient({
  defaultOptions: { queries: { staleTime: Infinity, retry: 1 } },
})

const root = document.getElementById('root')
if (root) {
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={queries}>
        <BrowserRouter>
          <Routes>
            <Route path="/" element={<WeighScreen />} />
            <Route path="/photos/:photoId" element={<WeighScreen />} />
          </Routes>
        </BrowserRouter>
      </QueryClientProvider>
    </StrictMode>,
  )
}
