// What was made here and is not saved yet, kept by the browser too: a page that is left, or reloaded while
// the server is away, finds it again.
import { isLeaving } from '../typed'
import type { Change } from './state'

const NAME = 'golddice'
const STORE = 'outbox'

interface Box {
  /** Game and page. */
  key: string
  game: string
  page: string
  changes: Change[]
}

let opening: Promise<IDBDatabase> | null = null

function database(): Promise<IDBDatabase> {
  opening ??= new Promise((resolve, reject) => {
    const request = indexedDB.open(NAME, 1)
    request.onupgradeneeded = () => request.result.createObjectStore(STORE, { keyPath: 'key' })
    request.onsuccess = () => resolve(request.result)
    request.onerror = () => reject(request.error ?? new Error('the browser keeps nothing'))
  })
  return opening
}

function asked<T>(
  mode: IDBTransactionMode,
  ask: (store: IDBObjectStore) => IDBRequest<T>,
): Promise<T> {
  return database().then(
    (db) =>
      new Promise((resolve, reject) => {
        const request = ask(db.transaction(STORE, mode).objectStore(STORE))
        request.onsuccess = () => resolve(request.result)
        request.onerror = () => reject(request.error ?? new Error('the browser keeps nothing'))
      }),
  )
}

/** Keep what waits, in place of what was kept before. Where the browser keeps nothing (a private window,
 * a full disk) the page has it all the same, for as long as it is open. */
export async function keep(game: string, page: string, changes: Change[]): Promise<void> {
  const box = { key: `${game}/${page}`, game, page, changes }
  if (isLeaving()) return keepAtOnce(box)
  try {
    if (changes.length) await asked('readwrite', (store) => store.put(box))
    else await asked('readwrite', (store) => store.delete(box.key))
    // A page that was left may be shown again, and go on: what it kept as it went is no longer the latest.
    if (!isLeaving()) localStorage.removeItem(AT_ONCE + box.key)
  } catch {
    // Said above.
  }
}

const AT_ONCE = 'outbox:'

/** A page that goes does not wait for a database. */
function keepAtOnce(box: Box): void {
  try {
    localStorage.setItem(AT_ONCE + box.key, JSON.stringify(box))
  } catch {
    // As above.
  }
}

function keptAtOnce(): Box[] {
  return Object.keys(localStorage)
    .filter((key) => key.startsWith(AT_ONCE))
    .map((key) => JSON.parse(localStorage.getItem(key) ?? '') as Box)
}

/** What pages that are no more left unsaved of a game, and this one before it was left; taken over. */
export async function takeOver(
  game: string,
  page: string,
  isThere: (page: string) => Promise<boolean>,
): Promise<Change[]> {
  try {
    const kept = new Map((await asked<Box[]>('readonly', (store) => store.getAll())).map(byKey))
    // What was kept as a page went is all that waited then.
    const boxes = [...new Map([...kept, ...keptAtOnce().map(byKey)]).values()]
    const found: Change[] = []
    for (const box of boxes.filter((one) => one.game === game)) {
      if (box.page !== page && (await isThere(box.page))) continue
      found.push(...box.changes.map((change) => ({ ...change, done: undefined })))
      if (box.page !== page) await asked('readwrite', (store) => store.delete(box.key))
    }
    await keep(game, page, found)
    for (const { key, page: whose } of boxes.filter((one) => one.game === game))
      if (whose === page || !(await isThere(whose))) localStorage.removeItem(AT_ONCE + key)
    return found
  } catch {
    return []
  }
}

const byKey = (box: Box): [string, Box] => [box.key, box]
