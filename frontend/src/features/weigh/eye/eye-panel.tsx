import { api, type Encode, type Weighing } from '@/api/client'
import { usePhotoAct } from '@/api/queries'
import { Button } from '@/ui/button'

import type { Eye } from './use-eye'

type Props = { weighing: Weighing; selected: Encode; against: Encode | undefined; eye: Eye }

/** The person's own eye: rounds without names, and what came of them. */
export function EyePanel({ weighing, selected, against, eye }: Props) {
  const act = usePhotoAct(weighing.id)
  const { outcomes, second_opinion, candidate_ids, own_threshold } = weighing
  const other = [against?.id, second_opinion?.encode_id, ...candidate_ids].find(
    (id) => id !== undefined && id !== selected.id,
  )
  const otherName = weighing.encodes.find(({ id }) => id === other)?.name
  const ofOne = { encode_id: selected.id, other_id: null, from_ruin: true }
  return (
    <section aria-label="Your own eye" className="px-3.5 py-3">
      <div className="space-y-2">
        <p className="flex items-center justify-between gap-2">
          <span className="text-soft">Can you tell {selected.name} from the original?</span>
          <Button look="small" onClick={() => eye.begin({ kind: 'check', ...ofOne })}>
            Blind check
          </Button>
        </p>
        {other !== undefined && (
          <p className="flex items-center justify-between gap-2">
            <span className="text-soft">
              {selected.name} or {otherName}: which is nearer?
            </span>
            <Button
              look="small"
              onClick={() => eye.begin({ ...ofOne, kind: 'choice', other_id: other })}
            >
              Blind choice
            </Button>
          </p>
        )}
        <p className="flex items-center justify-between gap-2">
          <span className="text-soft">Where do you stop noticing?</span>
          <span className="flex gap-1">
            <Button look="small" onClick={() => eye.begin({ kind: 'threshold', ...ofOne })}>
              Start low
            </Button>
            <Button
              look="small"
              onClick={() => eye.begin({ kind: 'threshold', ...ofOne, from_ruin: false })}
            >
              Start high
            </Button>
          </span>
        </p>
        {outcomes.length > 0 && (
          <ul className="list-disc space-y-0.5 pl-4 text-small">
            {outcomes.map((outcome, number) => (
              <li key={number}>{outcome.words}.</li>
            ))}
          </ul>
        )}
        {own_threshold?.likeness && (
          <Button
            look="quiet"
            className="px-0"
            hint={own_threshold.words}
            onClick={() =>
              act.mutate(() => api.changeAim(weighing.id, { likeness: own_threshold.likeness }))
            }
          >
            Aim for no visible change, for me ({own_threshold.likeness})
          </Button>
        )}
      </div>
    </section>
  )
}
