import type { ReactNode } from 'react'

import type { AimChange, Weighing } from '@/api/client'
import { Hint } from '@/ui/hint'
import { pixelWords, standingWords } from '@/words'

import { DENSITIES, densityOf } from '../fields/densities'
import { Field } from '../fields/field'
import { Segments } from '../fields/segments'
import { FitOfSize } from './fit-of-size'

type Props = {
  weighing: Weighing
  onChange: (changes: AimChange) => Promise<unknown>
  labelClass: string
  after?: ReactNode
}

/** How large a photo stands and on how dense a screen, and what comes of it. */
export function SizeControls({ weighing, onChange, labelClass, after }: Props) {
  const { aim, plan } = weighing
  const { size } = aim.place
  const change = (changes: AimChange) => void onChange(changes).catch(() => undefined)
  const onEnter = (typed: string) => onChange({ size: typed })
  return (
    <>
      <Hint words="1200, 600 × 450, x 450, 1500 long, 60 %, as it came, 10 × 15 cm at 300 dpi">
        <div>
          <Field
            label="Size"
            text={size}
            onEnter={onEnter}
            labelClass={labelClass}
            className="w-49 text-lead font-semibold"
          />
        </div>
      </Hint>
      <div className="flex items-center gap-2">
        <span className={labelClass} aria-hidden>
          at
        </span>
        <Segments
          label="Density"
          value={densityOf(aim.place)}
          options={DENSITIES}
          onChange={(density) => change({ density: Number(density) })}
        />
        <FitOfSize size={size} onEnter={onEnter} />
      </div>
      <div className="flex items-center justify-between gap-2 text-small text-soft">
        <p>
          <span className="num">{standingWords(plan)}</span>, sent as{' '}
          <span className="num">{pixelWords(plan)}</span>
        </p>
        {after}
      </div>
    </>
  )
}

/** Whether a file may have fewer pixels than are asked for. */
export function FewerPixels({ weighing, onChange }: Pick<Props, 'weighing' | 'onChange'>) {
  return (
    <Hint words="Fewer pixels, less damaged by the encoder, often look better for the same bytes">
      <label className="flex items-center gap-2 text-small text-soft">
        <input
          type="checkbox"
          checked={weighing.plan.may_have_fewer_pixels}
          onChange={(event) =>
            void onChange({ fewer_pixels: event.target.checked }).catch(() => undefined)
          }
        />
        Or fewer pixels, where that looks better
      </label>
    </Hint>
  )
}
