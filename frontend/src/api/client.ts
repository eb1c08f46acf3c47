/** The one client: every request to the server goes through here. */
import createClient from 'openapi-fetch'

import type { components, paths } from './types.gen'

export type Wire = components['schemas']
export type Photo = Wire['PhotoValue']
export type Weighing = Wire['WeighingValue']
export type Encode = Wire['EncodeValue']
export type AimChange = Wire['AimChangeValue']
export type Source = Wire['Source']
export type Sample = Wire['Sample']
export type Settings = Encode['settings']
export type Format = Settings['format']

const client = createClient<paths>({ baseUrl: '/' })

/** What the server refused, in its own words. */
export class Refused extends Error {
  constructor(
    readonly code: string,
    message: string,
  ) {
    super(message)
  }
}

type Answer<T> = { data?: T | undefined; error?: Wire['ErrorValue'] | undefined }

async function unwrap<T>(request: Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>
  try {
    answer = await request
  } catch {
    throw new Refused('unreachable', 'The server does not answer. Is it still running?')
  }
  if (answer.error) throw new Refused(answer.error.code, answer.error.message)
  return answer.data as T
}

export const api = {
  photos: () => unwrap(client.GET('/api/photos')),
  weighing: (photoId: number) =>
    unwrap(client.GET('/api/photos/{photo_id}', { params: { path: { photo_id: photoId } } })),
  samples: () => unwrap(client.GET('/api/samples')),
  addPhoto: (file: File) =>
    unwrap(
      client.POST('/api/photos', {
        body: { photo: file.name },
        bodySerializer: () => {
          const form = new FormData()
          form.append('photo', file, file.name)
          return form
        },
      }),
    ),
  addSample: (file: string) => unwrap(client.POST('/api/samples', { body: { file } })),
  changeAim: (photoId: number, change: AimChange) =>
    unwrap(
      client.PATCH('/api/photos/{photo_id}/aim', {
        params: { path: { photo_id: photoId } },
        body: change,
      }),
    ),
  setPick: (photoId: number, encodeId: number | null) =>
    unwrap(
      client.PUT('/api/photos/{photo_id}/pick', {
        params: { path: { photo_id: photoId } },
        body: { encode_id: encodeId },
      }),
    ),
  stopSearch: (photoId: number) =>
    unwrap(
      client.DELETE('/api/photos/{photo_id}/search', {
        params: { path: { photo_id: photoId } },
      }),
    ),
}

export const urls = {
  thumbnail: (photoId: number) => `/api/photos/${photoId}/thumbnail`,
  framedPixels: (framingId: number) => `/api/framings/${framingId}/pixels`,
  encodedFile: (encodeId: number) => `/api/encodes/${encodeId}/file`,
  download: (photoId: number, encodeId: number) =>
    `/api/photos/${photoId}/encodes/${encodeId}/download`,
}
