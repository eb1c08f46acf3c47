import { type ReactNode, useRef } from 'react'

import { useAdding } from '@/shell/adding'
import { Button } from '@/ui/button'

type Props = { look: 'plain' | 'quiet'; children: ReactNode }

/** Adds all files of a folder. */
export function FolderButton({ look, children }: Props) {
  const { addFiles } = useAdding()
  const input = useRef<HTMLInputElement>(null)
  return (
    <>
      <Button look={look} onClick={() => input.current?.click()}>
        {children}
      </Button>
      <input
        ref={input}
        type="file"
        aria-label="Folder of photos"
        className="hidden"
        multiple
        {...{ webkitdirectory: '' }}
        onChange={(event) => {
          addFiles([...(event.target.files ?? [])])
          event.target.value = ''
        }}
      />
    </>
  )
}
