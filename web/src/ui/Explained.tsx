// A word that says what it means where it stands: under the pointer, and when the keyboard comes to it.
import { Tooltip } from 'radix-ui'
import type { ReactElement, ReactNode } from 'react'
import { GLOSSARY, SECTION_OF, sectionId, type Term } from '@/game/glossary'
import { show } from '@/game/store'

/** The look of a word that explains itself. */
export const DOTTED = 'cursor-help underline decoration-edge decoration-dotted underline-offset-2'

export function Explained({
  term,
  children,
  by,
}: {
  term: Term
  children?: ReactNode
  /** What explains itself, where it is something already that the keyboard comes to. */
  by?: ReactElement
}) {
  return (
    <Tooltip.Provider delayDuration={250}>
      <Tooltip.Root>
        <Tooltip.Trigger asChild>
          {by ?? (
            <button type="button" className={DOTTED} onClick={() => openGuide(term)}>
              {children ?? term}
            </button>
          )}
        </Tooltip.Trigger>
        <Tooltip.Portal>
          <Tooltip.Content
            sideOffset={4}
            collisionPadding={8}
            className="overlay z-50 max-w-72 px-2.5 py-1.5 font-sans text-small font-normal leading-[17px] text-ink"
          >
            {GLOSSARY[term]}
            {!by && <span className="label block">Enter or a click: more in the guide</span>}
          </Tooltip.Content>
        </Tooltip.Portal>
      </Tooltip.Root>
    </Tooltip.Provider>
  )
}

export function openGuide(term: Term): void {
  show({ kind: 'guide', id: sectionId(SECTION_OF[term]) })
}
