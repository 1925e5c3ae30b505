import { useIsFetching } from '@tanstack/react-query'
import {
  Suspense,
  useCallback,
  useMemo,
  useState,
  useSyncExternalStore,
  type ReactNode,
} from 'react'
import { useStaleOdds, type Asking } from '@/game/queries'
import { useGame, useGamePart } from '@/game/store'
import '@/game/visited'
import { SHEETS } from '@/sheets/registry'
import { Tray } from '@/tray/Tray'
import { TuningStrip } from '@/tuning/TuningStrip'
import { useTuning } from '@/tuning/tuning'
import { useRolls } from '@/tray/useRolls'
import { Clash } from './Clash'
import { FindOrDo, openFind } from './FindOrDo'
import { useKeyboard } from './keyboard'
import { useNews } from './news'
import { PlumbLine } from './PlumbLine'
import { Shelf } from './shelf/Shelf'
import { TopBar } from './TopBar'

/** A game that is open: its shelf, one of its sheets, and what stands beside and below that. */
export function Bench() {
  const sheet = useGame((state) => state.sheet)
  const rolls = useRolls()
  const { roll } = rolls
  useKeyboard(useMemo(() => ({ find: openFind, roll }), [roll]))
  useNews()
  const along = useGame((state) => state.along)
  const entry = sheet && SHEETS[sheet.kind]
  const isAlong = along && entry?.Along !== undefined
  const deep = entry?.isDeep || isAlong
  const narrow = useNarrow()
  const tuning = useTuning((state) => state.open)
  const beside = entry?.Beside && !isAlong && (
    <Suspense>
      <entry.Beside id={sheet?.id ?? ''} />
    </Suspense>
  )
  return (
    <div className="flex h-full">
      <SkipToSheet />
      <PlumbLine />
      <div className="flex min-w-0 flex-1 flex-col">
        <TopBar onFind={openFind} />
        <div className="flex min-h-0 flex-1">
          <div className="flex min-h-0 min-w-0 flex-1 flex-col">
            <div className="flex min-h-0 flex-1">
              <Shelf />
              <div className="min-h-0 min-w-0 flex-1 overflow-auto" data-scrolls>
                <SheetPlace
                  deep={deep ?? false}
                  asks={isAlong ? 'depths' : (entry?.asks ?? 'odds')}
                >
                  <Suspense fallback={<Coming />}>
                    <SheetInView fell={rolls.fell} />
                  </Suspense>
                </SheetPlace>
                {narrow && beside && (
                  <aside className="border-t border-hair bg-raised" aria-label="reading">
                    {beside}
                  </aside>
                )}
              </div>
            </div>
            {tuning ? (
              <TuningStrip />
            ) : entry?.Tray ? (
              <Suspense>
                <entry.Tray id={sheet?.id ?? ''} />
              </Suspense>
            ) : (
              entry?.isRolled && !deep && <Tray rolls={rolls} />
            )}
          </div>
          {!narrow && beside && (
            <aside
              className="w-[340px] shrink-0 overflow-auto border-l border-hair bg-raised"
              aria-label="reading"
            >
              {beside}
            </aside>
          )}
        </div>
      </div>
      <FindOrDo onRoll={roll} />
      <Clash />
    </div>
  )
}

/** A sheet of which the code is on its way: most often for less than a glance. */
function Coming() {
  return (
    <p className="p-6 text-muted" role="status" data-coming>
      Opening…
    </p>
  )
}

/** Where the sheet lies; it says whether answers to what it asks are still on their way. */
function SheetPlace({
  deep,
  asks,
  children,
}: {
  deep: boolean
  asks: Asking
  children: ReactNode
}) {
  const asked = useIsFetching()
  const stale = useStaleOdds(asks)
  return (
    <main
      aria-label="sheet"
      aria-busy={asked > 0}
      tabIndex={-1}
      className={`outline-none ${deep ? 'h-full' : ''} ${stale ? 'stale' : ''}`}
    >
      {children}
    </main>
  )
}

/** The first stop of the keyboard: past the plumb line and the shelf. */
function SkipToSheet() {
  return (
    <button
      type="button"
      className="plain-button fixed left-2 top-2 z-50 -translate-y-20 focus:translate-y-0"
      onClick={() => document.querySelector('main')?.focus()}
    >
      To the sheet
    </button>
  )
}

function SheetInView({ fell }: { fell: Map<string, number> }) {
  const { sheet, along } = useGamePart('sheet', 'along')
  if (!sheet) return <p className="p-6 text-muted">Choose something on the shelf.</p>
  const { Sheet, Along } = SHEETS[sheet.kind]
  return along && Along ? (
    <Along key={sheet.id} />
  ) : (
    <Sheet key={sheet.id} id={sheet.id} fell={fell} />
  )
}

/** Whether the window is too narrow for the reading to stand beside the sheet. */
function useNarrow(): boolean {
  const [query] = useState(() => matchMedia('(max-width: 1100px)'))
  const subscribe = useCallback(
    (changed: () => void) => {
      query.addEventListener('change', changed)
      return () => query.removeEventListener('change', changed)
    },
    [query],
  )
  return useSyncExternalStore(subscribe, () => query.matches)
}
