// A trial: set up, watch, and look at what came of it beside what was expected.
import { useTrial } from '@/game/queries'
import { BesideTrial } from './BesideTrial'
import { Head } from './Head'
import { Outcome } from './Outcome'
import { Progress } from './Progress'
import { TrialForm } from './TrialForm'

export { ReplayTray } from './ReplayTray'
export { TrialReading } from './TrialReading'

export function TrialSheet({ id }: { id: string }) {
  const { data: trial } = useTrial(id)
  if (id === 'new') return <TrialForm />
  if (!trial) return null
  const told = trial.result ?? trial.partial
  return (
    <div className="px-5 pb-10 pt-3">
      <Head trial={trial} />
      {!trial.result && <Progress id={id} trial={trial} />}
      <BesideTrial trial={trial} />
      {told && <Outcome trial={trial} result={told} />}
    </div>
  )
}
