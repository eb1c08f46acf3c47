/** Server data and acts of what is handed over of a page. */
import { useMutation, useQuery } from '@tanstack/react-query'

import { api, type SiteText, type WantedVisit } from './client'
import { keys } from './keys'

/** What is handed over of a page, as far as it is. */
export function useDelivery(pageId: number) {
  return useQuery({
    queryKey: [...keys.deliveries, pageId],
    queryFn: ({ signal }) => api.delivery(pageId, signal),
  })
}

/** The name under which an encode is saved. */
export function useFileName(photoId: number, encodeId: number) {
  return useQuery({
    queryKey: [...keys.deliveries, 'name', photoId, encodeId],
    queryFn: () => api.fileName(photoId, encodeId),
  })
}

export function useWriteDelivery(pageId: number) {
  return useMutation({ mutationFn: () => api.writeDelivery(pageId) })
}

/** What can be replaced in texts of a site. */
export function useReferences(
  pageId: number,
  texts: SiteText[],
  asPictures: boolean,
  isReady: boolean,
) {
  return useQuery({
    queryKey: [...keys.deliveries, pageId, 'references', texts, asPictures],
    queryFn: ({ signal }) => api.references(pageId, texts, asPictures, signal),
    enabled: isReady && texts.length > 0,
    gcTime: 0,
    retry: false,
  })
}

/** A visit of the simulated site, begun anew whenever what stands in it changes. */
export function useVisit(pageId: number, wanted: WantedVisit, version: string) {
  return useQuery({
    queryKey: [keys.visit, pageId, wanted, version],
    queryFn: () => api.beginVisit(pageId, wanted),
    gcTime: 0,
    retry: false,
  })
}
