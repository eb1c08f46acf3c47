import type { Weighing } from '@/api/client'
import { PhotoScreen } from '@/shell/photo-screen'
import { isKept, isMet } from '@/words'

import { AimPanel } from './aim-panel'
import { bestSoFar, Candidates } from './candidates'
import { Chart } from './chart'
import { Outcome } from './outcome'
import { NothingFits } from './nothing-fits'
import { isTunable } from './series'
import { Stage } from './stage'
import { TuningPanel } from './tuning-panel'
import { useLook } from './use-look'
import { useTuning } from './use-tuning'

/** Weigh: a photo, its candidates, and what they cost. */
export function WeighScreen() {
  return <PhotoScreen desk={Desk} />
}

/** While nothing has ended yet, the stage shows what came first. */
const FORMATS_BY_SPEED = ['jpeg', 'webp', 'avif', 'png'] as const

function Desk({ weighing }: { weighing: Weighing }) {
  const [look, setLook] = useLook()
  const byId = new Map(weighing.encodes.map((encode) => [encode.id, encode]))
  const known = (id: number | null) => byId.get(id ?? 0)
  const candidates = weighing.candidate_ids.map(known).filter((encode) => encode !== undefined)
  const wanted = known(look.candidateId) ?? known(weighing.pick_id)
  const soFar = FORMATS_BY_SPEED.map((format) => bestSoFar(weighing, format)).find(Boolean)
  const rows = wanted && !candidates.includes(wanted) ? [...candidates, wanted] : candidates
  const best = candidates[0]
  const against = known(look.againstId)
  const tuning = useTuning(weighing.id, ({ id }) => setLook({ candidateId: id }))
  const select = (candidateId: number) => {
    tuning.leave()
    setLook({ candidateId })
  }
  const inSight = wanted ?? candidates[0] ?? soFar
  const draft = inSight && tuning.draft?.encodeId === inSight.id ? tuning.draft : null
  const isDraft = draft !== null
  const selected = inSight && draft ? { ...inSight, settings: draft.wish.settings } : inSight
  return (
    <div className="grid min-h-0 min-w-0 grid-cols-[1fr_296px]">
      <main className="grid min-h-0 min-w-0 grid-rows-[1fr_236px]">
        {weighing.framed ? (
          <Stage
            framed={weighing.framed}
            candidate={selected}
            isDraft={isDraft}
            against={against}
            background={weighing.framed.is_transparent ? weighing.framing.background : 'none'}
          />
        ) : (
          <p role="status" className="flex items-center justify-center bg-stage text-white">
            {weighing.search.state === 'failed' ? 'This photo could not be framed.' : 'Framing …'}
          </p>
        )}
        <Chart
          weighing={weighing}
          selected={selected}
          against={against}
          tuning={tuning}
          onSelect={select}
        />
      </main>
      <aside
        aria-label="Weighing"
        className="min-h-0 overflow-y-auto border-l border-line bg-sheet"
      >
        <AimPanel weighing={weighing} />
        {weighing.search.state === 'done' && best && !isMet(weighing.aim, best) && (
          <NothingFits weighing={weighing} nearest={best} />
        )}
        <Outcome weighing={weighing} />
        <Candidates
          weighing={weighing}
          candidates={rows}
          selected={selected}
          isDraft={isDraft}
          onSelect={select}
          against={against}
          onPin={(againstId) => setLook({ againstId })}
        />
        {selected && isTunable(selected) && (
          <TuningPanel weighing={weighing} selected={selected} tuning={tuning} />
        )}
        {selected && isKept(selected) && (
          <p className="px-3.5 py-3 text-soft">
            The original goes out untouched, so there is nothing to tune.
          </p>
        )}
      </aside>
    </div>
  )
}
