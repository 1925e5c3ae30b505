// What is being typed anywhere: it is taken before its sheet or the page is left, and what could not be taken is
// told, with what was typed.
import { toast } from 'sonner'

const KEPT = 'not taken'
const open = new Set<() => void>()
let isGoing = false

interface Lost {
  where: string
  text: string
  why: string
}

/** Whether the page is being left: what is not kept at once is lost. */
export const isLeaving = () => isGoing

/** A field is open: `take` saves what is typed so far. Gives what is called once it is closed. */
export function opened(take: () => void): () => void {
  open.add(take)
  return () => void open.delete(take)
}

/** Before a sheet is left: all that is typed is taken. */
export function takeTyped(): void {
  for (const take of [...open]) take()
}

/** What was typed is not in the game: it says so until it is read, and can be copied. */
export function tellLost(where: string, text: string, why: string): void {
  if (isGoing) return keepForLater({ where, text, why })
  toast.error(`“${text}” is not saved, ${where}: ${why}`, {
    duration: Infinity,
    closeButton: true,
    action: { label: 'Copy', onClick: () => void navigator.clipboard.writeText(text) },
  })
}

/** Told once the page is there again. */
function keepForLater(lost: Lost): void {
  sessionStorage.setItem(KEPT, JSON.stringify([...keptBefore(), lost]))
}

function keptBefore(): Lost[] {
  try {
    const found: unknown = JSON.parse(sessionStorage.getItem(KEPT) ?? '[]')
    return Array.isArray(found) ? found : []
  } catch {
    return []
  }
}

/** What was lost as the page was left is told now. */
export function tellWhatWasLost(): void {
  const kept = keptBefore()
  sessionStorage.removeItem(KEPT)
  for (const { where, text, why } of kept) tellLost(where, text, why)
}

window.addEventListener('pagehide', () => {
  isGoing = true
  takeTyped()
})
window.addEventListener('pageshow', () => {
  isGoing = false
})
