// Code that comes when it is wanted, or when the page has nothing else to do: the first screen is there sooner.
import { lazy, type ComponentType, type LazyExoticComponent } from 'react'

const AGAIN = 2_000 // ms until what could not be fetched is tried again
const loads: (() => Promise<unknown>)[] = []

/** A component of which the code is fetched apart from the rest. */
// Whatever its properties are, they are kept.
// eslint-disable-next-line @typescript-eslint/no-explicit-any
export function later<C extends ComponentType<any>>(
  load: () => Promise<C>,
): LazyExoticComponent<C> {
  loads.push(load)
  return lazy(async () => ({ default: await persistently(load) }))
}

/** Fetch all of it, one after another, once the first screen stands: a page that loses its server has every
 *  sheet at hand. */
export function loadTheRest(): () => void {
  let stopped = false
  const next = async () => {
    for (const load of loads) {
      if (stopped) return
      await persistently(load)
      await new Promise((done) => setTimeout(done))
    }
  }
  const idle = requestIdleCallback(() => void next(), { timeout: 1_000 })
  return () => {
    stopped = true
    cancelIdleCallback(idle)
  }
}

/** A server that is away comes back. One that has another version by now has no such file any more: then the
 *  page is opened anew, with what was not sent yet kept by the browser. */
async function persistently<T>(load: () => Promise<T>): Promise<T> {
  for (;;) {
    try {
      return await load()
    } catch (error) {
      if (await isAnotherVersion()) location.reload()
      await new Promise((done) => setTimeout(done, AGAIN))
      console.info('tried again', error)
    }
  }
}

/** Whether the server's first page names other files than this one. */
async function isAnotherVersion(): Promise<boolean> {
  try {
    const page = await (await fetch('/', { cache: 'no-store' })).text()
    const mine = document.querySelector<HTMLScriptElement>('script[type=module][src]')
    return mine !== null && !page.includes(new URL(mine.src).pathname)
  } catch {
    return false
  }
}
