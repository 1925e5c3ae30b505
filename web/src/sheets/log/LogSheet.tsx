// What the game really did, beside what was authored: faults on top as sentences, then every item.
import { useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { api } from '@/api/client'
import type { LogHeld } from '@/api/types'
import { show, useGame } from '@/game/store'
import { fresh } from '@/api/fresh'
import { dropped, FileButton, ReadingFile, tried } from '@/ui/FileButton'
import { whole } from '@/text/format'
import { Earlier } from './Earlier'
import { Group } from './Group'
import { MadeHere } from './MadeHere'
import { useReading } from './reading'

export function LogSheet() {
  const game = useGame((state) => state.id)
  const [held, setHeld] = useState<LogHeld | null>(null)
  const client = useQueryClient()
  const [problem, setProblem] = useState('')
  const rows = useReading((state) => state.rows)
  const [busy, setBusy] = useState<AbortController | null>(null)
  const hold = async (file: File) => {
    const stop = new AbortController()
    const token = fresh()
    setBusy(stop)
    useReading.setState({ token, rows: 0 })
    setProblem('')
    try {
      setHeld(await api.holdLog(game, file.name, token, file, stop.signal))
      await client.invalidateQueries({ queryKey: ['logs', game] })
    } catch (error) {
      if (!stop.signal.aborted) setProblem(error instanceof Error ? error.message : String(error))
    } finally {
      setBusy(null)
    }
  }
  return (
    <div className="px-5 pb-10 pt-3" {...dropped((file) => void hold(file))}>
      <h1 className="name text-title leading-10">Log</h1>
      <p className="max-w-[680px] text-note text-muted">
        What the running game wrote, one row for each thing received: event, time, player, source,
        instance, depth, flags, item, quantity; CSV or JSON Lines, chosen or dropped here. It is
        read and held against the game as it is now; what was found is kept, its rows are not.
      </p>
      <p className="flex items-center gap-3 py-2">
        <FileButton
          label="log"
          accept=".csv,.jsonl,.ndjson,.txt"
          onFile={(file) => void hold(file)}
        >
          {held ? 'Another log' : 'Choose a log'}
        </FileButton>
        {!held && (
          <button
            type="button"
            className="label underline decoration-hair underline-offset-2 hover:text-ink"
            onClick={() =>
              void tried('/api/games/demo/session', 'saltglass-session.csv', (content, name) =>
                hold(new File([content], name)),
              )
            }
          >
            try one: a session of the demo game
          </button>
        )}
        <ReadingFile stop={busy} words={rows ? `${whole(rows)} rows read…` : 'reading…'} />
      </p>
      {problem && (
        <p role="alert" className="pb-2 text-bad">
          {problem}
        </p>
      )}
      {held && <Held held={held} />}
      <Earlier shown={held?.id ?? null} onShow={setHeld} />
      <MadeHere />
    </div>
  )
}

/** Each source at all its depths together, and then at each of them. */
const allGroups = ({ sources, pooled }: LogHeld) =>
  sources.flatMap((group, at) =>
    group.source === sources[at - 1]?.source
      ? [group]
      : [...(pooled ?? []).filter((one) => one.source === group.source), group],
  )

function Held({ held }: { held: LogHeld }) {
  const parts = useGame((state) => state.parts)
  const pooled = held.pooled ?? []
  const [differing, ofAll] = [held.sources, pooled].map(
    (groups) => groups.filter((group) => group.verdict === 'differs').length,
  )
  return (
    <>
      <p role="status" className="text-lead">
        <span className="name">{held.name}</span>, against revision{' '}
        <span className="num">{held.revision}</span>: <b className="num">{whole(held.events)}</b>{' '}
        events in <b className="num">{whole(held.rows)}</b> rows.{' '}
        {held.agrees
          ? 'All that can be said agrees with what was authored.'
          : `${held.faults.length} ${held.faults.length === 1 ? 'fault' : 'faults'}; ${differing} of ${held.sources.length} places do not agree${ofAll ? `, and ${ofAll} of ${pooled.length} sources at all their places together` : ''}.`}
      </p>
      {held.refused.length > 0 && (
        <ul aria-label="rows left out" className="pt-1 text-note text-muted">
          {held.refused.map((one) => (
            <li key={one.why}>
              <b className="num text-ink">{whole(one.count)}</b> rows left out: {one.why} (rows{' '}
              {one.rows.join(', ')})
            </li>
          ))}
        </ul>
      )}
      {held.faults.length > 0 && (
        <ul aria-label="faults" className="pt-3">
          {held.faults.map((fault, at) => (
            <li key={at} className="flex gap-2 border-b border-hair/70 py-1.5">
              <span aria-hidden className="text-bad">
                ◤
              </span>
              <span>
                {fault.source && (
                  <button
                    type="button"
                    className="name mr-1.5 hover:bg-gold-wash"
                    onClick={() => show({ kind: 'source', id: fault.source ?? '' })}
                  >
                    {parts.source.get(fault.source)?.name ?? fault.source}
                  </button>
                )}
                {fault.says}{' '}
                <span className="num text-note text-muted">rows {fault.rows.join(', ')}</span>
              </span>
            </li>
          ))}
        </ul>
      )}
      {allGroups(held).map((group) => (
        <Group key={`${group.source}/${group.depth}/${group.flags.join()}`} group={group} />
      ))}
    </>
  )
}
