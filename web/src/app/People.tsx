// Who else looks at this game: a mark each, with where they are; pressed, it leads there.
import { useEffect } from 'react'
import { api } from '@/api/client'
import { cellAddress, inkOf, nameOf, othersOf, usePeople, type Person } from '@/game/people'
import { show, useGame, type Sheet } from '@/game/store'
import { thisPage } from '@/game/sync/page'
import { nameMyself, whoAmI } from '@/game/who'
import { SHEET_KINDS, type SheetKind } from '@/sheets/kinds'
import { EditText } from '@/ui/EditText'
import { Pop } from '@/ui/Menu'

const EVERY = 1_500
const AWAY = 5_000

/** Says every few seconds where this page is; and goodbye. */
function useSaying(): void {
  const id = useGame((state) => state.id)
  useEffect(() => {
    if (!id) return
    let page = ''
    const say = (leaves = false) => {
      if (!page || (document.visibilityState !== 'visible' && !leaves)) return
      void api.here(id, { page, ...placeNow(), leaves }).catch(() => undefined)
    }
    void thisPage().then((own) => {
      page = own
      usePeople.setState({ mine: own })
      say()
    })
    const timer = setInterval(() => {
      say()
      // Who is not heard of any more has gone, though nobody says so.
      if (Date.now() - usePeople.getState().heard > AWAY) usePeople.setState({ people: [] })
    }, EVERY)
    const leave = () => say(true)
    window.addEventListener('pagehide', leave)
    return () => {
      clearInterval(timer)
      window.removeEventListener('pagehide', leave)
      leave()
      usePeople.setState({ people: [], heard: 0 })
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
