import { Tabs } from 'radix-ui'

import type { Weighing } from '@/api/client'
import { TabNames } from '@/ui/tab-names'
import { useFindings } from '@/api/queries'

import { Findings } from './sections/findings'
import { Journal } from './journal/journal'
import { MetadataSection } from './sections/metadata-section'
import { PixelsSection } from './sections/pixels-section'
import { PlaceSection } from './places/place-section'
import { CropSection } from './sections/crop-section'
import type { FramingEditor } from './use-framing'
import { PANELS, type PanelName, useShown } from './use-shown'

const NAMES: Record<PanelName, string> = {
  framing: 'Size and pixels',
  'came-in': 'What came in',
  journal: 'Journal',
}
const TABS = PANELS.map((value) => ({ value, text: NAMES[value] }))

type Props = { weighing: Weighing; framing: FramingEditor }

/** What came in, what becomes of it, and every step so far. */
export function Panel({ weighing, framing }: Props) {
  const [shown, setShown] = useShown()
  const findings = useFindings(weighing).data
  return (
    <Tabs.Root
      value={shown.panel}
      onValueChange={(value) => {
        const panel = PANELS.find((name) => name === value)
        if (panel) setShown({ panel })
      }}
      asChild
    >
      <aside
        aria-label="Framing details"
        className="grid min-h-0 grid-rows-[auto_minmax(0,1fr)] border-l border-line bg-sheet"
      >
        <TabNames label="Details" tabs={TABS} />
        <div className="min-h-0 overflow-y-auto">
          <Tabs.Content value="came-in">
            {findings ? (
              <Findings findings={findings.findings} sizeBytes={weighing.source.size_bytes} />
            ) : (
              <p className="p-3.5 text-soft">Looking …</p>
            )}
          </Tabs.Content>
          <Tabs.Content value="framing">
            <PlaceSection weighing={weighing} framing={framing} />
            <CropSection weighing={weighing} framing={framing} />
            <PixelsSection weighing={weighing} framing={framing} />
            {findings && (
              <MetadataSection
                policies={findings.policies}
                value={framing.shown.metadata}
                onChange={(metadata) => framing.change({ metadata })}
              />
            )}
          </Tabs.Content>
          <Tabs.Content value="journal">
            <Journal weighing={weighing} />
          </Tabs.Content>
        </div>
      </aside>
    </Tabs.Root>
  )
}
