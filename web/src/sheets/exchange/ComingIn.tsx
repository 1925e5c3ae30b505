// A spreadsheet, or cells pasted, held against the game: nothing happens before it is taken.
import { useState } from 'react'
import { api } from '@/api/client'
import type { SheetsRead } from '@/api/types'
import type { Parts } from '@/game/parts'
import { useGame } from '@/game/store'
import { dropped, FileButton, ReadingFile, tried } from '@/ui/FileButton'
import { Preview } from './Preview'

export function ComingIn() {
  const game = useGame((state) => state.id)
  const [read, setRead] = useState<{ read: SheetsRead; seen: Parts } | null>(null)
  const [name, setName] = useState('')
  const [problem, setProblem] = useState('')
  const [pasted, setPasted] = useState('')
  const [busy, setBusy] = useState<AbortController | null>(null)
  const [content, setContent] = useState<Blob>(new Blob())
  const [columns, setColumns] = useState<Record<string, string>>({})
  const look = async (content: Blob, called: string, mapped: Record<string, string> = {}) => {
    const stop = new AbortController()
    setBusy(stop)
    setProblem('')
    try {
      const seen = useGame.getState().parts
      setRead({ read: await api.readSheets(game, called, content, mapped, stop.signal), seen })
      setName(called)
      setContent(content)
      setColumns(mapped)
    } catch (error) {
      if (!stop.signal.aborted) setProblem(error instanceof Error ? error.message : String(error))
    } finally {
      setBusy(null)
    }
  }
  if (read)
    return (
      <Preview
        name={name}
        {...read}
        columns={columns}
        problem={problem}
        onColumns={(mapped) => void look(content, name, mapped)}
        onLeave={() => setRead(null)}
      />
    )
  return (
    <section aria-label="coming in" {...dropped((file) => void look(file, file.name))}>
      <h2 className="head pb-1">In</h2>
      <p className="max-w-[560px] text-note text-muted">
        A workbook, a CSV or a ZIP of CSVs, chosen or dropped here; or cells copied in a
        spreadsheet. Sheets are told apart by their name, or by their heads: items (name, tier,
        tags, value…), tiers, tables (table, line, gives, quantity, weight…), sources (source, drop
        table, chance…). What it would do is shown first.
      </p>
      <p className="flex items-center gap-3 py-2">
        <FileButton
          label="spreadsheet"
          accept=".xlsx,.csv,.tsv,.txt,.zip"
          onFile={(file) => void look(file, file.name)}
        >
          Choose a file
        </FileButton>
        <button
          type="button"
          className="label underline decoration-hair underline-offset-2 hover:text-ink"
          onClick={() => void tried('/api/games/demo/workbook', 'saltglass-deep.xlsx', look)}
        >
          try one: the demo game’s, as somebody edited it
        </button>
        <ReadingFile stop={busy} words="reading…" />
      </p>
      {problem && (
        <p role="alert" className="pb-2 text-bad">
          {problem}
        </p>
      )}
      <textarea
        aria-label="cells pasted"
        className="field num h-44 w-full max-w-[640px] text-small"
        placeholder="or paste cells here, with their heads"
        value={pasted}
        onKeyDown={(event) => event.stopPropagation()}
        onPaste={(event) => event.stopPropagation()}
        onChange={(event) => setPasted(event.target.value)}
      />
      <p className="pt-1">
        <button
          type="button"
          className="plain-button"
          disabled={!pasted.trim() || busy !== null}
          onClick={() => void look(new Blob([pasted]), 'pasted cells')}
        >
          See what they would do
        </button>
      </p>
    </section>
  )
}
