import type { ComponentType } from 'react'

import { Link, useSearchParams } from 'react-router'

import type { Weighing } from '@/api/client'
import { useWeighing } from '@/api/queries'
import { buttonClass } from '@/ui/button'

import { PhotoRail } from './rails/photo-rail'
import { useWhere } from './where'

type Props = { content: ComponentType<{ weighing: Weighing }> }

/** A screen for one photo: the rail to choose it from, and its content. */
export function PhotoScreen({ content }: Props) {
  const { photo, isLoaded } = useWhere()
  return (
    <div className="grid min-h-0 grid-cols-[13.25rem_minmax(0,1fr)] narrow:block">
      <PhotoRail />
      {photo ? (
        <Loaded key={photo.id} photoId={photo.id} content={content} />
      ) : (
        <Nothing
          isBusy={!isLoaded}
          words={isLoaded ? 'There is no such photo, or it was removed.' : undefined}
        />
      )}
    </div>
  )
}

function Loaded({ photoId, content: Content }: Props & { photoId: number }) {
  const [params] = useSearchParams()
  const density = Number(params.get('density')) || 0
  const weighing = useWeighing(photoId, density)
  // What is begun at one density does not go on at another.
  if (weighing.data) return <Content key={density} weighing={weighing.data} />
  return <Nothing isBusy={!weighing.error} words={weighing.error?.message} />
}

function Nothing({ isBusy, words }: { isBusy: boolean; words: string | undefined }) {
  return (
    <main aria-busy={isBusy} className="flex items-center justify-center bg-stage">
      {words && (
        <div className="space-y-2 rounded-md bg-sheet p-4">
          <p>{words}</p>
          <Link className={buttonClass('plain')} to="/">
            Back to the photos
          </Link>
        </div>
      )}
    </main>
  )
}
