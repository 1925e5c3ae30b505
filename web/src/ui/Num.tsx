import { figures } from './format'

/** A number lined up on its decimal point: the fraction has a width of its own. */
export function Num({
  value,
  unit,
  digits = 3,
}: {
  value: number | null
  unit?: string
  digits?: number
}) {
  const text = figures(value, digits)
  const point = text.indexOf('.')
  const front = point < 0 ? text : text.slice(0, point)
  const back = point < 0 ? '' : text.slice(point)
  if (text.includes('e'))
    return <span className="num whitespace-nowrap">{text + (unit ?? '')}</span>
  return (
    <span className="num inline-flex whitespace-nowrap">
      <span>{front}</span>
      <span className="inline-block w-[3.7ch] text-left">
        {back}
        {unit && <span className="text-muted">{`\u202f${unit}`}</span>}
      </span>
    </span>
  )
}
