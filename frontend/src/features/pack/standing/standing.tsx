import { useEffect, useRef, useState } from 'react'

import { api, type Delivery, type Page, type Visit } from '@/api/client'
import { useVisit } from '@/api/delivery'
import { type Line, useLines } from '@/features/weigh/arrival/lines'
import { Button } from '@/ui/button'
import { Choice } from '@/ui/fields/choice'
import { Segments } from '@/ui/fields/segments'
import { countWords } from '@/words'

import { Frame } from './frame'
import { Report } from './report'
import { type StandingWindow, type Told, windowsFor } from './windows'

/** What came of a visit; the page told nothing where it is late. */
type Stood = { visit: Visit; told: Told | null; again: () => void }
type Chooses = 'picture' | 'accept'

type Density = 'usual' | '1' | '2'

const screens = (usual: number) =>
  [
    {
      value: 'usual',
      text: 'as made for',
      hint: `Phone and tablet at 2×, desktop at ${usual}×, as the page is made for`,
    },
    { value: '1', text: '1×' },
    { value: '2', text: '2×' },
  ] as const
const CHOOSES = [
  {
    value: 'picture',
    text: 'the browser',
    hint: 'It chooses format and density from the page code',
  },
  {
    value: 'accept',
    text: 'the server',
    hint: 'It chooses the format, by what the browser accepts',
  },
] as const
/** A page of more photos is not shown before somebody asks for it. */
const MOST_AT_ONCE = 24

/** The files standing in a page of a made-up site, and what was really sent there. */
export function Standing({ delivery, page }: { delivery: Delivery; page: Page }) {
  const usual = page.settings.density
  const [lines] = useLines()
  const [chooses, setChooses] = useState<Chooses>('picture')
  const [density, setDensity] = useState<Density>('usual')
  const [lineIndex, setLineIndex] = useState('')
  const [chosen, setChosen] = useState('Desktop')
  const [isAsked, setIsAsked] = useState(false)
  const ready = delivery.photos.filter(({ files }) => files.length > 0)
  const isShown = ready.length > 0 && (isAsked || ready.length <= MOST_AT_ONCE)
  const line = lineIndex === '' ? null : (lines[Number(lineIndex)] ?? null)
  return (
    <section
      aria-label="Standing in the page"
      className="flex h-full flex-col gap-3 overflow-auto bg-stage px-4 py-3"
    >
      <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
        <Segments label="Screens" value={density} options={screens(usual)} onChange={setDensity} />
        <Segments
          label="Formats chosen by"
          value={chooses}
          options={CHOOSES}
          onChange={setChooses}
        />
        <Choice
          label="Line"
          isLabelHidden
          className="py-1 text-small"
          value={lineIndex}
          options={[
            { value: '', text: 'as fast as it goes' },
            ...lines.map((each, index) => ({ value: String(index), text: lineWords(each) })),
          ]}
          onChange={setLineIndex}
        />
        <Button
          look="small"
          disabled={ready.length === 0}
          onClick={() => void openIt(delivery.page_id, chooses, line)}
        >
          Open it
        </Button>
      </div>
      {isShown ? (
        <div className="relative flex flex-wrap gap-3">
          <Windows {...{ delivery, usual, chooses, density, line, chosen }} onChoose={setChosen} />
        </div>
      ) : (
        <p className="flex items-center gap-3 text-ink">
          {ready.length === 0 ? (
            'What is taken stands here, in a page of a made-up site.'
          ) : (
            <Button onClick={() => setIsAsked(true)}>
              Show {ready.length} photos standing in a page
            </Button>
          )}
        </p>
      )}
    </section>
  )
}

type WindowsProps = {
  delivery: Delivery
  usual: number
  chooses: Chooses
  density: Density
  line: Line | null
  chosen: string
  onChoose: (name: string) => void
}

function Windows({ delivery, usual, chooses, density, line, chosen, onChoose }: WindowsProps) {
  const [stood, setStood] = useState<Record<string, Stood>>({})
  const version = useWhole(delivery)
  // Browsers have few connections to a server, so one window at a time has the slow line.
  const lineOf = (size: StandingWindow) => (size.name === chosen ? line : null)
  const keyOf = (size: StandingWindow) => JSON.stringify([size, chooses, lineOf(size), version])
  const windows = windowsFor(usual).map((size) =>
    density === 'usual' ? size : { ...size, density: Number(density) },
  )
  const current = windows.find(({ name }) => name === chosen) ?? windows[0]
  if (version === null) {
    return (
      <p role="status" className="flex grow items-center text-ink">
        {countWords(delivery.running, 'file')} being made: they stand here once all are there.
      </p>
    )
  }
  return (
    <>
      {windows.map((size) => (
        <OneWindow
          key={size.name}
          {...{ size, version, chooses }}
          line={lineOf(size)}
          pageId={delivery.page_id}
          isChosen={size.name === chosen}
          onChoose={() => onChoose(size.name)}
          onStood={(each) => setStood((before) => withStood(before, keyOf(size), each))}
        />
      ))}
      {current && <Report size={current} stood={stood[keyOf(current)]} line={line} />}
    </>
  )
}

type OneProps = {
  size: StandingWindow
  version: string
  chooses: Chooses
  line: Line | null
  pageId: number
  isChosen: boolean
  onChoose: () => void
  onStood: (stood: Stood) => void
}

function OneWindow({
  size,
  version,
  chooses,
  line,
  pageId,
  isChosen,
  onChoose,
  onStood,
}: OneProps) {
  const { window_css_px, density } = size
  const wanted = { window_css_px, density, chooses, line }
  const { data: visit, error, refetch } = useVisit(pageId, wanted, version)
  const stand = (told: Told | null) => {
    if (!visit) return
    api.visit(visit.id).then(
      (sent) => onStood({ visit: sent, told, again: () => void refetch() }),
      () => undefined, // the next visit tells
    )
  }
  useLate(visit, line, () => stand(null))
  if (error)
    return (
      <p role="alert" className="w-42 bg-sheet p-2 text-over">
        {error.message}
      </p>
    )
  return <Frame visit={visit} size={size} isChosen={isChosen} onChoose={onChoose} onTold={stand} />
}

/** More than a page takes to tell how it stands, beside the time of its bytes on the line. */
const LATE_MS = 20_000

/** Tells once that a page should have told by now how it stands. */
function useLate(visit: Visit | undefined, line: Line | null, onLate: () => void) {
  const tell = useRef(onLate)
  useEffect(() => {
    tell.current = onLate
  })
  const bits = 8 * (visit?.plan ?? []).reduce((all, { size_bytes }) => all + size_bytes, 0)
  const longest_ms = LATE_MS + (line ? (2 * bits) / line.kbit_s : 0)
  const id = visit?.id
  useEffect(() => {
    if (id === undefined) return
    const timer = setTimeout(() => tell.current(), longest_ms)
    return () => clearTimeout(timer)
  }, [id, longest_ms])
}

/** What stands, once all files are there: it stays while others are being made. */
function useWhole(delivery: Delivery): string | null {
  const version = delivery.running > 0 ? null : versionOf(delivery)
  const [whole, setWhole] = useState(version)
  if (version !== null && version !== whole) setWhole(version)
  return version ?? whole
}

/** What came of visits by what they were of; that one is late does not count once it has told. */
function withStood(before: Record<string, Stood>, key: string, stood: Stood) {
  const known = before[key]
  const isKnown = stood.told === null && known?.told && known.visit.id === stood.visit.id
  return isKnown ? before : { ...before, [key]: stood }
}

/** What stands in the page: other files make another visit. */
function versionOf(delivery: Delivery): string {
  const files = delivery.photos.flatMap((photo) =>
    photo.files.map((file) => `${file.path} ${file.encode?.id ?? ''}`),
  )
  return files.join('\n')
}

/** The page in a window of its own, as large as that is. */
async function openIt(pageId: number, chooses: Chooses, line: Line | null) {
  const density = Math.min(4, Math.max(0.5, window.devicePixelRatio))
  const wanted = { window_css_px: window.innerWidth, density, chooses, line }
  const { address } = await api.beginVisit(pageId, wanted)
  window.open(address, '_blank', 'noopener')
}

const lineWords = ({ kbit_s, round_trip_ms }: Line) =>
  `${kbit_s >= 1000 ? `${kbit_s / 1000} Mbit/s` : `${kbit_s} kbit/s`}, ${round_trip_ms} ms`
