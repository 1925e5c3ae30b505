// What is known of a question, as a type: a sheet, a reading or a plot draws one of these, so that an answer
// that is not there yet cannot be taken for an empty one, nor another thing's for this one's.
import {
  useQuery,
  useQueryClient,
  type Query,
  type QueryKey,
  type UseQueryOptions,
} from '@tanstack/react-query'
import { Offline } from '@/api/client'

export type Answered =
  | { is: 'not asked' }
  | { is: 'asked'; since: number }
  | { is: 'stopped' }
  | { is: 'known' }
  | { is: 'older' }
  | { is: 'refused'; message: string }
  | { is: 'out of reach'; hasOlder: boolean }

/** A question's answer, as far as it is there. */
export interface AnswerTo<T> {
  data: T | undefined
  error: Error | null
  /** The data is of before the last edit, depth or choice. */
  isPlaceholderData: boolean
  state: Answered
  stop: () => void
  again: () => void
}

interface Asking<T> extends UseQueryOptions<T> {
  /** How many of the first parts of the key say what is asked about: only of the same an older answer stays. */
  same: number
}

const since = new WeakMap<object, number>()

export function useAnswer<T>({ same, ...options }: Asking<T>): AnswerTo<T> {
  const client = useQueryClient()
  const query = useQuery<T>({
    ...options,
    placeholderData: (previous: T | undefined, before: Query<T, Error, T> | undefined) =>
      before && isOfTheSame(before.queryKey, options.queryKey, same) ? previous : undefined,
  } as UseQueryOptions<T>)
  // What is not looked at does not draw anything anew.
  return {
    get data() {
      return query.data
    },
    get error() {
      return query.error
    },
    get isPlaceholderData() {
      return query.isPlaceholderData
    },
    get state(): Answered {
      const { data, error, fetchStatus, failureReason, isPlaceholderData } = query
      if (failureReason instanceof Offline || fetchStatus === 'paused')
        return { is: 'out of reach', hasOlder: data !== undefined }
      if (error) return { is: 'refused', message: error.message }
      if (data !== undefined) return { is: isPlaceholderData ? 'older' : 'known' }
      if (options.enabled === false) return { is: 'not asked' }
      if (fetchStatus === 'idle') return { is: 'stopped' }
      const one = client.getQueryCache().find({ queryKey: options.queryKey }) ?? query
      if (!since.has(one)) since.set(one, Date.now())
      return { is: 'asked', since: since.get(one) ?? Date.now() }
    },
    stop: () => void client.cancelQueries({ queryKey: options.queryKey }),
    again: () => {
      const one = client.getQueryCache().find({ queryKey: options.queryKey })
      if (one) since.delete(one) // it is asked anew
      void query.refetch()
    },
  }
}

function isOfTheSame(before: QueryKey, now: QueryKey, same: number): boolean {
  return JSON.stringify(before.slice(0, same)) === JSON.stringify(now.slice(0, same))
}
