// What pairs of a mean worth and a swing an event could have, if its weights and chances moved within bounds:
// for each mean the least swing. Choosing a point proposes its numbers.
import { useState } from 'react'
import { useFrontier } from '@/game/queries'
import { FrontierPlot } from '@/plots/Frontier'
import { proposeNumbers } from '@/tuning/tuning'
import { Choice } from '@/ui/Choice'
import { Pending } from '@/ui/Pending'

const FACTORS = [1.2, 1.5, 2, 3]

export function MeanAgainstSwing() {
  const [open, setOpen] = useState(false)
  return (
    <div className="pt-2">
      <button
        type="button"
        aria-expanded={open}
        className="label underline decoration-hair underline-offset-2 hover:text-ink"
        onClick={() => setOpen(!open)}
      >
        mean against swing
      </button>
      {open && <Opened />}
    </div>
  )
}

function Opened() {
  const [most, setMost] = useState(2)
  const answer = useFrontier(most)
  const { data } = answer
  return (
    <>
      <p className="text-small text-muted">
        The least swing for each mean, if no weight or chance moves by more than{' '}
        <Choice
          label="by which factor numbers may move"
          value={String(most)}
          options={Object.fromEntries(FACTORS.map((x) => [x, `×${x}`]))}
          onChange={(next) => setMost(Number(next))}
        />
      </p>
      {!data && <Pending of={answer} what="the least swing" />}
      {data && (
        <FrontierPlot data={data} onChoose={(point) => void proposeNumbers(point.numbers)} />
      )}
    </>
  )
}
