import './styles.css'

import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { lazy, StrictMode } from 'react'
import { createRoot } from 'react-dom/client'
import { BrowserRouter, Route, Routes } from 'react-router'

import { base } from '@/api/client'
import { UploadsProvider } from '@/api/uploads'
import { BalanceScreen } from '@/features/balance'
import { BatchScreen } from '@/features/batch'
import { PageScreen } from '@/features/page'
import { WeighScreen } from '@/features/weigh'
import { Shell } from '@/shell'
import { Gate } from '@/shell/gate'

/** Fetched when they are wanted; the shell waits for them. */
const FrameScreen = lazy(() => import('@/features/frame').then((m) => ({ default: m.FrameScreen })))
const PackScreen = lazy(() => import('@/features/pack').then((m) => ({ default: m.PackScreen })))

const queries = new QueryClient({
  defaultOptions: { queries: { staleTime: Infinity, retry: 1 } },
})

const root = document.getElementById('root')
if (root) {
  createRoot(root).render(
    <StrictMode>
      <QueryClientProvider client={queries}>
        <Gate>
          <UploadsProvider>
            <BrowserRouter basename={base}>
              <Routes>
                <Route element={<Shell />}>
                  <Route path="/" element={<PageScreen />} />
                  <Route path="/pages/:pageId" element={<PageScreen />} />
                  <Route path="/pages/:pageId/balance" element={<BalanceScreen />} />
                  <Route path="/pages/:pageId/batch" element={<BatchScreen />} />
                  <Route path="/pages/:pageId/pack" element={<PackScreen />} />
                  <Route path="/photos/:photoId" element={<WeighScreen />} />
                  <Route path="/photos/:photoId/frame" element={<FrameScreen />} />
                </Route>
              </Routes>
            </BrowserRouter>
          </UploadsProvider>
        </Gate>
      </QueryClientProvider>
    </StrictMode>,
  )
}
