import type { ReactNode } from 'react'

import { api, type AimChange, type Encode, type Weighing } from '@/api/client'
import { usePhotoAct } from '@/api/queries'
import { useWhere } from '@/shell/where'
import { Button } from '@/ui/button'
import { Field } from '@/ui/fields/field'
import { likenessNumber, limitWords, sizeWords } from '@/words'

import { losesTransparency } from './transparency'

type Props = { weighing: Weighing; selected: Encode; best: Encode | undefined }

/** What is to be heeded before this is taken: the gravest only, with the way out. */
export function Caution({ weighing, selected, best }: Props) {
  const { photo } = useWhere()
  const { rescue, second_opinion, close_call, search, density } = weighing
  const isOwn = density === 0
  const isPick = weighing.picked_ids.includes(selected.id)
  const isEnded = search.state === 'done'
  if (isOwn && isPick && photo && photo.over_bytes > 0) return <Over weighing={weighing} />
  if (isOwn && isEnded && best && !best.meets_aim) {
    return <NothingFits weighing={weighing} nearest={best} />
  }
  if (isOwn && rescue && weighing.aim.limit_bytes !== null) return <Ruined weighing={weighing} />
  if (losesTransparency(selected, weighing)) {
    return <Box label="Transparency">It is filled with the colour of the page.</Box>
  }
  const isFirst = selected.id === best?.id
  const words = isFirst && isEnded ? (second_opinion?.sentence ?? close_call?.sentence) : undefined
  return words ? <Box label="A second look">{words}</Box> : null
}

type BoxProps = { label: string; isGrave?: boolean; children: ReactNode }

function Box({ label, isGrave = false, children }: BoxProps) {
  return (
    <section
      aria-label={label}
      role="status"
      className={`mt-2 space-y-2 border-l-[3px] bg-wash px-2.5 py-1.5 ${isGrave ? 'border-over' : 'border-navy'}`}
    >
      {children}
    </section>
  )
}

/** A pick over its limit: by how much, and the reason, which is asked for. */
function Over({ weighing }: { weighing: Weighing }) {
  const { photo } = useWhere()
  const give = usePhotoAct(weighing.id)
  if (!photo) return null
  return (
    <Box label="Over its limit" isGrave>
      <p className="font-semibold text-over">{sizeWords(photo.over_bytes)} over its limit.</p>
      <Field
        label="Reason"
        text={photo.reason}
        read={(text) => (text.length <= 200 ? text : null)}
        problem="Up to 200 characters."
        onEnter={(text) => give.mutate(() => api.giveReason(weighing.id, text))}
        className="w-48"
      />
    </Box>
  )
}

/** When no candidate meets the aim: by how much it is missed, and the ways out. */
function NothingFits({ weighing, nearest }: { weighing: Weighing; nearest: Encode }) {
  const act = usePhotoAct(weighing.id)
  const change = (aim: AimChange) => act.mutate(() => api.changeAim(weighing.id, aim))
  const { aim, plan } = weighing
  const limit = aim.limit_bytes
  const enough = Math.ceil(nearest.size_bytes / 100) * 100
  const reached = Math.floor(nearest.likeness)
  return (
    <Box label="Nothing fits" isGrave>
      {limit !== null ? (
        <p>
          <b className="font-semibold text-over">Nothing fits {limitWords(limit)}.</b> The smallest
          worth a look is {nearest.name} at {sizeWords(nearest.size_bytes)},{' '}
          {sizeWords(nearest.size_bytes - limit)} over.
        </p>
      ) : (
        <p>
          <b className="font-semibold text-over">Nothing reaches likeness {aim.likeness}.</b> The
          nearest is {nearest.name} at {likenessNumber(nearest.likeness)}.
        </p>
      )}
      <div className="flex flex-wrap gap-2">
        {limit !== null ? (
          <Button look="small" onClick={() => change({ limit_bytes: enough })}>
            Allow {limitWords(enough)}
          </Button>
        ) : (
          <Button look="small" disabled={reached < 0} onClick={() => change({ likeness: reached })}>
            Accept likeness {reached}
          </Button>
        )}
        <Button look="small" onClick={() => change({ size: plan.smaller })}>
          Stand at {plan.smaller}
        </Button>
      </div>
    </Box>
  )
}

/** When the limit ruins the picture: said as soon as a format has ended, with what would do. */
function Ruined({ weighing }: { weighing: Weighing }) {
  const act = usePhotoAct(weighing.id)
  const { rescue, search, aim } = weighing
  if (!rescue || aim.limit_bytes === null) return null
  const enough = limitWords(rescue.limit_bytes)
  return (
    <Box label="Limit" isGrave>
      <p>
        <b className="font-semibold text-over">
          {limitWords(aim.limit_bytes)} {search.state === 'running' ? 'seems' : 'is'} too little
          here.
        </b>{' '}
        {rescue.is_estimate ? 'About ' : ''}
        {enough} would make it {rescue.words}.
      </p>
      <Button
        look="small"
        onClick={() =>
          act.mutate(() => api.changeAim(weighing.id, { limit_bytes: rescue.limit_bytes }))
        }
      >
        Allow {enough}
      </Button>
    </Box>
  )
}
