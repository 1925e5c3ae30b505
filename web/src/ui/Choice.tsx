// One of a few, chosen in a sentence or a heading.
export function Choice({
  label,
  value,
  options,
  width = 'max-w-[250px]',
  onChange,
}: {
  label: string
  value: string
  options: Record<string, string>
  /** A class: how broad it may be. */
  width?: string
  onChange: (value: string) => void
}) {
  return (
    <select
      aria-label={label}
      className={`choice ${width} bg-transparent text-ink`}
      value={value}
      onChange={(event) => onChange(event.target.value)}
    >
      {Object.entries(options).map(([key, words]) => (
        <option key={key} value={key}>
          {words}
        </option>
      ))}
    </select>
  )
}
