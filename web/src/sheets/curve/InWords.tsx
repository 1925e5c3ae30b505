// A curve made from words that people use.
import { useState } from 'react'
import type { Curve } from '@/api/types'
import { curveOfWords, PHRASES } from './points'

export function InWords({
  range,
  onMade,
}: {
  range: [number, number]
  onMade: (made: Pick<Curve, 'shape' | 'points'>, words: string) => void
}) {
  const [text, setText] = useState('')
  const [problem, setProblem] = useState('')
  return (
    <form
      className="ml-auto flex items-baseline gap-1.5"
      onKeyDown={(event) => event.stopPropagation()}
      onSubmit={(event) => {
        event.preventDefault()
        const made = curveOfWords(text, ...range)
        if (!made) return setProblem('say it like one of the list')
        setProblem('')
        setText('')
        void onMade(made, text.trim())
      }}
    >
      {problem && (
        <span role="alert" className="text-bad">
          {problem}
        </span>
      )}
      <input
        aria-label="the curve in words"
        list="curve-phrases"
        placeholder="in words: doubles every 5"
        className="field w-52"
        value={text}
        onChange={(event) => setText(event.target.value)}
      />
      <datalist id="curve-phrases">
        {PHRASES.map((phrase) => (
          <option key={phrase} value={phrase} />
        ))}
      </datalist>
    </form>
  )
}
