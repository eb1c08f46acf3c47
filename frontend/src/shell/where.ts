/** Where the address is: the screen, its page and its photo, and the ways to the others. */
import { useMatch } from 'react-router'

import type { Page, Photo } from '@/api/client'
import { usePages } from '@/api/queries'

export type Screen = 'page' | 'frame' | 'weigh' | 'pack'

export type Where = {
  screen: Screen
  pages: Page[]
  isLoaded: boolean
  page: Page | undefined
  photo: Photo | undefined
}

export const paths = {
  page: (pageId: number) => `/pages/${pageId}`,
  balance: (pageId: number) => `/pages/${pageId}/balance`,
  batch: (pageId: number) => `/pages/${pageId}/batch`,
  pack: (pageId: number) => `/pages/${pageId}/pack`,
  frame: (photoId: number) => `/photos/${photoId}/frame`,
  weigh: (photoId: number) => `/photos/${photoId}`,
  /** The variants of a photo at a density, on Weigh. */
  variants: (photoId: number, density: number, encodeId?: number) =>
    `/photos/${photoId}?density=${density}${encodeId ? `&candidate=${encodeId}` : ''}`,
}

export function useWhere(): Where {
  const query = usePages()
  const balancedId = useNumber('/pages/:id/balance')
  const batchedId = useNumber('/pages/:id/batch')
  const packedId = useNumber('/pages/:id/pack')
  const pageId = useNumber('/pages/:id') ?? balancedId ?? batchedId ?? packedId
  const framedId = useNumber('/photos/:id/frame')
  const photoId = useNumber('/photos/:id') ?? framedId
  const pages = query.data?.pages ?? []
  const page =
    photoId === undefined
      ? (pages.find(({ id }) => id === pageId) ?? (pageId === undefined ? pages[0] : undefined))
      : pages.find(({ photos }) => photos.some(({ id }) => id === photoId))
  return {
    screen: screenOf({ photoId, framedId, packedId }),
    pages,
    isLoaded: query.data !== undefined,
    page,
    photo: page?.photos.find(({ id }) => id === photoId),
  }
}

type Ids = Record<'photoId' | 'framedId' | 'packedId', number | undefined>

function screenOf({ photoId, framedId, packedId }: Ids): Screen {
  if (packedId !== undefined) return 'pack'
  if (photoId === undefined) return 'page'
  return framedId === undefined ? 'weigh' : 'frame'
}

export const SCREEN_NAMES: Record<Screen, string> = {
  page: 'Page',
  frame: 'Frame',
  weigh: 'Weigh',
  pack: 'Pack',
}

/** What a tab of the browser is called: the screen, and what it shows. */
export function useTitle(): string {
  const { screen, page, photo } = useWhere()
  const shown = photo?.name ?? page?.name
  return shown ? `${shown} – ${SCREEN_NAMES[screen]} – Lean Parcel` : 'Lean Parcel'
}

function useNumber(pattern: string): number | undefined {
  return Number(useMatch(pattern)?.params['id']) || undefined
}

/** The photo that the work goes on with: the first that nothing was picked for, or the first. */
export function nextPhoto(page: Page | undefined): Photo | undefined {
  return page?.photos.find((photo) => !photo.pick) ?? page?.photos[0]
}
