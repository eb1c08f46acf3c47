/** Addresses of what the browser fetches by itself: pictures, files, streams. */
import type { Box, Encode, Framed, Photo, Sharpen } from './client'

/** Where the server's addresses begin: below a proxy that is not the root. */
export const base = new URL(document.baseURI).pathname.replace(/\/$/, '')

export const urls = {
  upload: `${base}/api/photos`,
  changes: `${base}/api/changes`,
  thumbnail: (photo: Photo) =>
    `${base}/api/photos/${photo.id}/thumbnail?key=${photo.thumbnail_key}`,
  preview: (photoId: number) => `${base}/api/photos/${photoId}/preview`,
  libraryThumbnail: (file: string) => `${base}/api/library/${file}/thumbnail`,
  framedPixels: (framed: Framed) =>
    `${base}/api/framed/${framed.id}/pixels?key=${framed.pixels_key}`,
  entryPixels: (photoId: number, entryId: number) =>
    `${base}/api/photos/${photoId}/journal/${entryId}/pixels`,
  sharpened: (framed: Framed, sharpen: Sharpen, box: Box) => {
    const amount_percent = sharpen.amount_percent ?? 0
    const values = { ...sharpen, ...box, amount_percent, key: framed.pixels_key }
    const pairs = Object.entries(values).map(([name, value]) => `${name}=${value}`)
    return `${base}/api/framed/${framed.id}/sharpened?${pairs.join('&')}`
  },
  encodedFile: (encode: Encode) => `${base}/api/encodes/${encode.id}/file?key=${encode.file_key}`,
  arriving: (photoId: number, encodeId: number, kbitS: number, roundTripMs: number, turn: number) =>
    `${base}/api/photos/${photoId}/encodes/${encodeId}/arriving?kbit_s=${Math.round(kbitS)}&round_trip_ms=${Math.round(roundTripMs)}&turn=${turn}`,
  roundPicture: (seriesId: number, round: number, side: string) =>
    `${base}/api/eye/${seriesId}/${round}/${side}`,
  damageMap: (photoId: number, encodeId: number, kind: string) =>
    `${base}/api/photos/${photoId}/encodes/${encodeId}/damage/${kind}`,
  deliveryZip: (pageId: number) => `${base}/api/pages/${pageId}/delivery.zip`,
  batchTable: (pageId: number) => `${base}/api/pages/${pageId}/batch.csv`,
  packingList: (pageId: number, kind: 'json' | 'html') =>
    `${base}/api/pages/${pageId}/packing-list.${kind}`,
  download: (photoId: number, encodeId: number) =>
    `${base}/api/photos/${photoId}/encodes/${encodeId}/download`,
}
