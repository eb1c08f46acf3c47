import { Button } from '@/ui/button'
import { pixelWords } from '@/words'

import type { FramingEditor } from '../use-framing'

/** What trimming would take away, before it does. */
export function TrimQuestion({ framing }: { framing: FramingEditor }) {
  const { margins, picture, crop } = framing
  const { box } = margins
  return (
    <div
      role="status"
      className="absolute top-2.5 flex items-center gap-3 rounded-md border border-ink bg-field px-3 py-2"
    >
      {box ? (
        <>
          <p>
            Empty margins found. {pixelWords(box)} of {pixelWords(picture)} would stay.
          </p>
          <Button
            look="main"
            onClick={() => {
              crop.send(box)
              margins.forget()
            }}
          >
            Trim
          </Button>
          <Button onClick={margins.forget}>Cancel</Button>
        </>
      ) : (
        <>
          <p>There are no empty margins to trim.</p>
          <Button onClick={margins.forget}>Close</Button>
        </>
      )}
    </div>
  )
}
