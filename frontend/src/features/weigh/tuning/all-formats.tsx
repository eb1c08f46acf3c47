import { api, type Format, type Weighing } from '@/api/client'
import { useFindings, usePhotoAct } from '@/api/queries'
import { Choice } from '@/ui/fields/choice'
import { NumberRow } from '@/ui/fields/number-row'
import { sizeWords } from '@/words'

const MOST_PERCENT = 200

type Props = { weighing: Weighing; format: Format }

/** What goes for every format at once, and so has them weighed anew. */
export function AllFormats({ weighing, format }: Props) {
  const { framing, plan } = weighing
  const act = usePhotoAct(weighing.id)
  const policies = useFindings(weighing).data?.policies ?? []
  const amount = framing.sharpen.amount_percent ?? plan.sharpen.amount_percent ?? 0
  return (
    <div role="group" aria-label="For every format" className="space-y-2 border-t border-hair pt-2">
      <h3 className="text-tiny text-soft">For every format, weighed anew</h3>
      <NumberRow
        label="Sharpening"
        hint="Before encoding, after the resize: edges cost bytes. Radius and threshold are in Frame."
        value={Math.min(amount, MOST_PERCENT)}
        least={0}
        most={MOST_PERCENT}
        step={5}
        unit=" %"
        onTurn={(percent) =>
          act.mutateAsync(() =>
            api.changeFraming(weighing.id, {
              sharpen: { ...framing.sharpen, amount_percent: percent },
            }),
          )
        }
      />
      {policies.length > 0 && (
        <Choice
          label="Metadata"
          className="w-44"
          value={framing.metadata}
          options={policies.map(({ policy, name, costs }) => ({
            value: policy,
            text: `${name}, ${sizeWords(costs[format] ?? 0)}`,
          }))}
          onChange={(metadata) => act.mutate(() => api.changeFraming(weighing.id, { metadata }))}
        />
      )}
    </div>
  )
}
