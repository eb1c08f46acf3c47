import type { Weighing } from '@/api/client'
import { useWeighing } from '@/api/queries'
import { NoPhoto } from '@/shell/no-photo'
import { PhotoRail } from '@/shell/photo-rail'
import { useWhere } from '@/shell/where'

import { Comparison } from './comparison'
import { Panel } from './panel'
import { Picture } from './picture'
import { SharpenStrip } from './sharpen-strip'
import { Toolbar } from './toolbar'
import { useFraming } from './use-framing'
import { useShown } from './use-shown'

/** Frame: what came in, and what becomes of it before it is encoded. */
export function FrameScreen() {
  const { photo, isLoaded } = useWhere()
  return (
    <div className="grid min-h-0 grid-cols-[212px_minmax(0,1fr)]">
      <PhotoRail />
      {photo ? <PhotoDesk key={photo.id} photoId={photo.id} /> : <NoPhoto isLoaded={isLoaded} />}
    </div>
  )
}

function PhotoDesk({ photoId }: { photoId: number }) {
  const weighing = useWeighing(photoId)
  if (weighing.data) return <Desk weighing={weighing.data} />
  return <main aria-busy className="bg-stage" />
}

function Desk({ weighing }: { weighing: Weighing }) {
  const framing = useFraming(weighing)
  const [shown] = useShown()
  return (
    <div className="grid min-h-0 min-w-0 grid-cols-[minmax(0,1fr)_304px]">
      {shown.compared.length === 2 ? (
        <Comparison weighing={weighing} entryIds={shown.compared} />
      ) : (
        <main className="grid min-h-0 min-w-0 grid-rows-[auto_minmax(0,1fr)_216px]">
          <Toolbar weighing={weighing} framing={framing} />
          <Picture weighing={weighing} framing={framing} />
          <SharpenStrip weighing={weighing} framing={framing} />
        </main>
      )}
      <Panel weighing={weighing} framing={framing} />
    </div>
  )
}
