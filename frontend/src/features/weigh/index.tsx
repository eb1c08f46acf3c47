import { Tabs } from 'radix-ui'
import { type ReactNode, useState } from 'react'

import type { Weighing } from '@/api/client'
import { PhotoScreen } from '@/shell/photo-screen'
import { TabNames } from '@/ui/tab-names'
import { useRemembered } from '@/ui/hooks/use-remembered'

import { AimPanel } from './aim/aim-panel'
import { useBought, usePinned } from '@/api/queries'
import { useTries } from '@/api/turns'
import { VariantAim, VariantSwitch } from './aim/variants'
import { Arrival } from './arrival/arrival'
import type { Arriving } from './arrival/lines'
import { Candidates } from './candidates/candidates'
import { Chart } from './chart/chart'
import { EyePanel } from './eye/eye-panel'
import { useEye } from './eye/use-eye'
import { ActionBar } from './candidates/action-bar'
import { UseAll } from './candidates/use-all'
import { Verdict } from './candidates/verdict'
import { isTunable } from './chart/series'
import { Strip } from './spots/strip'
import { useMarks } from './spots/use-marks'
import { useSpots } from './spots/use-spots'
import { Stage } from './stage/stage'
import { TuningPanel } from './tuning/tuning-panel'
import { useLook } from './stage/use-look'
import { useView } from './stage/use-view'
import { useTuning } from './tuning/use-tuning'

/** Tries to go back to. */
const MOST_TRIES = 4

/** Weigh: a photo, its candidates, and what they cost. */
export default function WeighScreen() {
  return <PhotoScreen content={Content} />
}

/**
 * The encode that the stage begins with. A better one that was found in the meantime does not take
 * its place while it is looked at.
 */
function useSteady({ default_id, improved, candidate_ids }: Weighing): number | null {
  const [shown, setShown] = useState<number | null>(null)
  const before = improved.find(({ encode_id }) => encode_id === default_id)?.before_id ?? null
  const steady = shown !== null && shown === before ? shown : default_id
  if (candidate_ids.length > 0 && steady !== shown) setShown(steady)
  return steady
}

function Content({ weighing }: { weighing: Weighing }) {
  const [look, setLook] = useLook()
  const steady = useSteady(weighing)
  const byId = new Map(weighing.encodes.map((encode) => [encode.id, encode]))
  const known = (id: number | null) => byId.get(id ?? 0)
  const candidates = weighing.candidate_ids.map(known).filter((encode) => encode !== undefined)
  const wanted = known(look.candidateId) ?? known(weighing.picked_ids[0] ?? null)
  const best = candidates[0]
  const { pinned: against, isOfOtherSize, isLetGo } = usePinned(weighing, look.againstId)
  const view = useView(weighing.framed)
  const select = (candidateId: number) => {
    tuning.leave()
    setLook({ candidateId })
  }
  const selected = wanted ?? known(steady)
  const { tried, note } = useTries(weighing.id)
  const tuning = useTuning(weighing, view, selected?.id, ({ id }) => {
    if (selected && selected.id !== id) note({ from: selected.id, to: id })
    setLook({ candidateId: id })
  })
  const picked = known(weighing.picked_ids[0] ?? null)
  const found = [...new Set([...candidates, picked])].filter((each) => each !== undefined)
  const tries = [...tried.slice(-MOST_TRIES).map(known), selected]
    .filter((each) => each !== undefined)
    .filter((each, at, all) => !found.includes(each) && all.indexOf(each) === at)
  const isDraft = tuning.glimpse !== null
  const marks = useMarks(weighing)
  const [arriving, setArriving] = useState<Arriving | null>(null)
  const eye = useEye(weighing.id)
  const isBlind = eye.series !== null
  const [chart, setChart] = useRemembered('chart', ['open', 'folded'], 'open')
  const [beside, setBeside] = useState<string>('tune')
  const compared = isOfOtherSize ? undefined : against
  const bought = useBought(weighing.id, isDraft ? undefined : selected, compared)
  const heavier = known(bought?.heavier_id ?? null)
  const spots = useSpots(weighing, isDraft ? undefined : selected, view, bought)
  return (
    <div className="grid min-h-0 min-w-0 grid-cols-[minmax(0,1fr)_clamp(18.5rem,22vw,26rem)] narrow:block">
      <main
        className={`grid min-h-0 min-w-0 grid-cols-[minmax(0,1fr)] narrow:block ${isBlind ? 'grid-rows-[1fr]' : chart === 'open' ? 'grid-rows-[1fr_6rem_clamp(13rem,26vh,24rem)]' : 'grid-rows-[1fr_6rem_2rem]'}`}
      >
        {weighing.framed ? (
          <Stage
            {...{ weighing, against, view, marks, eye }}
            glimpse={tuning.glimpse}
            arriving={arriving?.encodeId === selected?.id ? arriving : null}
            framed={weighing.framed}
            candidate={selected}
            spot={spots.chosen}
          />
        ) : (
          <p role="status" className="flex items-center justify-center bg-stage text-white">
            {weighing.search.state === 'failed' ? 'This photo could not be framed.' : 'Framing …'}
          </p>
        )}
        {isBlind ? null : weighing.framed && selected ? (
          <Strip
            framed={weighing.framed}
            encodes={
              bought && heavier ? [known(bought.lighter_id) ?? selected, heavier] : [selected]
            }
            spots={spots.all}
            verdict={spots.verdict}
            problem={spots.problem}
            chosen={spots.number}
            marks={marks}
            onChoose={spots.choose}
          />
        ) : (
          <div className="border-t border-line bg-desk" />
        )}
        {!isBlind && (
          <Chart
            weighing={weighing}
            selected={selected}
            against={compared}
            tuning={tuning}
            onSelect={select}
            isOpen={chart === 'open'}
            onFold={() => setChart(chart === 'open' ? 'folded' : 'open')}
          />
        )}
      </main>
      <aside
        aria-label="Weighing"
        className="grid min-h-0 min-w-0 grid-cols-[minmax(0,1fr)] grid-rows-[minmax(0,1fr)_auto] border-l border-line bg-sheet"
      >
        <div
          className={`min-h-0 overflow-y-auto narrow:overflow-visible narrow:pb-24 ${isBlind ? 'hidden' : ''}`}
        >
          <VariantSwitch weighing={weighing} />
          {weighing.density === 0 ? (
            <AimPanel
              weighing={weighing}
              onLetGo={(pickedId) => setLook({ candidateId: null, againstId: pickedId })}
            />
          ) : (
            <VariantAim weighing={weighing} />
          )}
          <Verdict {...{ weighing, selected, best, isDraft, bought }} />
          <Candidates
            {...{ weighing, selected, against, isOfOtherSize, isLetGo, tries }}
            candidates={found}
            last={
              best && isTunable(best) ? (
                <UseAll
                  {...{ weighing, best, tuning }}
                  onCompare={(pinned, { id } = selected ?? pinned) =>
                    setLook({ againstId: pinned.id, candidateId: id })
                  }
                />
              ) : null
            }
            onSelect={select}
          />
          {selected && (
            <Beside
              part={beside}
              onPart={setBeside}
              panels={{
                tune: isTunable(selected) ? (
                  <TuningPanel weighing={weighing} selected={selected} tuning={tuning} />
                ) : (
                  <p className="px-3.5 py-3 text-soft">
                    The original goes out untouched, so there is nothing to tune.
                  </p>
                ),
                loading: !isDraft && (
                  <Arrival
                    key={selected.id}
                    weighing={weighing}
                    selected={selected}
                    arriving={arriving?.encodeId === selected.id ? arriving.line : null}
                    onArrive={(line) =>
                      setArriving(
                        line && { line, encodeId: selected.id, turn: (arriving?.turn ?? 0) + 1 },
                      )
                    }
                  />
                ),
                eye: !isDraft && <EyePanel {...{ weighing, selected, eye }} against={compared} />,
              }}
            />
          )}
        </div>
        {isBlind ? (
          <p className="px-3.5 py-3 text-soft">
            Names and numbers are out of sight until the rounds are over.
          </p>
        ) : (
          <ActionBar
            {...{ weighing, selected, isDraft, against }}
            isGood={selected?.meets_aim === true && !weighing.rescue}
            onPin={(againstId) => setLook({ againstId })}
          />
        )}
      </aside>
    </div>
  )
}

const BESIDE = [
  { value: 'tune', text: 'Tune' },
  { value: 'loading', text: 'Loading' },
  { value: 'eye', text: 'Your eye' },
] as const

type Panels = Record<(typeof BESIDE)[number]['value'], ReactNode>

type BesideProps = { part: string; onPart: (part: string) => void; panels: Panels }

/** What can be done beside taking a candidate, each behind a tab. */
function Beside({ part, onPart, panels }: BesideProps) {
  return (
    <Tabs.Root value={part} onValueChange={onPart}>
      <TabNames label="Beside the verdict" tabs={BESIDE} />
      {BESIDE.map(({ value }) => (
        <Tabs.Content key={value} value={value} tabIndex={-1}>
          {panels[value]}
        </Tabs.Content>
      ))}
    </Tabs.Root>
  )
}
