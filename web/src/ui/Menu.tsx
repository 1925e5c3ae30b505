// Radix menus and dialogs, wrapped once: look, keyboard and labels are settled here.
import { AlertDialog, Dialog, DropdownMenu, Popover } from 'radix-ui'
import { cloneElement, useId, type ReactElement, type ReactNode } from 'react'

export interface MenuEntry {
  label: string
  run: () => void
  keys?: string
  disabled?: boolean
  bad?: boolean
}

export function Menu({
  trigger,
  label,
  entries,
  align = 'start',
  isOpen,
  onClosed,
}: {
  trigger: ReactElement<{ children?: ReactNode }>
  label: string
  entries: (MenuEntry | null)[]
  align?: 'start' | 'end'
  /** It is open from the start; whoever made it hears when it is not any more. */
  isOpen?: boolean
  onClosed?: () => void
}) {
  const id = useId()
  return (
    <DropdownMenu.Root
      modal={false}
      defaultOpen={isOpen}
      onOpenChange={(now) => !now && onClosed?.()}
    >
      {/* Its name is what it is for, and what it says now. */}
      <DropdownMenu.Trigger asChild aria-label={label} aria-labelledby={`${id}-for ${id}-says`}>
        {cloneElement(
          trigger,
          {},
          <span id={`${id}-for`} hidden>
            {label}
          </span>,
          <span id={`${id}-says`} className="contents">
            {trigger.props.children}
          </span>,
        )}
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align={align}
          sideOffset={4}
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

export function Pop({
  trigger,
  label,
  children,
  open,
  onOpenChange,
}: {
  trigger: ReactNode
  label: string
  children: ReactNode
  open?: boolean
  onOpenChange?: (open: boolean) => void
}) {
  return (
    <Popover.Root open={open} onOpenChange={onOpenChange}>
      <Popover.Trigger asChild>{trigger}</Popover.Trigger>
      <Popover.Portal>
        <Popover.Content aria-label={label} sideOffset={4} align="start" className="overlay p-3">
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
