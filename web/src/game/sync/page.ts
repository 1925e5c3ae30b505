// Who this page is: each undoes its own edits. A page that is opened after another was closed goes on as
// that one, so that yesterday's edits can still be taken back; two at once are never the same.

import { fresh } from '@/api/fresh'

const POOL = 'pages'
let own: Promise<string> | null = null

export function thisPage(): Promise<string> {
  own ??= claimed()
  return own
}

/** Whether a page of that name is open now. */
export async function isOpen(page: string): Promise<boolean> {
  if (!('locks' in navigator)) return true
  const { held = [] } = await navigator.locks.query()
  return held.some((lock) => lock.name === lockOf(page))
}

const lockOf = (page: string) => `page:${page}`

async function claimed(): Promise<string> {
  // Without locks (an address that the browser does not trust) a page is itself for as long as it lives.
  if (!('locks' in navigator)) return fresh()
  const page = (await anOldOne()) ?? fresh()
  await isClaimed(page)
  sessionStorage.setItem(MINE, page)
  if (!pool().includes(page))
    localStorage.setItem(POOL, JSON.stringify([...pool(), page].slice(-MOST)))
  return page
}

/** The one that this tab was before it was reloaded, else any that is free. */
async function anOldOne(): Promise<string | null> {
  const mine = sessionStorage.getItem(MINE)
  // A page that is reloaded lets go a moment after the new one begins; a copy of a tab never does.
  if (mine && (await isClaimed(mine, LETTING_GO))) return mine
  for (const page of pool()) if (await isClaimed(page)) return page
  return null
}

const MINE = 'page'
const LETTING_GO = 300 // ms
const MOST = 50

function pool(): string[] {
  try {
    const found: unknown = JSON.parse(localStorage.getItem(POOL) ?? '[]')
    return Array.isArray(found) ? found.map(String) : []
  } catch {
    return []
  }
}

/** Hold a page's name until this page goes; false where another has it, and keeps it for so many ms. */
function isClaimed(page: string, patience = 0): Promise<boolean> {
  const options = patience ? { signal: AbortSignal.timeout(patience) } : { ifAvailable: true }
  return new Promise((resolve) => {
    navigator.locks
      .request(lockOf(page), options, (lock) => {
        resolve(lock !== null)
        return lock ? new Promise<never>(() => undefined) : undefined
      })
      .catch(() => resolve(false))
  })
}
