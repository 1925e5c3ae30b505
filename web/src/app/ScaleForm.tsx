// How deep the game goes, and what it calls its players and depths.
import { useState } from 'react'
import type { Band } from '@/api/types'
import { bandsWithin } from '@/game/order'
import type { Parts } from '@/game/parts'
import { changeSettings } from '@/game/edit'
import { useGame } from '@/game/store'
import { Pop } from '@/ui/Menu'
import { SmallForm } from '@/ui/SmallForm'
import { typedNumber } from '@/text/numbers'

export function ScaleForm() {
  const { from, to } = useGame((state) => state.parts.settings.depth)
  const [open, setOpen] = useState(false)
  return (
    <span onPointerDown={(event) => event.stopPropagation()}>
      <Pop
        label="how deep the game goes"
        open={open}
        onOpenChange={setOpen}
        trigger={
          <button
            type="button"
            aria-label={`how deep the game goes: ${from}–${to}`}
            className="num text-tiny text-mist underline decoration-white/40 underline-offset-2"
          >
            {from}–{to}
          </button>
        }
      >
        <Form onDone={() => setOpen(false)} />
      </Pop>
    </span>
  )
}

function Form({ onDone }: { onDone: () => void }) {
  const parts = useGame((state) => state.parts)
  const { settings } = parts
  const [from, setFrom] = useState(String(settings.depth.from))
  const [to, setTo] = useState(String(settings.depth.to))
  const [word, setWord] = useState(settings.words?.depth ?? 'depth')
  const [player, setPlayer] = useState(settings.words?.player ?? 'player')
  const [leap, setLeap] = useState(String(settings.depth.leap))
  const [problem, setProblem] = useState('')
  const [offer, setOffer] = useState('')
  const save = async (asked: boolean) => {
    const [first, last] = [Number(from), Number(to)]
    if (!Number.isInteger(first) || !Number.isInteger(last))
      return setProblem('depths are whole numbers')
    const most = typedNumber(leap)
    if (most === null || most <= 1) return setProblem('a leap is a number above 1, as in 3')
    const bands = settings.depth.bands ?? []
    const outside = first > last ? [] : bands.filter((band) => isOutside(band, first, last))
    const beyond = first > last ? '' : leftBeyond(parts, first, last)
    const inTheWay = outside.map((one) => one.name).join(', ')
    if ((inTheWay || beyond) && !asked) {
      setOffer(inTheWay ? 'Cut the bands to fit' : 'Leave them beyond')
      return setProblem(
        [inTheWay && `outside ${first} to ${last}: ${inTheWay}`, beyond].filter(Boolean).join('; '),
      )
    }
    setOffer('')
    const failure = await changeSettings('how deep the game goes', {
      words: { player: player.trim(), depth: word.trim() },
      depth: {
        from: first,
        to: last,
        bands: inTheWay ? bandsWithin(bands, first, last) : bands,
        leap: most,
      },
    })
    if (failure) setProblem(failure.message)
    else onDone()
  }
  const field = (label: string, value: string, set: (text: string) => void, width: string) => (
    <input
      aria-label={label}
      className={`field ${width}`}
      value={value}
      onChange={(event) => set(event.target.value)}
    />
  )
  return (
    <SmallForm
      className="w-72"
      problem={problem}
      onSave={() => void save(false)}
      more={
        offer && (
          <button type="button" className="plain-button" onClick={() => void save(true)}>
            {offer}
          </button>
        )
      }
    >
      <p>
        From {field('first depth', from, setFrom, 'num w-14')} to{' '}
        {field('last depth', to, setTo, 'num w-14')}; a depth is called{' '}
        {field('word for a depth', word, setWord, 'w-24')}
      </p>
      <p>A player is called {field('word for a player', player, setPlayer, 'w-24')}</p>
      <p>
        The rarest tier of a source leaps if one {word} further it is more than{' '}
        {field('most times as much', leap, setLeap, 'num w-12')} times as much
      </p>
    </SmallForm>
  )
}

function isOutside(band: Band, first: number, last: number): boolean {
  return band.from < first || band.to > last
}

/** What a shallower game newly leaves wholly beyond its depths, in words, or nothing. */
function leftBeyond(parts: Parts, first: number, last: number): string {
  const before = parts.settings.depth
  const within = ([low, high]: [number, number], from: number, to: number) =>
    high >= from && low <= to
  const newly = (list: Gated[]) =>
    list.filter(
      ({ depths }) =>
        depths && within(depths, before.from, before.to) && !within(depths, first, last),
    )
  const sources = [...parts.source.values()]
  const lines = [...parts.table.values()].flatMap((table): Gated[] => table.lines)
  const told = [
    counted(newly(sources).length, 'source'),
    counted(newly(sources.flatMap((source) => source.drops)).length, 'drop'),
    counted(newly(lines).length, 'line'),
  ].filter(Boolean)
  return told.length
    ? `${told.join(', ')} beyond ${first} to ${last} stay as they are, but nobody gets there`
    : ''
}

interface Gated {
  depths?: [number, number] | null
}

const counted = (many: number, word: string) =>
  many ? `${many} ${word}${many > 1 ? 's' : ''}` : ''
