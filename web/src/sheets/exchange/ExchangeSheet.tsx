// What goes out to others, and what comes in from a spreadsheet: seen before it is taken.
import { useState } from 'react'
import { useGame } from '@/game/store'
import { EditText } from '@/ui/EditText'
import { readRange } from '@/text/readers'
import { ComingIn } from './ComingIn'

export function ExchangeSheet() {
  return (
    <div className="px-5 pb-10 pt-3">
      <h1 className="name text-title leading-10">Exchange</h1>
      <div className="grid grid-cols-[minmax(260px,320px)_1fr] gap-10 pt-2 max-[1100px]:grid-cols-1">
        <GoingOut />
        <ComingIn />
      </div>
    </div>
  )
}

const OUT: [string, string, string, boolean][] = [
  ['xlsx', 'Workbook', 'tiers, items, tables, sources, to be edited and brought in again', true],
  ['csv', 'CSV files', 'the same, zipped', true],
  ['odds-page', 'Page of odds', 'what players are told about parcels and stalls; prints', false],
  [
    'thresholds',
    'Thresholds',
    'every table as whole numbers of 32 bits, for the game’s code',
    false,
  ],
  ['vectors', 'Test vectors', 'seeded events draw by draw, to hold that code against', false],
]

function GoingOut() {
  const id = useGame((state) => state.id)
  const { from, to } = useGame((state) => state.parts.settings.depth)
  const word = useGame((state) => state.parts.settings.words?.depth ?? 'depth')
  const [depths, setDepths] = useState<[number, number] | null>(null)
  const asked = depths ? `?first=${depths[0]}&last=${depths[1]}` : ''
  return (
    <section aria-label="going out">
      <h2 className="head pb-1">Out</h2>
      <p className="text-note text-muted">
        For {word}s{' '}
        <EditText
          label={`${word}s that go out`}
          text={depths ? depths.join('-') : 'all'}
          className="choice num text-ink"
          inputClass="num w-16"
          onCommit={(text) => {
            const range = readRange(text, [from, to])
            if (typeof range === 'string') return { message: range }
            setDepths(range)
            return null
          }}
        />
        {depths
          ? '; sheets have a page of odds there'
          : '; choose some, and sheets have their odds'}
      </p>
      <ul className="divide-y divide-hair/70 pt-1">
        {OUT.map(([form, name, what]) => (
          <li key={form} className="py-1.5">
            <a
              className="choice text-ink"
              href={`/api/games/${id}/export/${form}${asked}`}
              download
            >
              {name}
            </a>
            <span className="block text-note text-muted">{what}</span>
          </li>
        ))}
        <li className="py-1.5">
          <a className="choice text-ink" href={`/api/games/${id}/file`} download>
            Game file
          </a>
          <span className="block text-note text-muted">
            all of it; its <SchemaLink of="game">schema</SchemaLink>, and that of{' '}
            <SchemaLink of="thresholds">thresholds</SchemaLink>
          </span>
        </li>
      </ul>
    </section>
  )
}

const SchemaLink = ({ of, children }: { of: string; children: string }) => (
  <a className="underline decoration-hair underline-offset-2" href={`/api/schemas/${of}`} download>
    {children}
  </a>
)
