// A route: what a player does in order, drawn as a dive beside the plumb line, with its legs as sentences.
import { useRouteOdds } from '@/game/queries'
import { show, useGame } from '@/game/store'
import { DepthFrame, useDepthScale } from '@/plots/DepthFrame'
import { Findings } from '@/sheets/Findings'
import { FlagButtons } from '@/ui/FlagButtons'
import { Notes } from '@/ui/Notes'
import { Title } from '@/sheets/Title'
import { Carried } from './Carried'
import { DiveProfile } from './DiveProfile'
import { change } from '@/game/edit'
import { Legs } from './Legs'

export function RouteSheet({ id }: { id: string }) {
  const parts = useGame((state) => state.parts)
  const draft = useGame((state) => state.draft.find((one) => one.kind === 'route' && one.id === id))
  const scale = useDepthScale()
  const { data } = useRouteOdds(id)
  const saved = parts.route.get(id)
  if (!saved) return <p className="p-6 text-muted">This route is gone.</p>
  const route = (draft?.body as typeof saved | undefined) ?? saved
  return (
    <div className="relative h-full">
      <header className="relative z-20 px-5 pt-1.5">
        <div className="flex items-baseline gap-3">
          <Title
            of="route"
            id={id}
            name={route.name}
            isLow
            onRename={(name) => change('route', saved.id, 'renamed', { name })}
          />
          <button
            type="button"
            className="plain-button ml-auto"
            onClick={() => show({ kind: 'trial', id: 'new' })}
          >
            send players along it
          </button>
        </div>
        <p className="text-note text-muted">
          {parts.flag.size > 0 && (
            <>
              Begins with{' '}
              <FlagButtons
                label="flags at the start"
                set={route.flags}
                onChange={(flags) =>
                  void change('route', saved.id, 'flags at the start', { flags })
                }
              />
              ;{' '}
            </>
          )}
          <Carried route={saved} />
        </p>
      </header>
      <DepthFrame>
        <div className="flex gap-5 pl-3">
          <DiveProfile route={route} odds={data} scale={scale} />
          <section
            className="relative z-10 min-w-0 flex-1 overflow-auto bg-paper pb-4 pr-5 shadow-[100vw_0_0_0_var(--color-paper)]"
            style={{ marginTop: -18, height: scale.height + 18 }}
          >
            <Findings kind="route" id={id} />
            <Legs route={saved} odds={data} />
            <Notes
              label="notes of the route"
              quiet
              text={route.notes ?? ''}
              onCommit={(notes) => change('route', saved.id, 'notes', { notes })}
            />
          </section>
        </div>
      </DepthFrame>
    </div>
  )
}
