// A button behind which a file is chosen; and what is said while one is read.
import { toast } from 'sonner'
import { useRef, type ReactNode } from 'react'

export function FileButton({
  label,
  accept,
  className = 'gold-button',
  title,
  onFile,
  children,
}: {
  label: string
  accept: string
  className?: string
  title?: string
  onFile: (file: File) => void
  children: ReactNode
}) {
  const input = useRef<HTMLInputElement>(null)
  return (
    <>
      <input
        ref={input}
        type="file"
        accept={accept}
        aria-label={label}
        className="hidden"
        onChange={(event) => {
          const file = event.target.files?.[0]
          if (file) onFile(file)
          event.target.value = '' // the same file can be chosen again
        }}
      />
      <button
        type="button"
        className={className}
        title={title}
        onClick={() => input.current?.click()}
      >
        {children}
      </button>
    </>
  )
}

/** While a file is read: how far, and the way to stop it. */
export function ReadingFile({ stop, words }: { stop: AbortController | null; words: string }) {
  if (!stop) return null
  return (
    <>
      <span role="status" className="text-muted">
        {words}
      </span>
      <button type="button" className="plain-button" onClick={() => stop.abort()}>
        Stop
      </button>
    </>
  )
}

/** What a file dropped on something is given to. */
export const dropped = (onFile: (file: File) => void) => ({
  onDragOver: (event: React.DragEvent) => event.preventDefault(),
  onDrop: (event: React.DragEvent) => {
    event.preventDefault()
    const file = event.dataTransfer.files[0]
    if (file) onFile(file)
  },
})

/** A file that ships with the program, taken as if it had been chosen. */
export async function tried(
  path: string,
  name: string,
  take: (content: Blob, name: string) => unknown,
): Promise<void> {
  try {
    const answer = await fetch(path)
    if (!answer.ok) throw new Error(`it could not be fetched (${answer.status})`)
    await take(await answer.blob(), name)
  } catch (error) {
    toast.error(`${name}: ${error instanceof Error ? error.message : String(error)}`)
  }
}
