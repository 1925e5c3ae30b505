// Small signs: a die face for a tier, a glyph for each kind of source.
import type { Curve } from '@/api/types'
import type { Source, Tier } from '@/api/types'

const PIPS: Record<number, [number, number][]> = {
  1: [[8, 8]],
  2: [
    [5, 5],
    [11, 11],
  ],
  3: [
    [4.5, 4.5],
    [8, 8],
    [11.5, 11.5],
  ],
  4: [
    [5, 5],
    [11, 5],
    [5, 11],
    [11, 11],
  ],
  5: [
    [4.5, 4.5],
    [11.5, 4.5],
    [8, 8],
    [4.5, 11.5],
    [11.5, 11.5],
  ],
  6: [
    [5, 4],
    [11, 4],
    [5, 8],
    [11, 8],
    [5, 12],
    [11, 12],
  ],
}

export function Die({ colour, pips, size = 13 }: { colour: string; pips: number; size?: number }) {
  return (
    <svg width={size} height={size} viewBox="0 0 16 16" aria-hidden className="shrink-0">
      <rect x="0.5" y="0.5" width="15" height="15" rx="3" fill={colour} />
      {(PIPS[pips] ?? []).map(([x, y]) => (
        <circle key={`${x},${y}`} cx={x} cy={y} r="1.6" fill="var(--color-raised)" />
      ))}
    </svg>
  )
}

export function TierMark({ tier, size }: { tier: Tier | undefined; size?: number }) {
  if (!tier) return <span className="inline-block w-[13px] shrink-0" />
  return (
    <span title={tier.name} className="inline-flex shrink-0">
      <Die colour={tier.colour} pips={tier.pips} size={size} />
    </span>
  )
}

/** A name after the mark of its tier. */
export function TierNamed({
  tier,
  name,
  small,
}: {
  tier: Tier | undefined
  name: string
  small?: boolean
}) {
  return (
    <span className="flex items-center gap-2 whitespace-nowrap">
      <TierMark tier={tier} {...(small && { size: 11 })} />
      <span className={`name truncate ${small ? 'text-body' : 'text-item'}`}>{name}</span>
    </span>
  )
}

export function TableMark() {
  return (
    <svg width="13" height="13" viewBox="0 0 16 16" aria-hidden className="shrink-0">
      <path
        d="M1 3.5h14v9H1z M6 3.5v9 M11 3.5v9"
        fill="none"
        stroke="var(--color-muted)"
        strokeWidth="1.4"
      />
    </svg>
  )
}

const KIND_PATHS: Record<Source['kind'], string> = {
  // a jaw, a lidded box, a bed that grows, a tied parcel
  enemy: 'M1.5 4.5h13 M2.5 4.5l2 6 2-6 2 7 2-7 2 6 1-6',
  container: 'M2 5h12v8H2z M1 3h14v2.5H1z M8 5.5v3',
  node: 'M1 13.5h14 M4 13V8 M8 13V4 M12 13V7 M4 8l-2-2 M8 4l2-2 M12 7l2-2',
  parcel: 'M2 4h12v9H2z M8 4v9 M2 8.5h12 M5 1.5L8 4l3-2.5',
}

export function SourceMark({ kind }: { kind: Source['kind'] }) {
  return (
    <svg
      width="14"
      height="14"
      viewBox="0 0 16 16"
      className="shrink-0"
      role="img"
      aria-label={kind}
    >
      <path
        d={KIND_PATHS[kind]}
        fill="none"
        stroke="currentColor"
        strokeWidth="1.3"
        strokeLinejoin="round"
        strokeLinecap="round"
      />
    </svg>
  )
}

export function GoldDie({ size = 24, face = 5 }: { size?: number; face?: number }) {
  return (
    <svg width={size} height={size} viewBox="-2 -2 20 20" aria-hidden className="shrink-0">
      <g transform="rotate(-9 8 8)">
        <rect x="0" y="0" width="16" height="16" rx="3" fill="var(--color-gold)" />
        {(PIPS[face] ?? []).map(([x, y]) => (
          <circle key={`${x},${y}`} cx={x} cy={y} r="1.5" fill="var(--color-ink)" />
        ))}
      </g>
    </svg>
  )
}

/** A curve in small: depth downward, like everywhere. */
export function CurveMark({ curve, scale }: { curve: Curve; scale: [number, number] }) {
  const most = Math.max(1, ...curve.points.map(([, value]) => value))
  const span = Math.max(1, scale[1] - scale[0])
  const points = curve.points.map(
    ([d, value]) => `${1 + (12 * value) / most},${1 + (12 * (d - scale[0])) / span}`,
  )
  const first = points[0]?.split(',')[0] ?? '1'
  const last = points.at(-1)?.split(',')[0] ?? '1'
  return (
    <svg width="15" height="15" viewBox="0 0 15 15" aria-hidden className="shrink-0">
      <path d="M1 1v13" stroke="var(--color-ghost)" fill="none" />
      <polyline
        points={[`${first},1`, ...points, `${last},13`].join(' ')}
        fill="none"
        stroke="var(--color-pine)"
        strokeWidth="1.5"
      />
    </svg>
  )
}

/** What is met: points on the way down. */
export function MeetsMark() {
  return (
    <svg width="15" height="15" viewBox="0 0 15 15" aria-hidden className="shrink-0">
      <path d="M7.5 1v13" stroke="var(--color-muted)" />
      <circle cx="7.5" cy="3.5" r="1.8" fill="var(--color-pine)" />
      <circle cx="7.5" cy="8" r="1.8" fill="var(--color-pine)" />
      <circle cx="7.5" cy="12.5" r="1.8" fill="var(--color-pine)" />
    </svg>
  )
}

/** A target: the wanted band, and where the figure stands in it. */
export function AimMark() {
  return (
    <svg width="13" height="13" viewBox="0 0 16 16" aria-hidden className="shrink-0">
      <path
        d="M1 8h14 M5 3.5v9 M11 3.5v9"
        fill="none"
        stroke="var(--color-muted)"
        strokeWidth="1.3"
      />
      <circle cx="8" cy="8" r="2.2" fill="var(--color-muted)" />
    </svg>
  )
}

/** Flags: a pennant on its pole. */
export function FlagMark() {
  return (
    <svg width="13" height="13" viewBox="0 0 16 16" aria-hidden className="shrink-0">
      <path d="M4 1.5v13" stroke="var(--color-muted)" strokeWidth="1.5" />
      <path d="M4.5 2.5L13 5.5 4.5 8.5z" fill="var(--color-muted)" />
    </svg>
  )
}

/** A route: down, and up again. */
export function RouteMark() {
  return (
    <svg width="13" height="13" viewBox="0 0 16 16" aria-hidden className="shrink-0">
      <path d="M1.5 3l5 9.5 3-5 5 1.5" fill="none" stroke="var(--color-muted)" strokeWidth="1.4" />
      <circle cx="6.5" cy="12.5" r="1.9" fill="var(--color-pine)" />
    </svg>
  )
}

/** A set: pieces that touch. */
export function SetMark() {
  return (
    <svg width="13" height="13" viewBox="0 0 16 16" aria-hidden className="shrink-0">
      <path
        d="M1.5 9h5.5v5.5H1.5z M9 9h5.5v5.5H9z M5.2 1.5h5.6V7H5.2z M8 7v2"
        fill="none"
        stroke="var(--color-muted)"
        strokeWidth="1.3"
      />
    </svg>
  )
}

/** A property: how far it is filled between its bounds. */
export function PropertyMark() {
  return (
    <svg width="13" height="13" viewBox="0 0 16 16" aria-hidden className="shrink-0">
      <path d="M2 2v12 M14 2v12" stroke="var(--color-muted)" strokeWidth="1.4" />
      <path d="M2 8h7" stroke="var(--color-pine)" strokeWidth="3.4" />
      <path d="M9 8h5" stroke="var(--color-ghost)" strokeWidth="1.4" />
    </svg>
  )
}

/** Kit: what is worn rises by steps. */
export function KitMark() {
  return (
    <svg width="13" height="13" viewBox="0 0 16 16" aria-hidden className="shrink-0">
      <path d="M1 13.5h4V9h4.5V5H15" fill="none" stroke="var(--color-pine)" strokeWidth="1.6" />
    </svg>
  )
}

/** A place: spots on a plan. */
export function PlaceMark() {
  return (
    <svg width="13" height="13" viewBox="0 0 16 16" aria-hidden className="shrink-0">
      <path d="M1.5 2h13v12h-13z" fill="none" stroke="var(--color-muted)" strokeWidth="1.3" />
      <path d="M4 5h2.6v2.6H4z M9.5 4.4h2.6V7H9.5z M7 9.6h2.6v2.6H7z" fill="var(--color-pine)" />
    </svg>
  )
}

/** A stall: an awning over its board. */
export function StallMark() {
  return (
    <svg width="13" height="13" viewBox="0 0 16 16" aria-hidden className="shrink-0">
      <path
        d="M1.5 6.5L3.5 2h9l2 4.5c-1 1.6-2.8 1.6-3.8 0-1 1.6-3.4 1.6-5.4 0-1 1.6-2.8 1.6-3.8 0z M3 8v6h10V8"
        fill="none"
        stroke="var(--color-muted)"
        strokeWidth="1.3"
        strokeLinejoin="round"
      />
    </svg>
  )
}
