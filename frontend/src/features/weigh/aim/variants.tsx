import { useSearchParams } from 'react-router'

import type { Weighing } from '@/api/client'
import { Segments } from '@/ui/fields/segments'
import { aimWords, pixelWords } from '@/words'

/** The photo as it is taken, or its variants at another density or in other formats. */
export function VariantSwitch({ weighing }: { weighing: Weighing }) {
  const [params, setParams] = useSearchParams()
  if (weighing.densities.length === 0) return null
  const look = (density: string) => {
    const next = new URLSearchParams(params)
    for (const name of ['density', 'candidate', 'against']) next.delete(name)
    if (density !== '0') next.set('density', density)
    setParams(next, { replace: true })
  }
  return (
    <section
      aria-label="Variants"
      className="flex items-center justify-between gap-2 border-b border-line px-3.5 py-2"
    >
      <Segments
        label="Look at"
        value={String(weighing.density)}
        options={[
          { value: '0', text: 'pick' },
          ...weighing.densities.map((density) => ({
            value: String(density),
            text: `variants, ${density}×`,
          })),
        ]}
        onChange={look}
      />
    </section>
  )
}

/** What the variants at a density are searched for; it follows from the photo, and Pack. */
export function VariantAim({ weighing }: { weighing: Weighing }) {
  const { aim, framed } = weighing
  return (
    <section aria-label="Aim" className="border-b border-line px-3.5 py-3">
      <p>
        Searched for <b className="font-semibold">{aimWords(aim)}</b>
        {framed && ` at ${pixelWords(framed)} px`}.{' '}
        <span className="text-soft">
          What you take is handed over instead of the best that is found. Densities, formats and
          what they are searched for are chosen on Pack.
        </span>
      </p>
    </section>
  )
}
