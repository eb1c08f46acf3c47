import { useState } from 'react'
import { Link } from 'react-router'

import { api, type DeliveredFile } from '@/api/client'
import { urls } from '@/api/urls'
import { useAct, usePhotoAct } from '@/api/queries'
import { paths } from '@/shell/where'
import { NameField } from '@/ui/fields/name-field'
import { FormatMark } from '@/ui/format-mark'
import { aimWords, exactWords, likenessNumber, sizeWords } from '@/words'

type Props = { photoId: number; file: DeliveredFile }

/** A file: its name, which can be written over, what it weighs and how alike it looks. */
export function FileRow({ photoId, file }: Props) {
  const act = useAct()
  const again = usePhotoAct(photoId)
  const [isNaming, setIsNaming] = useState(false)
  const { density, format, encode } = file
  const isOver = encode !== null && !encode.meets_aim
  const rename = (name: string | null) => {
    setIsNaming(false)
    if (name) act.mutate(() => api.nameFile(photoId, { density, format, name }))
  }
  return (
    <tr className="[&>td]:py-0.5">
      <td className="min-w-0">
        {isNaming ? (
          <NameField label={`Name of ${file.path}`} name={file.path} onDone={rename} />
        ) : (
          <span className="flex items-center gap-1.5">
            <FormatMark format={format} />
            <button
              type="button"
              title={`${file.path}${file.is_pick ? ', taken' : ''}: click to name it`}
              className="num min-h-6 min-w-0 text-left text-small break-all hover:underline"
              onClick={() => setIsNaming(true)}
            >
              {file.path}
            </button>
          </span>
        )}
      </td>
      <td className="num text-right text-small text-soft">{density}×</td>
      {encode ? (
        <>
          <td
            title={`${exactWords(encode.size_bytes)}, made for ${aimWords(file.aim)}`}
            className={`num text-right text-small whitespace-nowrap ${isOver ? 'font-semibold text-over' : ''}`}
          >
            {sizeWords(encode.size_bytes)}
            {isOver && <span className="sr-only"> misses the aim</span>}
          </td>
          <td className="num text-right text-small">
            <Link
              className="inline-block py-1 hover:underline"
              aria-label={`Weigh ${file.path}, likeness ${likenessNumber(encode.likeness)}`}
              title={`${encode.likeness_words}: see it on Weigh`}
              to={file.is_pick ? paths.weigh(photoId) : paths.variants(photoId, density, encode.id)}
            >
              {likenessNumber(encode.likeness)}
            </Link>
          </td>
          <td className="text-right">
            <a
              aria-label={`Save ${file.path}`}
              title="Save this file"
              href={urls.download(photoId, encode.id)}
              download
              className="inline-block rounded-sm p-1 align-middle hover:bg-hair"
            >
              <svg viewBox="0 0 16 16" className="size-4 fill-none stroke-navy" aria-hidden>
                <path d="M8 2.5v7.5M4.8 7L8 10.2L11.2 7M3 13.5h10" strokeWidth="1.4" />
              </svg>
            </a>
          </td>
        </>
      ) : (
        <td colSpan={3} className="text-right text-small text-soft" title={file.error ?? ''}>
          {file.state === 'running' ? (
            'being made'
          ) : file.state === 'left out' ? (
            file.error
          ) : (
            <button
              type="button"
              className="text-over hover:underline"
              onClick={() => again.mutate(() => api.changeAim(photoId, {}))}
            >
              not made, try again
            </button>
          )}
        </td>
      )}
    </tr>
  )
}
