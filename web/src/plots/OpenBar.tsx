// Where a line is open, on a small depth scale; the gold tick is the depth in view.
export function OpenBar({
  range,
  scale,
  depth,
}: {
  range: [number, number]
  scale: [number, number]
  depth: number
}) {
  const [from, to] = scale
  const place = (d: number) => (100 * (d - from)) / (to - from + 1)
  return (
    <svg
      viewBox="0 0 100 10"
      preserveAspectRatio="none"
      width="34"
      height="9"
      aria-label={`open ${range[0]} to ${range[1]}`}
    >
      <line x1="0" x2="100" y1="5" y2="5" stroke="var(--color-hair)" strokeWidth="2" />
      <line
        x1={place(range[0])}
        x2={place(range[1] + 1)}
        y1="5"
        y2="5"
        stroke="var(--color-muted)"
        strokeWidth="4"
      />
      <line
        x1={place(depth + 0.5)}
        x2={place(depth + 0.5)}
        y1="0"
        y2="10"
        stroke="var(--color-gold)"
        strokeWidth="3"
      />
    </svg>
  )
}
