// Keys that are not for the page.
import type { KeyboardEvent } from 'react'

/** An input method is at work: its keys choose among its candidates. */
export const isComposing = (event: KeyboardEvent): boolean =>
  event.nativeEvent.isComposing || event.key === 'Process'
