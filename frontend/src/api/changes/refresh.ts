/** Fetches again what is shown and has changed: the one place where that is decided. */
import { type QueryClient, type QueryFilters, useQueryClient } from '@tanstack/react-query'
import { useEffect, useState } from 'react'

import { api, type PageRow, type Pages } from '../client'
import { keys } from '../keys'
import { listen } from './listen'
import { Paced } from './paced'

/** How long what was fetched of one photo, and of all of a page, rests while news goes on coming. */
const PHOTO_MS = 250
const WHOLE_MS = 700
/** From so many on, the whole list is fetched. */
const MANY_ROWS = 8

class Refresher {
  private readonly queries: QueryClient
  private readonly photos = new Map<number, Paced>()
  private readonly rows = new Map<number, Paced>()
  private readonly wholes: Paced
  private readonly list: Paced
  private readonly listAndWholes: Paced

  constructor(queries: QueryClient) {
    this.queries = queries
    this.wholes = new Paced(WHOLE_MS, () =>
      Promise.all([
        this.fetchAgain({ queryKey: keys.batches }),
        this.fetchAgain({ queryKey: keys.deliveries }),
      ]),
    )
    this.list = new Paced(PHOTO_MS, () => this.fetchAgain({ queryKey: keys.pages, exact: true }))
    this.listAndWholes = new Paced(PHOTO_MS, () => this.fetchAgain({ queryKey: keys.pages }))
  }

  /** After an act on a photo: done when the page shows what came of it. */
  ofPhoto(photoId: number): Promise<unknown> {
    return Promise.all([this.photo(photoId, true), this.row(photoId, true)])
  }

  /** After an act on pages, or on many photos. */
  ofPages(): Promise<unknown> {
    return this.listAndWholes.ask(true)
  }

  /** After the server has told of changes. */
  ofNews(photoIds: readonly number[], hasPages: boolean): void {
    for (const id of photoIds) void this.photo(id)
    if (photoIds.length > 0 && !hasPages) void this.wholes.ask()
    if (hasPages) void this.listAndWholes.ask()
    else if (photoIds.length > MANY_ROWS) void this.list.ask()
    else for (const id of photoIds) void this.row(id)
  }

  /** Whether the server is there, or asks for its token, is told by an answer of its own. */
  ofSilence(): void {
    void this.list.ask()
  }

  /** After something may have been missed. */
  ofEverything(): void {
    void this.fetchAgain({ predicate: ({ queryKey }) => queryKey[0] !== keys.visit })
  }

  private photo(photoId: number, inAHurry = false): Promise<unknown> {
    const fetch = () => this.fetchAgain({ queryKey: keys.photo(photoId) })
    return pacedOf(this.photos, photoId, fetch).ask(inAHurry)
  }

  private row(photoId: number, inAHurry = false): Promise<unknown> {
    return pacedOf(this.rows, photoId, () => this.fetchRow(photoId)).ask(inAHurry)
  }

  /** The row of a photo; the whole list where that is on its way, and might come with what was
   * before, or where the photo is gone. */
  private async fetchRow(photoId: number): Promise<unknown> {
    if (this.queries.isFetching({ queryKey: keys.pages, exact: true }) > 0)
      return this.list.ask(true)
    try {
      const row = await api.row(photoId)
      return this.queries.setQueryData<Pages>(keys.pages, (pages) => pages && withRow(pages, row))
    } catch {
      return this.list.ask(true)
    }
  }

  /** A fetch that is under way may have read what was before: it is awaited, and followed. */
  private async fetchAgain(filters: QueryFilters): Promise<void> {
    const shown = this.queries.getQueryCache().findAll({ ...filters, fetchStatus: 'fetching' })
    await Promise.allSettled(shown.map(({ promise }) => promise ?? Promise.resolve()))
    await this.queries.invalidateQueries(filters, { cancelRefetch: false })
  }
}

function pacedOf(kept: Map<number, Paced>, id: number, act: () => Promise<unknown>): Paced {
  const paced = kept.get(id) ?? new Paced(PHOTO_MS, act)
  kept.set(id, paced)
  return paced
}

function withRow(pages: Pages, { page_id, photo, totals }: PageRow): Pages {
  return {
    ...pages,
    pages: pages.pages.map((page) => {
      if (page.id !== page_id) return page
      const photos = page.photos.map((other) => (other.id === photo.id ? photo : other))
      return { ...page, totals, photos }
    }),
  }
}

const refreshers = new WeakMap<QueryClient, Refresher>()

export function useRefresher(): Refresher {
  const queries = useQueryClient()
  const refresher = refreshers.get(queries) ?? new Refresher(queries)
  refreshers.set(queries, refresher)
  return refresher
}

/** Fetches what the server says has changed; returns whether its stream is cut off. */
export function useChanges(): boolean {
  const refresher = useRefresher()
  const [isLost, setIsLost] = useState(false)
  useEffect(
    () =>
      listen((changes) => {
        setIsLost(changes === 'lost')
        if (changes === 'lost') refresher.ofSilence()
        else if (changes === 'again') refresher.ofEverything()
        else refresher.ofNews(changes.photo_ids, changes.has_pages)
      }),
    [refresher],
  )
  return isLost
}
