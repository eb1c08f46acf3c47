/** Server data, its cache keys, and the stream of changes that keeps it true. */
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query'
import { useEffect } from 'react'

import { type AimChange, api, type Wire } from './client'

const keys = {
  photos: ['photos'] as const,
  weighing: (photoId: number) => ['weighing', photoId] as const,
  samples: ['samples'] as const,
}

export function usePhotos() {
  return useQuery({ queryKey: keys.photos, queryFn: api.photos })
}

export function useSamples() {
  return useQuery({ queryKey: keys.samples, queryFn: api.samples })
}

export function useWeighing(photoId: number) {
  return useQuery({ queryKey: keys.weighing(photoId), queryFn: () => api.weighing(photoId) })
}

/** Fetches again what the server says has changed; everything, after a connection was lost. */
export function useChanges() {
  const queries = useQueryClient()
  useEffect(() => {
    const stream = new EventSource('/api/changes')
    stream.onopen = () => void queries.invalidateQueries({ predicate: isOfPhotos })
    stream.onmessage = (message: MessageEvent<string>) => {
      const changes = JSON.parse(message.data) as Wire['ChangesValue']
      void queries.invalidateQueries({ queryKey: keys.photos })
      for (const photoId of changes.photo_ids) {
        void queries.invalidateQueries({ queryKey: keys.weighing(photoId) })
      }
    }
    return () => stream.close()
  }, [queries])
}

function isOfPhotos(query: { queryKey: readonly unknown[] }) {
  return query.queryKey[0] !== keys.samples[0]
}

export function useAddPhoto() {
  return useAdding((file: File) => api.addPhoto(file))
}

export function useAddSample() {
  return useAdding((file: string) => api.addSample(file))
}

function useAdding<T>(add: (what: T) => Promise<Wire['AddedValue']>) {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: add,
    onSuccess: () => queries.invalidateQueries({ queryKey: keys.photos }),
  })
}

export function useChangeAim(photoId: number) {
  return usePhotoMutation(photoId, (change: AimChange) => api.changeAim(photoId, change))
}

export function useSetPick(photoId: number) {
  return usePhotoMutation(photoId, (encodeId: number | null) => api.setPick(photoId, encodeId))
}

export function useStopSearch(photoId: number) {
  return usePhotoMutation(photoId, () => api.stopSearch(photoId))
}

function usePhotoMutation<T>(photoId: number, mutate: (value: T) => Promise<unknown>) {
  const queries = useQueryClient()
  return useMutation({
    mutationFn: mutate,
    onSettled: () =>
      Promise.all([
        queries.invalidateQueries({ queryKey: keys.weighing(photoId) }),
        queries.invalidateQueries({ queryKey: keys.photos }),
      ]),
  })
}
