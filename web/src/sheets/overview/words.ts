// How long something takes, as one would say it.
import { figures } from '@/text/format'

/** In seconds, minutes or hours, whichever makes a number that one can think of. */
export function spanText(hours: number): string {
  if (hours < 1 / 60) return `${figures(3600 * hours)} s`
  return hours < 1 ? `${figures(60 * hours)} min` : `${figures(hours)} h`
}
