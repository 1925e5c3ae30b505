// A trial: set up, watch, and look at what came of it beside what was expected.
import { useTrial } from '@/api/queries'
import { Head } from './Head'
import { Outcome } from './Outcome'
import { Progress } from './Progress'
import { TrialForm } from './TrialForm'

export { TrialReading } from './TrialReading'

export function TrialSheet({ id }: { id: string }) {
  const { data: trial } = useTrial(id)
  if (id === 'new') return <TrialForm />
  if (!trial) return null
  return (
    <div className="px-5 pb-10 pt-3">
      <Head trial={trial} />
      {trial.result ? (
        <Outcome trial={trial} result={trial.result} />
      ) : (
        <Progress id={id} trial={trial} />
      )}
    </div>
  )
}
