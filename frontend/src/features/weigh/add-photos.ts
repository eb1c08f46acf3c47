import { useEffect, useState } from 'react'
import { useDropzone } from 'react-dropzone'
import { useNavigate } from 'react-router'

import { useAddPhoto, useAddSample } from '@/api/queries'

/** Photos come by drop, paste, picker, or from the demo; each is opened when it is stored. */
export function useAddPhotos() {
  const navigate = useNavigate()
  const addPhoto = useAddPhoto()
  const addSample = useAddSample()
  const [opening, setOpening] = useState<string[]>([])
  const [problems, setProblems] = useState<string[]>([])

  const add = async (name: string, request: () => Promise<{ id: number }>) => {
    setOpening((names) => [...names, name])
    try {
      const { id } = await request()
      await navigate(`/photos/${id}`)
    } catch (error) {
      const message = error instanceof Error ? error.message : String(error)
      setProblems((messages) => [...messages, message])
    } finally {
      setOpening((names) => names.toSpliced(names.indexOf(name), 1))
    }
  }
  const addFiles = async (files: readonly File[]) => {
    setProblems([])
    for (const file of files) await add(file.name, () => addPhoto.mutateAsync(file))
  }
  const dropzone = useDropzone({ onDrop: (files) => void addFiles(files), noClick: true, noKeyboard: true })

  useEffect(() => {
    const onPaste = (event: ClipboardEvent) => {
      const files = [...(event.clipboardData?.files ?? [])]
      if (files.length) void addFiles(files)
    }
    window.addEventListener('paste', onPaste)
    return () => window.removeEventListener('paste', onPaste)
  })

  return {
    opening,
    problem: problems.join(' '),
    clearProblem: () => setProblems([]),
    addSample: (file: string) => void add(file, () => addSample.mutateAsync(file)),
    dropzone,
  }
}
