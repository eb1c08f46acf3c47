import type { Weighing } from '@/api/client'
import { PhotoScreen } from '@/shell/photo-screen'

import { Comparison } from './journal/comparison'
import { Panel } from './panel'
import { Picture } from './picture/picture'
import { SharpenStrip } from './sharpening/sharpen-strip'
import { Toolbar } from './toolbar'
import { useFraming } from './use-framing'
import { useShown } from './use-shown'

/** Frame: what came in, and what becomes of it before it is encoded. */
export default function FrameScreen() {
  return <PhotoScreen content={Content} />
}

function Content({ weighing }: { weighing: Weighing }) {
  const framing = useFraming(weighing)
  const [shown] = useShown()
  return (
    <div className="grid min-h-0 min-w-0 grid-cols-[minmax(0,1fr)_19rem] narrow:block">
      {shown.compared.length === 2 ? (
        <Comparison weighing={weighing} entryIds={shown.compared} />
      ) : (
        <main className="grid min-h-0 min-w-0 grid-cols-[minmax(0,1fr)] grid-rows-[auto_minmax(0,1fr)_minmax(13.5rem,auto)] narrow:grid-rows-[auto_22.5rem_auto]">
          <Toolbar weighing={weighing} framing={framing} />
          <Picture weighing={weighing} framing={framing} />
          <SharpenStrip weighing={weighing} framing={framing} />
        </main>
      )}
      <Panel weighing={weighing} framing={framing} />
    </div>
  )
}
