import type { Aim, AimChange, Format, Weighing } from '@/api/client'
import { useChangeAim, useChangeFraming, useStopSearch } from '@/api/queries'
import { Button } from '@/ui/button'
import { Choice } from '@/ui/choice'
import { ColourField } from '@/ui/colour-field'
import { DENSITIES, densityOf } from '@/ui/densities'
import { Field } from '@/ui/field'
import { Segments } from '@/ui/segments'
import {
  FORMAT_NAMES,
  LIKENESS_LEVELS,
  limitWords,
  parseLimit,
  parsePixels,
  pixelWords,
  sizeWords,
} from '@/words'

/** What the photo may weigh and where it stands. A change starts a new search. */
export function AimPanel({ weighing }: { weighing: Weighing }) {
  const { aim, search, source, framed, framing } = weighing
  const changing = useChangeAim(weighing.id)
  const reframing = useChangeFraming(weighing.id)
  const stop = useStopSearch(weighing.id)
  const change = (changes: AimChange) => changing.mutate(changes)
  const place = aim.place
  return (
    <section aria-label="Aim" className="space-y-2.5 border-b border-line px-3.5 py-3">
      <div className="flex items-center justify-between gap-2">
        <span className="text-soft">Aim for</span>
        <Segments
          label="Aim for"
          value={aim.likeness === null ? 'bytes' : 'likeness'}
          options={WAYS}
          onChange={(way) => change({ likeness: way === 'bytes' ? null : FIRST_LIKENESS })}
        />
      </div>
      {aim.likeness === null ? (
        <Field
          label="At most"
          text={limitWords(aim.limit_bytes)}
          read={parseLimit}
          problem="Write a size like 80 kB, 80 KiB or 80000 B."
          onEnter={(text) => change({ limit_bytes: parseLimit(text) ?? aim.limit_bytes })}
          {...LOOK}
        />
      ) : (
        <Choice
          label="No worse than"
          value={String(aim.likeness)}
          options={levelsWith(aim.likeness)}
          onChange={(level) => change({ likeness: Number(level) })}
        />
      )}
      <Field
        label="Stands"
        text={`${place.css_width_px} px`}
        read={parsePixels}
        problem="Write a width of 1 to 16384 CSS pixels."
        onEnter={(text) => change({ css_width_px: parsePixels(text) ?? place.css_width_px })}
        {...LOOK}
        after={
          <Segments
            label="Density"
            value={densityOf(place)}
            options={DENSITIES}
            onChange={(to) => change({ density: Number(to) })}
          />
        }
      />
      {framed?.is_transparent && (
        <ColourField
          label="Colour of the page behind it"
          hint="JPEG has no transparency and is filled with it"
          value={framing.background}
          onChoice={(background) => reframing.mutate({ background })}
        />
      )}
      <FormatSwitches aim={aim} onChange={(formats) => change({ formats })} />
      <div className="flex min-h-7 items-center justify-between text-[11.5px] text-soft">
        <span>
          {pixelWords(source)} px, {sizeWords(source.size_bytes)}
          {framed ? `, framed to ${pixelWords(framed)}` : ''}
        </span>
        {search.state === 'running' && (
          <Button look="quiet" onClick={() => stop.mutate(undefined)}>
            Stop weighing
          </Button>
        )}
        {search.state === 'stopped' && (
          <Button look="quiet" onClick={() => change({})}>
            Weigh on
          </Button>
        )}
      </div>
      {search.error_message && <p className="text-over">{search.error_message}</p>}
    </section>
  )
}

const WAYS = [
  { value: 'bytes', text: 'A limit', hint: 'The best that these bytes can give' },
  { value: 'likeness', text: 'A likeness', hint: 'The fewest bytes that look like this' },
] as const
const FIRST_LIKENESS = 80

function levelsWith(likeness: number) {
  const own = { value: String(likeness), text: `likeness ${likeness}` }
  const isLevel = LIKENESS_LEVELS.some(({ value }) => value === own.value)
  return isLevel ? LIKENESS_LEVELS : [own, ...LIKENESS_LEVELS]
}

const FORMATS = Object.keys(FORMAT_NAMES) as Format[]
/** What every browser and mail program opens. */
const EVERYWHERE: Format[] = ['jpeg', 'png']

type SwitchProps = { aim: Aim; onChange: (formats: Format[]) => void }

/** Which formats may win. */
function FormatSwitches({ aim, onChange }: SwitchProps) {
  const isEverywhere = aim.formats.join() === EVERYWHERE.join()
  return (
    <div role="group" aria-label="Formats" className="flex items-center justify-between text-xs">
      {FORMATS.map((format) => (
        <label key={format} className="flex items-center gap-1">
          <input
            type="checkbox"
            checked={aim.formats.includes(format)}
            disabled={aim.formats.length === 1 && aim.formats[0] === format}
            onChange={(event) =>
              onChange(
                FORMATS.filter((each) =>
                  each === format ? event.target.checked : aim.formats.includes(each),
                ),
              )
            }
          />
          {FORMAT_NAMES[format]}
        </label>
      ))}
      <Button
        look="quiet"
        title="Only formats that open everywhere, in old mail programs too"
        onClick={() => onChange(isEverywhere ? FORMATS : EVERYWHERE)}
      >
        {isEverywhere ? 'All' : 'Safe'}
      </Button>
    </div>
  )
}

const LOOK = { className: 'w-[80px] text-[15px] font-semibold', labelClass: 'w-12 text-soft' }
