// A word that says what it means where it stands: under the pointer, and when the keyboard comes to it.
import { Tooltip } from 'radix-ui'
import type { ReactNode } from 'react'
import { GLOSSARY, type Term } from '@/game/glossary'

export function Explained({ term, children }: { term: Term; children?: ReactNode }) {
  return (
    <Tooltip.Provider delayDuration={250}>
      <Tooltip.Root>
        <Tooltip.Trigger asChild>
          <span
            tabIndex={0}
            className="cursor-help underline decoration-edge decoration-dotted underline-offset-2"
          >
            {children ?? term}
          </span>
        </Tooltip.Trigger>
        <Tooltip.Portal>
          <Tooltip.Content
            sideOffset={4}
            collisionPadding={8}
            className="overlay z-50 max-w-72 px-2.5 py-1.5 font-sans text-[12px] font-normal leading-[17px] text-ink"
          >
            {GLOSSARY[term]}
          </Tooltip.Content>
        </Tooltip.Portal>
      </Tooltip.Root>
    </Tooltip.Provider>
  )
}
