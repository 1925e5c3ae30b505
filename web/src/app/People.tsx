// Who else looks at this game: a mark each, with where they are; pressed, it leads there.
import { useEffect } from 'react'
import { api } from '@/api/client'
import { AGAIN, cellAddress, inkOf, nameOf, othersOf, usePeople, type Person } from '@/game/people'
import { show, useGame, type Sheet } from '@/game/store'
import { thisPage } from '@/game/sync/page'
import { nameMyself, whoAmI } from '@/game/who'
import { SHEET_KINDS, type SheetKind } from '@/game/kinds'
import { EditText } from '@/ui/EditText'
import { Pop } from '@/ui/Menu'

const MOVED = 400 // ms after which a move is told: whoever types on is told of once
const EVERY = 30_000

/** Says where this page is whenever that is somewhere else; that it has gone is known by its stream of news. */
function useSaying(): void {
  const id = useGame((state) => state.id)
  useEffect(() => {
    if (!id) return
    let [page, told] = ['', '']
    let moving: ReturnType<typeof setTimeout> | undefined
    const say = () => {
      if (!page || document.visibilityState !== 'visible') return
      const place = placeNow()
      told = JSON.stringify(place)
      void api.here(id, { page, ...place, leaves: false }).catch(() => undefined)
    }
    const moved = () => {
      clearTimeout(moving)
      moving = setTimeout(() => JSON.stringify(placeNow()) !== told && say(), MOVED)
    }
    void thisPage().then((own) => {
      page = own
      usePeople.setState({ mine: own })
      say()
    })
    const timer = setInterval(say, EVERY)
    const forget = useGame.subscribe(moved)
    document.addEventListener('focusin', moved)
    document.addEventListener('focusout', moved)
    window.addEventListener(AGAIN, say)
    return () => {
      clearInterval(timer)
      clearTimeout(moving)
      forget()
      document.removeEventListener('focusin', moved)
      document.removeEventListener('focusout', moved)
      window.removeEventListener(AGAIN, say)
      usePeople.setState({ people: [] })
    }
  }, [id])
}

function placeNow(): Omit<Person, 'page'> {
  const { sheet } = useGame.getState()
  const here = document.activeElement?.closest('main') ? document.activeElement : null
  const cell = here?.getAttribute('aria-label') ?? ''
  const part = (name: string) => here?.closest(`[data-${name}]`)?.getAttribute(`data-${name}`) ?? ''
  const grid = here?.closest('[role=grid]')?.getAttribute('aria-label')
  return {
    who: whoAmI(),
    sheet: sheet ? `${sheet.kind}/${sheet.id}` : '',
    cell: cell.slice(0, 200),
    at: grid ? cellAddress(grid, part('row'), part('column')) : '',
  }
}

export function People() {
  useSaying()
  const people = othersOf(usePeople())
  const parts = useGame((state) => state.parts)
  if (!people.length) return null
  const where = ({ sheet, cell }: Person) => {
    const [kind = '', id = ''] = sheet.split('/')
    const named = parts[kind as 'item'] as Map<string, { name: string }> | undefined
    const place = named instanceof Map ? (named.get(id)?.name ?? id) : kind
    return [place, cell].filter(Boolean).join(', ')
  }
  return (
    <Pop
      label="who else is here"
      trigger={
        <button type="button" className="flex items-center gap-1" aria-label="who else is here">
          {people.slice(0, 4).map((one) => (
            <span
              key={one.page}
              className="grid h-5 w-5 place-items-center rounded-full text-tiny font-semibold text-paper"
              style={{ background: inkOf(one.page) }}
              title={`${nameOf(one)}: ${where(one)}`}
            >
              {(one.who || '?').slice(0, 1).toUpperCase()}
            </span>
          ))}
          {people.length > 4 && <span className="num text-muted">+{people.length - 4}</span>}
        </button>
      }
    >
      <ul aria-label="people here" className="min-w-[220px]">
        {people.map((one) => (
          <li key={one.page} className="flex items-baseline gap-2 py-0.5">
            <span
              aria-hidden
              className="inline-block h-2.5 w-2.5 rounded-full"
              style={{ background: inkOf(one.page) }}
            />
            <b>{nameOf(one)}</b>
            <button
              type="button"
              className="label truncate hover:text-ink"
              onClick={() => goTo(one.sheet)}
            >
              {where(one)}
            </button>
          </li>
        ))}
      </ul>
      <p className="label pt-2">
        You are{' '}
        <EditText
          label="your name"
          text={whoAmI()}
          show={whoAmI() || 'somebody'}
          className="choice text-ink"
          inputClass="w-32"
          onCommit={(text) => {
            nameMyself(text)
            window.dispatchEvent(new Event(AGAIN))
            return null
          }}
        />
      </p>
    </Pop>
  )
}

function goTo(sheet: string): void {
  const [kind, id] = sheet.split('/')
  if (id && SHEET_KINDS.includes(kind as SheetKind)) show({ kind, id } as Sheet)
}
