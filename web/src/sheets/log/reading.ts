// How far a log is read, as the server tells it while it works.
import { create } from 'zustand'

interface Reading {
  token: string | null
  rows: number
}

export const useReading = create<Reading>()(() => ({ token: null, rows: 0 }))

/** News of a log that is read, this page's or another's. */
export function hearRows(news: { token: string; rows: number }): void {
  if (useReading.getState().token === news.token) useReading.setState({ rows: news.rows })
}
