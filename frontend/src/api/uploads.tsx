/** Files on their way to the server: their progress, how to stop them, and which were refused. */
import Uppy from '@uppy/core'
import XHRUpload from '@uppy/xhr-upload'
import { createContext, type ReactNode, use, useState, useSyncExternalStore } from 'react'

import { UNREACHABLE, type Wire } from './client'
import { urls } from './urls'

type Meta = { page_id: number | ''; folder: string; order: number }
type Answer = Wire['AddedResponse']

export type Refusal = { name: string; message: string }

/** Two at a time, as many as the server frames at once; a large photo may take as long as it needs. */
const AT_ONCE = 2

class Uploads {
  readonly uppy = new Uppy<Meta, Answer>({
    autoProceed: true,
    allowMultipleUploadBatches: true,
    // The same file may be sent twice at once.
    onBeforeFileAdded: (file) => ({ ...file, id: `${file.id}-${++this.addedCount}` }),
  })
  private addedCount = 0
  /** Rises with every file, so that they stand in the order in which they were dropped. */
  private order = 0
  private refusals: readonly Refusal[] = []
  private sentCount = 0
  private readonly storedIds = new Map<string, number>()
  private snapshot: Snapshot | undefined
  private readonly listeners = new Set<() => void>()

  constructor() {
    this.uppy.use(XHRUpload, {
      endpoint: urls.upload,
      fieldName: 'photo',
      allowedMetaFields: ['page_id', 'folder', 'order'],
      limit: AT_ONCE,
      timeout: 0,
      shouldRetry: () => false,
    })
    this.uppy.on('state-update', () => this.tell())
    this.uppy.on('upload-success', (file, answer) => {
      if (!file) return
      this.sentCount += 1
      if (answer.body) this.storedIds.set(file.id, answer.body.id)
      this.uppy.removeFile(file.id)
    })
    this.uppy.on('upload-error', (file, _error, request) => {
      if (!file) return
      const message = messageOf(request as XMLHttpRequest | undefined)
      this.refusals = [...this.refusals, { name: file.name ?? 'a file', message }]
      this.uppy.removeFile(file.id)
    })
  }

  /** Sends files to a page; gives the ids of those that were stored when all have ended. */
  async add(files: readonly File[], pageId: number | undefined): Promise<number[]> {
    if (this.uppy.getFiles().length === 0) this.sentCount = 0
    const added = new Set<string>()
    const ids: number[] = []
    return new Promise((resolve) => {
      const leave = ({ id }: { id: string }) => {
        if (!added.delete(id)) return
        const storedId = this.storedIds.get(id)
        if (storedId !== undefined) ids.push(storedId)
        if (added.size > 0) return
        this.uppy.off('file-removed', leave)
        resolve(ids)
      }
      this.uppy.on('file-removed', leave)
      for (const file of files) {
        this.order = Math.max(this.order + 1, Date.now())
        const meta: Meta = { page_id: pageId ?? '', folder: folderOf(file), order: this.order }
        added.add(
          this.uppy.addFile({ name: file.name, type: file.type, data: file, meta, source: 'page' }),
        )
      }
    })
  }

  stop(fileId: string) {
    this.uppy.removeFile(fileId)
  }

  stopAll() {
    for (const file of this.uppy.getFiles()) this.uppy.removeFile(file.id)
  }

  dismissRefusals() {
    this.refusals = []
    this.tell()
  }

  private tell() {
    this.snapshot = undefined
    for (const listener of this.listeners) listener()
  }

  subscribe = (listener: () => void) => {
    this.listeners.add(listener)
    return () => this.listeners.delete(listener)
  }

  read = (): Snapshot => {
    this.snapshot ??= {
      files: this.uppy.getFiles().map(({ id, name, progress }) => ({
        id,
        name: name ?? '',
        percent: Math.round(progress.percentage ?? 0),
        isStarted: Boolean(progress.uploadStarted),
      })),
      sentCount: this.sentCount,
      refusals: this.refusals,
    }
    return this.snapshot
  }
}

/** The folder that a file was dropped or chosen with. */
function folderOf(file: File): string {
  const path = ('path' in file && String(file.path)) || file.webkitRelativePath
  return path
    .replace(/^[./]+/, '')
    .replace(/[^/]*$/, '')
    .replace(/\/$/, '')
}

export type SentFile = { id: string; name: string; percent: number; isStarted: boolean }
type Snapshot = { files: SentFile[]; sentCount: number; refusals: readonly Refusal[] }

function messageOf(request: XMLHttpRequest | undefined): string {
  try {
    return (JSON.parse(request?.responseText ?? '') as Wire['ErrorResponse']).message
  } catch {
    return UNREACHABLE
  }
}

const UploadsContext = createContext<Uploads | null>(null)

export function UploadsProvider({ children }: { children: ReactNode }) {
  const [uploads] = useState(() => new Uploads())
  return <UploadsContext value={uploads}>{children}</UploadsContext>
}

/** What is on its way, and how to send more or stop it. */
export function useUploads() {
  const uploads = use(UploadsContext)
  if (!uploads) throw new Error('useUploads needs an UploadsProvider')
  return { uploads, ...useSyncExternalStore(uploads.subscribe, uploads.read) }
}
