// Who else looks at this game, and where they are.
import { create } from 'zustand'

export interface Person {
  page: string
  who: string
  sheet: string
  /** What is under their keyboard, in words; and, of a grid's cell, its address. */
  cell: string
  at: string
}

/** The window hears of it when this page has to be told of again: its stream was opened anew, or its name. */
export const AGAIN = 'golddice:here-again'

interface People {
  people: Person[]
  /** This page, which is told of too. */
  mine: string
}

export const usePeople = create<People>()(() => ({ people: [], mine: '' }))

export function hearPeople(people: Person[]): void {
  usePeople.setState({ people })
}

export const othersOf = ({ people, mine }: People) => people.filter((one) => one.page !== mine)

/** The address of a cell, the same on every page that shows its grid. */
export const cellAddress = (grid: string, row: string, column: string) =>
  [grid, row, column].join('|').slice(0, 200)

/** Somebody else who is in a cell. */
export function useWhoIsIn(address: string): Person | undefined {
  return usePeople((state) =>
    state.people.find((one) => one.at === address && one.page !== state.mine),
  )
}

export const nameOf = (one: Person) => one.who || 'somebody'

/** The same colour for the same page, here and elsewhere. */
export function inkOf(page: string): string {
  let sum = 0
  for (const letter of page) sum = (sum * 31 + letter.charCodeAt(0)) % 360
  return `hsl(${sum} 45% 32%)`
}
