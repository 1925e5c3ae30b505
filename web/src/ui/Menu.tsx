// Radix menus and dialogs, wrapped once: look, keyboard and labels are settled here. A page has dozens of buttons
// with a menu or a popover: each is a bare button until it is pressed.
import { AlertDialog, Dialog, DropdownMenu, Popover } from 'radix-ui'
import {
  cloneElement,
  useId,
  useImperativeHandle,
  useRef,
  useState,
  type FocusEvent,
  type HTMLAttributes,
  type KeyboardEvent,
  type MouseEvent,
  type PointerEvent,
  type ReactElement,
  type ReactNode,
  type Ref,
  type RefObject,
} from 'react'
import { submitTyped } from './SmallForm'

type Button = RefObject<HTMLButtonElement | null>
type Trigger = ReactElement<HTMLAttributes<HTMLElement> & { ref?: Ref<HTMLButtonElement> }>

export interface MenuEntry {
  label: string
  run: () => void
  keys?: string
  disabled?: boolean
  bad?: boolean
}

interface MenuProps {
  trigger: Trigger
  label: string
  /** Made when they are wanted, where that is work. */
  entries: (MenuEntry | null)[] | (() => (MenuEntry | null)[])
  align?: 'start' | 'end'
  /** Where the keyboard goes once it is closed, instead of to the button. */
  onLeft?: () => void
}

export function Menu({ trigger, label, entries, align = 'start', onLeft }: MenuProps) {
  const id = useId()
  const button = useRef<HTMLButtonElement>(null)
  const [open, setOpen] = useState<'by hand' | 'by keys' | null>(null)
  // What is open is closed by whatever is pressed beside it, its button too.
  const onPointerDown = (event: PointerEvent) => {
    if (open || event.button !== 0 || event.ctrlKey) return
    event.preventDefault() // else the button would be given what the menu is to have: the keyboard
    setOpen('by hand')
  }
  const onKeyDown = (event: KeyboardEvent) => {
    if (!['Enter', ' ', 'ArrowDown'].includes(event.key)) return
    event.preventDefault()
    setOpen('by keys')
  }
  const onClick = (event: MouseEvent) => event.detail === 0 && !open && setOpen('by keys')
  return (
    <>
      {cloneElement(
        trigger,
        {
          ref: button,
          'aria-haspopup': 'menu',
          'aria-expanded': open !== null,
          'aria-label': label,
          'aria-labelledby': `${id}-for ${id}-says`,
          onPointerDown,
          onKeyDown,
          onClick,
        },
        // Its name is what it is for, and what it says now.
        <span key="for" id={`${id}-for`} hidden>
          {label}
        </span>,
        <span key="says" id={`${id}-says`} className="contents">
          {trigger.props.children}
        </span>,
      )}
      {open && (
        <OpenMenu
          button={button}
          label={label}
          align={align}
          entries={typeof entries === 'function' ? entries() : entries}
          byKeys={open === 'by keys'}
          onClosed={() => setOpen(null)}
          onLeft={onLeft}
        />
      )}
    </>
  )
}

interface OpenMenuProps {
  button: Button
  label: string
  align: 'start' | 'end'
  entries: (MenuEntry | null)[]
  byKeys: boolean
  onClosed: () => void
  onLeft: (() => void) | undefined
}

function OpenMenu(props: OpenMenuProps) {
  const { button, label, align, entries, byKeys, onClosed } = props
  const isEntered = useRef(!byKeys)
  const leaves = useLeaving(props.onLeft ?? (() => button.current?.focus()))
  // The menu is given the keyboard first; whoever came by keys goes on to its first entry.
  const enter = (event: FocusEvent<HTMLElement>) => {
    if (isEntered.current || event.target !== event.currentTarget) return
    isEntered.current = true
    const first = '[role=menuitem]:not([data-disabled])'
    event.currentTarget.querySelector<HTMLElement>(first)?.focus({ preventScroll: true })
  }
  return (
    <DropdownMenu.Root modal={false} open onOpenChange={(now) => !now && onClosed()}>
      <DropdownMenu.Trigger asChild>
        <StandIn button={button} />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          onFocus={enter}
          aria-label={label}
          aria-labelledby={undefined}
          align={align}
          sideOffset={4}
          {...leaves}
          className="overlay max-h-(--radix-dropdown-menu-content-available-height) min-w-52 overflow-auto py-1"
        >
          {entries.map((entry, at) =>
            entry === null ? (
              <DropdownMenu.Separator key={at} className="my-1 h-px bg-hair" />
            ) : (
              <DropdownMenu.Item
                key={entry.label}
                disabled={entry.disabled}
                onSelect={entry.run}
                className={`flex cursor-pointer items-center justify-between gap-6 px-3 py-1 outline-none data-[disabled]:opacity-40 data-[highlighted]:bg-gold-wash ${entry.bad ? 'text-bad' : ''}`}
              >
                {entry.label}
                {entry.keys && <span className="num text-muted">{entry.keys}</span>}
              </DropdownMenu.Item>
            ),
          )}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  )
}

/** For a button that is there already: where the menu hangs. */
function StandIn({ button, ref }: { button: Button; ref?: Ref<HTMLButtonElement | null> }) {
  useImperativeHandle<HTMLButtonElement | null, HTMLButtonElement | null>(ref, () => button.current)
  return null
}

/** The keyboard goes back, unless something else was pressed. */
function useLeaving(back: () => void) {
  const pressed = useRef(false)
  return {
    onInteractOutside: () => {
      pressed.current = true
    },
    onCloseAutoFocus: (event: Event) => {
      event.preventDefault()
      if (!pressed.current) back()
    },
  }
}

interface PopProps {
  trigger: Trigger
  label: string
  children: ReactNode
  open?: boolean
  onOpenChange?: (open: boolean) => void
}

export function Pop({ trigger, label, children, open, onOpenChange }: PopProps) {
  const button = useRef<HTMLButtonElement>(null)
  const content = useRef<HTMLDivElement>(null)
  const [own, setOwn] = useState(false)
  const shown = open ?? own
  const set = (now: boolean) => {
    setOwn(now)
    onOpenChange?.(now)
  }
  return (
    <>
      {cloneElement(trigger, {
        ref: button,
        'aria-haspopup': 'dialog',
        'aria-expanded': shown,
        onClick: () => !submitTyped(content.current) && set(!shown),
      })}
      {shown && (
        <OpenPop button={button} content={content} label={label} onClosed={() => set(false)}>
          {children}
        </OpenPop>
      )}
    </>
  )
}

interface OpenPopProps {
  button: Button
  content: RefObject<HTMLDivElement | null>
  label: string
  children: ReactNode
  onClosed: () => void
}

function OpenPop({ button, content, label, children, onClosed }: OpenPopProps) {
  const leaves = useLeaving(() => button.current?.focus())
  return (
    <Popover.Root open onOpenChange={(now) => !now && onClosed()}>
      <Popover.Anchor virtualRef={button as RefObject<HTMLButtonElement>} />
      <Popover.Portal>
        <Popover.Content
          ref={content}
          aria-label={label}
          sideOffset={4}
          align="start"
          className="overlay p-3"
          {...leaves}
          onInteractOutside={(event) => {
            // Its own button closes it by itself; what is typed is saved, and closes it then.
            const isOwn = button.current?.contains(event.target as Node)
            if (isOwn || submitTyped(content.current)) event.preventDefault()
            else leaves.onInteractOutside()
          }}
        >
          {children}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  )
}

export function Sheetlet({
  open,
  title,
  onClose,
  children,
  wide = false,
}: {
  open: boolean
  title: string
  onClose: () => void
  children: ReactNode
  wide?: boolean
}) {
  return (
    <Dialog.Root open={open} onOpenChange={(now) => !now && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-ink/25" />
        <Dialog.Content
          aria-describedby={undefined}
          className={`overlay fixed left-1/2 top-24 max-h-[76vh] -translate-x-1/2 overflow-auto p-5 ${wide ? 'w-[760px]' : 'w-[460px]'} max-w-[94vw]`}
        >
          <Dialog.Title className="name mb-3 text-xl">{title}</Dialog.Title>
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  )
}

export function Question({
  open,
  title,
  children,
  choices,
  onCancel,
}: {
  open: boolean
  title: string
  children: ReactNode
  choices: { label: string; run: () => void; main?: boolean }[]
  onCancel?: () => void
}) {
  return (
    <AlertDialog.Root open={open} onOpenChange={(now) => !now && onCancel?.()}>
      <AlertDialog.Portal>
        <AlertDialog.Overlay className="fixed inset-0 z-40 bg-ink/25" />
        <AlertDialog.Content className="overlay fixed left-1/2 top-28 max-h-[70vh] w-[620px] max-w-[94vw] -translate-x-1/2 overflow-auto p-5">
          <AlertDialog.Title className="name mb-2 text-xl">{title}</AlertDialog.Title>
          <AlertDialog.Description asChild>
            <div className="mb-4 space-y-2">{children}</div>
          </AlertDialog.Description>
          <div className="flex justify-end gap-2">
            {onCancel && (
              <AlertDialog.Cancel className="plain-button">Leave it as it is</AlertDialog.Cancel>
            )}
            {choices.map((choice) => (
              <AlertDialog.Action
                key={choice.label}
                onClick={(event) => {
                  event.preventDefault() // it stays open until whoever asks has what was wanted
                  choice.run()
                }}
                className={choice.main ? 'gold-button' : 'plain-button'}
              >
                {choice.label}
              </AlertDialog.Action>
            ))}
          </div>
        </AlertDialog.Content>
      </AlertDialog.Portal>
    </AlertDialog.Root>
  )
}
