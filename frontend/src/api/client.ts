/** The one client: every request to the server goes through here, but for uploads. */
import createClient from 'openapi-fetch'

import type { components, paths } from './types.gen'
import { base } from './urls'

export type Wire = components['schemas']
export type Page = Wire['PageResponse']
/** A photo as the pages show it. */
export type Photo = Wire['PagePhotoResponse']
export type Pages = Wire['PagesResponse']
export type PageRow = Wire['PageRowResponse']
/** A photo with all that its own screens show. */
export type Weighing = Wire['PhotoResponse']
export type FormatProgress = Wire['FormatProgressResponse']
export type Framed = Wire['FramedResponse']
export type Encode = Wire['EncodeResponse']
export type Damage = Wire['DamageResponse']
export type Spot = Wire['SpotResponse']
export type Bought = Wire['BoughtResponse']
export type Mark = Wire['Mark']
export type Series = Wire['EyeResponse']
export type WantedRounds = Wire['EyeRequest']
export type Entry = Wire['EntryResponse']
export type Aim = Wire['Aim']
export type Finding = Wire['Finding']
export type Framing = Wire['Framing']
export type Box = Wire['Box']
export type Sharpen = Wire['Sharpen']
export type Place = Wire['Place']
export type NamedPlace = Wire['NamedPlace']
export type LibraryPhoto = Wire['LibraryPhoto']
export type AimChange = Wire['AimChangeRequest']
export type FramingChange = Wire['FramingChangeRequest']
export type PhotoChange = Wire['PhotoChangeRequest']
export type PageChange = Wire['PageChangeRequest']
export type Source = Wire['Source']
/** What an encoder was told; an original that is passed through has none. */
export type Settings = Wire['EncodeRequest']['settings']
export type Policy = Wire['PolicyResponse']
export type MetadataPolicy = Policy['policy']
export type Format = Settings['format']
export type WantedEncode = Wire['EncodeRequest']
export type Glimpse = Wire['GlimpseResponse']
export type LibraryChoice = Wire['LibraryChoiceRequest']
export type Treatment = Wire['TreatmentResponse']
/** A treatment as a file has it. */
export type TreatmentFile = Wire['TreatmentFile']
export type Setting = Photo['own'][number]
export type BalanceWish = Wire['BalanceRequest']
export type Balance = Wire['BalanceResponse']
export type BalancedPhoto = Wire['BalancedPhotoResponse']
export type Batch = Wire['BatchResponse']
export type Shares = Omit<Wire['SharesRequest'], 'photo_ids'>
export type Delivery = Wire['DeliveryResponse']
export type DeliveredPhoto = Wire['DeliveredPhotoResponse']
export type DeliveredFile = Wire['FileResponse']
export type Variants = Wire['Variants']
export type VariantsChange = Wire['VariantsChangeRequest']
export type CodeChange = Omit<Wire['CodeRequest'], 'photo_ids'>
export type FileName = Wire['FileNameRequest']
export type SiteText = Wire['TextRequest']
export type References = Wire['ReferencesResponse']
export type RepointedText = Wire['TextResponse']
export type Hunk = Wire['HunkResponse']
export type Visit = Wire['VisitResponse']
export type WantedVisit = Wire['VisitRequest']
export type KeptTreatment = Wire['KeepTreatmentRequest']
export type Forecast = Wire['ForecastResponse']
export type QualityStep = Wire['QualityStep']
export type Terms = Wire['TermsResponse']
export type Knob = Wire['Knob']
export type FormatKnobs = Wire['FormatKnobs']

const client = createClient<paths>({ baseUrl: base })

/** What the server refused, in its own words. */
export class Refused extends Error {
  constructor(
    readonly code: string,
    message: string,
  ) {
    super(message)
  }
}

export const UNREACHABLE = 'The server does not answer. Is it still running?'

type Answer<T> = { data?: T | undefined; error?: Wire['ErrorResponse'] | undefined }

async function unwrap<T>(request: Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>
  try {
    answer = await request
  } catch (error) {
    if (error instanceof DOMException && error.name === 'AbortError') throw error
    throw new Refused('unreachable', UNREACHABLE)
  }
  if (answer.error) throw new Refused(answer.error.code, answer.error.message)
  return answer.data as T
}

/** A request that is given up with a signal. */
const until = (signal?: AbortSignal) => ({ signal: signal ?? null })
const ofPhoto = (photoId: number) => ({ params: { path: { photo_id: photoId } } })
const ofPage = (pageId: number) => ({ params: { path: { page_id: pageId } } })
/** At a density of its variants; 0 is the photo as it is taken. */
const ofPhotoAt = (photoId: number, density: number) => ({
  params: { path: { photo_id: photoId, density_percent: Math.round(density * 100) } },
})
const ofTreatment = (treatmentId: number) => ({ params: { path: { treatment_id: treatmentId } } })
const ofPlace = (placeId: number) => ({ params: { path: { place_id: placeId } } })

export const api = {
  enter: (token: string) => unwrap(client.POST('/api/session', { body: { token } })),

  pages: (signal?: AbortSignal) => unwrap(client.GET('/api/pages', until(signal))),
  addPage: (name: string) => unwrap(client.POST('/api/pages', { body: { name } })),
  changePage: (pageId: number, change: PageChange) =>
    unwrap(client.PATCH('/api/pages/{page_id}', { ...ofPage(pageId), body: change })),
  removePage: (pageId: number) => unwrap(client.DELETE('/api/pages/{page_id}', ofPage(pageId))),
  undoOnPages: () => unwrap(client.POST('/api/pages/undo')),
  redoOnPages: () => unwrap(client.POST('/api/pages/redo')),

  places: () => unwrap(client.GET('/api/places')),
  addPlace: (name: string, place: Place) =>
    unwrap(client.POST('/api/places', { body: { name, place } })),
  changePlace: ({ id, name, place }: NamedPlace) =>
    unwrap(client.PUT('/api/places/{place_id}', { ...ofPlace(id), body: { name, place } })),
  removePlace: (placeId: number) =>
    unwrap(client.DELETE('/api/places/{place_id}', ofPlace(placeId))),

  treatments: () => unwrap(client.GET('/api/treatments')),
  treatmentOfPage: (pageId: number) =>
    unwrap(client.GET('/api/treatments/of-page/{page_id}', ofPage(pageId))),
  addTreatment: (file: TreatmentFile) => unwrap(client.POST('/api/treatments', { body: file })),
  keepTreatment: (kept: KeptTreatment) =>
    unwrap(client.POST('/api/treatments/kept', { body: kept })),
  changeTreatment: (treatmentId: number, file: TreatmentFile) =>
    unwrap(
      client.PUT('/api/treatments/{treatment_id}', { ...ofTreatment(treatmentId), body: file }),
    ),
  removeTreatment: (treatmentId: number) =>
    unwrap(client.DELETE('/api/treatments/{treatment_id}', ofTreatment(treatmentId))),

  treat: (photo_ids: number[], treatment_id: number, spares_exceptions: boolean) =>
    unwrap(
      client.POST('/api/selection/treatment', {
        body: { photo_ids, treatment_id, spares_exceptions },
      }),
    ),
  changeAims: (photo_ids: number[], changes: AimChange) =>
    unwrap(client.PATCH('/api/selection/aim', { body: { photo_ids, changes } })),
  /** Without settings, in all of them. */
  followPage: (photo_ids: number[], settings?: readonly Setting[]) =>
    unwrap(
      client.POST('/api/selection/page-settings', {
        body: { photo_ids, ...(settings && { settings: [...settings] }) },
      }),
    ),
  pageAsPhoto: (photoId: number) =>
    unwrap(client.PUT('/api/photos/{photo_id}/page-settings', ofPhoto(photoId))),
  changeShares: (photo_ids: number[], shares: Shares) =>
    unwrap(client.PATCH('/api/selection/shares', { body: { photo_ids, ...shares } })),
  movePhotos: (photo_ids: number[], page_id: number) =>
    unwrap(client.POST('/api/selection/move', { body: { photo_ids, page_id } })),
  removePhotos: (photo_ids: number[]) =>
    unwrap(client.POST('/api/selection/removal', { body: { photo_ids } })),
  takeBest: (photo_ids: number[]) =>
    unwrap(client.POST('/api/selection/picks', { body: { photo_ids } })),
  weighAgain: (photo_ids: number[]) =>
    unwrap(client.POST('/api/selection/weighing', { body: { photo_ids } })),

  batch: (pageId: number, signal: AbortSignal) =>
    unwrap(client.GET('/api/pages/{page_id}/batch', { ...ofPage(pageId), ...until(signal) })),
  stopBatch: (pageId: number) =>
    unwrap(client.POST('/api/pages/{page_id}/batch/stop', ofPage(pageId))),
  resumeBatch: (pageId: number) =>
    unwrap(client.POST('/api/pages/{page_id}/batch/resume', ofPage(pageId))),
  endBatch: (pageId: number) => unwrap(client.DELETE('/api/pages/{page_id}/batch', ofPage(pageId))),

  balance: (pageId: number, wish: BalanceWish, signal: AbortSignal) =>
    unwrap(
      client.POST('/api/pages/{page_id}/balance', {
        ...ofPage(pageId),
        ...until(signal),
        body: wish,
      }),
    ),
  measureBalance: (pageId: number, wish: BalanceWish) =>
    unwrap(client.POST('/api/pages/{page_id}/balance/encodes', { ...ofPage(pageId), body: wish })),
  stopMeasuring: (pageId: number) =>
    unwrap(client.DELETE('/api/pages/{page_id}/balance/encodes', ofPage(pageId))),
  takeBalance: (pageId: number, picks: Wire['PhotoPick'][]) =>
    unwrap(
      client.PUT('/api/pages/{page_id}/balance/picks', { ...ofPage(pageId), body: { picks } }),
    ),

  delivery: (pageId: number, signal: AbortSignal) =>
    unwrap(client.GET('/api/pages/{page_id}/delivery', { ...ofPage(pageId), ...until(signal) })),
  writeDelivery: (pageId: number) =>
    unwrap(client.POST('/api/pages/{page_id}/delivery/folder', ofPage(pageId))),
  changeCode: (photo_ids: number[], change: CodeChange) =>
    unwrap(client.PATCH('/api/selection/code', { body: { photo_ids, ...change } })),
  nameFile: (photoId: number, wanted: FileName) =>
    unwrap(client.PUT('/api/photos/{photo_id}/file-name', { ...ofPhoto(photoId), body: wanted })),
  pinned: (photoId: number, encode_id: number, signal: AbortSignal) =>
    unwrap(
      client.GET('/api/photos/{photo_id}/encodes/{encode_id}', {
        params: { path: { photo_id: photoId, encode_id } },
        ...until(signal),
      }),
    ),
  bought: (photoId: number, encode_id: number, other_id: number, signal: AbortSignal) =>
    unwrap(
      client.GET('/api/photos/{photo_id}/encodes/{encode_id}/against/{other_id}', {
        params: { path: { photo_id: photoId, encode_id, other_id } },
        ...until(signal),
      }),
    ),
  fileName: (photoId: number, encode_id: number) =>
    unwrap(
      client.GET('/api/photos/{photo_id}/encodes/{encode_id}/name', {
        params: { path: { photo_id: photoId, encode_id } },
      }),
    ),
  references: (pageId: number, texts: SiteText[], as_pictures: boolean, signal: AbortSignal) =>
    unwrap(
      client.POST('/api/pages/{page_id}/references', {
        ...ofPage(pageId),
        ...until(signal),
        body: { texts, as_pictures },
      }),
    ),
  beginVisit: (pageId: number, wanted: WantedVisit) =>
    unwrap(client.POST('/api/pages/{page_id}/visits', { ...ofPage(pageId), body: wanted })),
  visit: (visitId: number) =>
    unwrap(client.GET('/api/visits/{visit_id}', { params: { path: { visit_id: visitId } } })),

  room: (signal: AbortSignal) => unwrap(client.GET('/api/room', until(signal))),
  reclaim: (forgetsRemoved: boolean) =>
    unwrap(client.POST('/api/room/reclaim', { body: { forgets_removed: forgetsRemoved } })),

  library: () => unwrap(client.GET('/api/library')),
  addFromLibrary: (choice: LibraryChoice) => unwrap(client.POST('/api/library', { body: choice })),

  changePhoto: (photoId: number, change: PhotoChange) =>
    unwrap(client.PATCH('/api/photos/{photo_id}', { ...ofPhoto(photoId), body: change })),
  removePhoto: (photoId: number) =>
    unwrap(client.DELETE('/api/photos/{photo_id}', ofPhoto(photoId))),
  row: (photoId: number) => unwrap(client.GET('/api/photos/{photo_id}/row', ofPhoto(photoId))),
  weighing: (photoId: number, density: number, signal: AbortSignal) =>
    unwrap(
      client.GET('/api/photos/{photo_id}/at/{density_percent}', {
        ...ofPhotoAt(photoId, density),
        ...until(signal),
      }),
    ),
  forecasts: (photoId: number, density: number, signal: AbortSignal) =>
    unwrap(
      client.GET('/api/photos/{photo_id}/at/{density_percent}/forecasts', {
        ...ofPhotoAt(photoId, density),
        ...until(signal),
      }),
    ),
  findings: (photoId: number, signal: AbortSignal) =>
    unwrap(
      client.GET('/api/photos/{photo_id}/findings', { ...ofPhoto(photoId), ...until(signal) }),
    ),
  margins: (photoId: number) =>
    unwrap(client.GET('/api/photos/{photo_id}/margins', ofPhoto(photoId))),
  changeAim: (photoId: number, change: AimChange) =>
    unwrap(client.PATCH('/api/photos/{photo_id}/aim', { ...ofPhoto(photoId), body: change })),
  changeFraming: (photoId: number, change: FramingChange) =>
    unwrap(client.PATCH('/api/photos/{photo_id}/framing', { ...ofPhoto(photoId), body: change })),
  resetFraming: (photoId: number) =>
    unwrap(client.DELETE('/api/photos/{photo_id}/framing', ofPhoto(photoId))),
  setPick: (photoId: number, encodeId: number | null, reason = '') =>
    unwrap(
      client.PUT('/api/photos/{photo_id}/pick', {
        ...ofPhoto(photoId),
        body: { encode_id: encodeId, reason },
      }),
    ),
  giveReason: (photoId: number, reason: string) =>
    unwrap(client.PUT('/api/photos/{photo_id}/reason', { ...ofPhoto(photoId), body: { reason } })),
  pickVariant: (photoId: number, density: number, format: Format, encode_id: number | null) =>
    unwrap(
      client.PUT('/api/photos/{photo_id}/at/{density_percent}/pick', {
        ...ofPhotoAt(photoId, density),
        body: { format, encode_id },
      }),
    ),
  makeEncode: (photoId: number, density: number, wanted: WantedEncode) =>
    unwrap(
      client.POST('/api/photos/{photo_id}/at/{density_percent}/encodes', {
        ...ofPhotoAt(photoId, density),
        body: wanted,
      }),
    ),
  qualitySteps: (photoId: number, density: number, wanted: WantedEncode, signal: AbortSignal) =>
    unwrap(
      client.POST('/api/photos/{photo_id}/at/{density_percent}/quality-steps', {
        ...ofPhotoAt(photoId, density),
        body: wanted,
        ...until(signal),
      }),
    ),
  glimpse: (photoId: number, density: number, wanted: WantedEncode, box: Box) =>
    unwrap(
      client.POST('/api/photos/{photo_id}/at/{density_percent}/glimpses', {
        ...ofPhotoAt(photoId, density),
        body: { ...wanted, box },
      }),
    ),
  damage: (photoId: number, encodeId: number, signal: AbortSignal) =>
    unwrap(
      client.GET('/api/photos/{photo_id}/encodes/{encode_id}/damage', {
        ...until(signal),
        params: { path: { photo_id: photoId, encode_id: encodeId } },
      }),
    ),
  arrival: (photoId: number, encodeId: number, signal: AbortSignal) =>
    unwrap(
      client.GET('/api/photos/{photo_id}/encodes/{encode_id}/arrival', {
        ...until(signal),
        params: { path: { photo_id: photoId, encode_id: encodeId } },
      }),
    ),
  beginRounds: (photoId: number, wanted: WantedRounds) =>
    unwrap(client.POST('/api/photos/{photo_id}/eye', { ...ofPhoto(photoId), body: wanted })),
  answerRound: (seriesId: number, round: number, side: 'a' | 'b') =>
    unwrap(
      client.POST('/api/eye/{series_id}/answers', {
        params: { path: { series_id: seriesId } },
        body: { round, side },
      }),
    ),
  setMarks: (photoId: number, marks: Mark[]) =>
    unwrap(client.PUT('/api/photos/{photo_id}/marks', { ...ofPhoto(photoId), body: { marks } })),
  knobs: () => unwrap(client.GET('/api/knobs')),
  terms: () => unwrap(client.GET('/api/terms')),
  /** What a size or likeness comes to that was typed. */
  readAim: (text: string) => unwrap(client.POST('/api/typed-aims', { body: { text } })),
  readSize: (text: string) => unwrap(client.POST('/api/typed-sizes', { body: { text } })),
  stopSearch: (photoId: number, density: number) =>
    unwrap(
      client.DELETE(
        '/api/photos/{photo_id}/at/{density_percent}/search',
        ofPhotoAt(photoId, density),
      ),
    ),

  journal: (photoId: number, signal: AbortSignal) =>
    unwrap(client.GET('/api/photos/{photo_id}/journal', { ...ofPhoto(photoId), ...until(signal) })),
  undo: (photoId: number) =>
    unwrap(client.POST('/api/photos/{photo_id}/journal/undo', ofPhoto(photoId))),
  redo: (photoId: number) =>
    unwrap(client.POST('/api/photos/{photo_id}/journal/redo', ofPhoto(photoId))),
  goBack: (photoId: number, entryId: number) =>
    unwrap(
      client.PUT('/api/photos/{photo_id}/journal/current', {
        ...ofPhoto(photoId),
        body: { entry_id: entryId },
      }),
    ),
  comparison: (photoId: number, firstId: number, secondId: number, signal: AbortSignal) =>
    unwrap(
      client.GET('/api/photos/{photo_id}/journal/{first_id}/{second_id}', {
        ...until(signal),
        params: { path: { photo_id: photoId, first_id: firstId, second_id: secondId } },
      }),
    ),
}
