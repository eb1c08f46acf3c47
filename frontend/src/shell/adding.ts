/** Photos come by drop, paste, picker or folder, from any screen, to the page in sight. */
import { createContext, use, useEffect } from 'react'
import { type DropzoneState, useDropzone } from 'react-dropzone'
import { useNavigate } from 'react-router'

import { useUploads } from '@/api/uploads'

import { paths, useWhere } from './where'

type Adding = { dropzone: DropzoneState; addFiles: (files: readonly File[]) => void }

export const AddingContext = createContext<Adding | null>(null)

export function useAdding(): Adding {
  const adding = use(AddingContext)
  if (!adding) throw new Error('useAdding needs the shell')
  return adding
}

/** A single photo is opened to be weighed; of several, the page shows how they come in. */
export function useAddPhotos(): Adding {
  const navigate = useNavigate()
  const { page } = useWhere()
  const { uploads } = useUploads()

  const addFiles = (all: readonly File[]) => {
    const files = all.filter(isMeant)
    if (files.length === 0) return
    if (files.length > 1 && page) void navigate(paths.page(page.id))
    void uploads.add(files, page?.id).then(([photoId]) => {
      if (files.length === 1 && photoId !== undefined) void navigate(paths.weigh(photoId))
    })
  }
  const dropzone = useDropzone({ onDrop: addFiles, noClick: true, noKeyboard: true })

  useEffect(() => {
    const onPaste = (event: ClipboardEvent) => addFiles([...(event.clipboardData?.files ?? [])])
    window.addEventListener('paste', onPaste)
    return () => window.removeEventListener('paste', onPaste)
  })
  return { dropzone, addFiles }
}

/** What systems leave in folders is nobody's photo. */
function isMeant({ name }: File): boolean {
  return !name.startsWith('.') && !['thumbs.db', 'desktop.ini'].includes(name.toLowerCase())
}
