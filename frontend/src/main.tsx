import './styles.css'

import { MutationCache, QueryCache, QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { Tooltip } from 'radix-ui'
import { lazy, StrictMode } from 'react'
import { createRoot } from 'react-dom/client'
import { BrowserRouter, Route, Routes } from 'react-router'

import { noteRefusal } from '@/api/access'
import { base } from '@/api/urls'
import { UploadsProvider } from '@/api/uploads'
import { PhotosScreen } from '@/features/page'
import { Shell } from '@/shell'
import { Boundary } from '@/shell/boundary'
import { Gate } from '@/shell/gate'

/** Fetched when they are wanted; the shell waits for them. */
const BalanceScreen = lazy(() => import('@/features/balance'))
const BatchScreen = lazy(() => import('@/features/batch'))
const FrameScreen = lazy(() => import('@/features/frame'))
const PackScreen = lazy(() => import('@/features/pack'))
const WeighScreen = lazy(() => import('@/features/weigh'))

// The server is this machine: a browser that has no network reaches it, and asks it all the same.
const queries = new QueryClient({
  queryCache: new QueryCache({ onError: noteRefusal }),
  mutationCache: new MutationCache({ onError: noteRefusal }),
  defaultOptions: {
    queries: { staleTime: Infinity, retry: 1, networkMode: 'always' },
    mutations: { networkMode: 'always' },
  },
})

const root = document.getElementById('root')
if (root) {
  createRoot(root).render(
    <StrictMode>
      <Boundary>
        <QueryClientProvider client={queries}>
          <Gate>
            <Tooltip.Provider>
              <UploadsProvider>
                <BrowserRouter basename={base}>
                  <Routes>
                    <Route element={<Shell />}>
                      <Route path="/" element={<PhotosScreen />} />
                      <Route path="/pages/:pageId" element={<PhotosScreen />} />
                      <Route path="/pages/:pageId/balance" element={<BalanceScreen />} />
                      <Route path="/pages/:pageId/batch" element={<BatchScreen />} />
                      <Route path="/pages/:pageId/pack" element={<PackScreen />} />
                      <Route path="/photos/:photoId" element={<WeighScreen />} />
                      <Route path="/photos/:photoId/frame" element={<FrameScreen />} />
                    </Route>
                  </Routes>
                </BrowserRouter>
              </UploadsProvider>
            </Tooltip.Provider>
          </Gate>
        </QueryClientProvider>
      </Boundary>
    </StrictMode>,
  )
}
