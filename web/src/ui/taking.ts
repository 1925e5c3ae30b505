// What is on screen, taken along: numbers and pictures, to the clipboard or as a file.
import { toast } from 'sonner'
import { commaSeparated, tabbed, type Numbers } from './table/numbers'

const PAPER = '--color-paper'
const SHARPNESS = 3 // pixels of a picture for each on screen

export async function copyText(text: string, what = 'The numbers'): Promise<void> {
  try {
    await navigator.clipboard.writeText(text)
    toast(`${what} can be pasted into a spreadsheet`)
  } catch {
    toast.error('The browser did not let the clipboard be written to')
  }
}

export const copyNumbers = (numbers: Numbers) => copyText(tabbed([numbers.heads, ...numbers.rows]))

export function saveNumbers(name: string, numbers: Numbers): void {
  // The mark at the front tells spreadsheets that it is UTF-8.
  saveFile(
    `${fileName(name)}.csv`,
    new Blob(['\ufeff', commaSeparated(numbers)], { type: 'text/csv' }),
  )
}

/** What stands around a plot on its sheet: its title, the ends of its axis, and its rows. */
export interface Surround {
  title: string
  ends: [string, string]
  /** How far down each is, in units of the drawing. */
  rows: { at: number; says: string }[]
}

const HEAD = 40 // pixels over a plot for its title and axis
const SIDE = 44 // and left of it for its rows

export async function savePicture(
  name: string,
  svg: SVGSVGElement,
  form: 'svg' | 'png',
  printed?: Surround,
): Promise<void> {
  try {
    const { width, height } = svg.getBoundingClientRect()
    const size = printed ? { width: width + SIDE + 8, height: height + HEAD } : { width, height }
    const text = await standsAlone(svg, size, printed)
    const drawn = new Blob([text], { type: 'image/svg+xml' })
    const picture = form === 'svg' ? drawn : await pixels(drawn, size)
    saveFile(`${fileName(name)}.${form}`, picture)
  } catch (error) {
    toast.error(
      `The picture could not be made: ${error instanceof Error ? error.message : String(error)}`,
    )
  }
}

function saveFile(name: string, content: Blob): void {
  const address = URL.createObjectURL(content)
  const link = Object.assign(document.createElement('a'), { href: address, download: name })
  link.click()
  setTimeout(() => URL.revokeObjectURL(address), 10_000)
}

function fileName(name: string): string {
  const plain = name
    .normalize('NFKD')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
  return plain.replace(/^-|-$/g, '').slice(0, 80) || 'figure'
}

interface Size {
  width: number
  height: number
}

/** A drawing that looks the same outside this page: with its paper, its size and the letters it uses. */
async function standsAlone(svg: SVGSVGElement, size: Size, printed?: Surround): Promise<string> {
  const own = svg.cloneNode(true) as SVGSVGElement
  const { width, height } = svg.getBoundingClientRect()
  sized(own, { width, height })
  if (!own.hasAttribute('viewBox')) own.setAttribute('viewBox', `0 0 ${width} ${height}`)
  own.querySelectorAll('[data-not-printed]').forEach((part) => part.remove())
  const copy = printed ? surrounded(own, size, printed) : own
  const style = document.createElementNS(SVG, 'style')
  const tokens = tokensIn(new XMLSerializer().serializeToString(copy))
  style.textContent =
    (await letters()) +
    `:root{${tokens}}svg{background:${token(PAPER)};font-family:'IBM Plex Sans',sans-serif}` +
    ".num{font-family:'IBM Plex Mono',monospace}.name{font-family:Fraunces,serif}"
  copy.prepend(style)
  return new XMLSerializer().serializeToString(copy)
}

function sized(svg: Element, { width, height }: Size): void {
  svg.setAttribute('xmlns', SVG)
  svg.setAttribute('width', String(width))
  svg.setAttribute('height', String(height))
}

const SVG = 'http://www.w3.org/2000/svg'

/** The drawing with its title over it, the ends of its axis, and its rows at its side. */
function surrounded(
  own: SVGSVGElement,
  size: Size,
  { title, ends, rows }: Surround,
): SVGSVGElement {
  const whole = document.createElementNS(SVG, 'svg')
  sized(whole, size)
  whole.setAttribute('viewBox', `0 0 ${size.width} ${size.height}`)
  const right = SIDE + Number(own.getAttribute('width'))
  const say = (text: string, x: number, y: number, anchor: string, css = 'num') => {
    const made = document.createElementNS(SVG, 'text')
    const set = {
      x,
      y,
      'text-anchor': anchor,
      class: css,
      'font-size': 10.5,
      fill: 'var(--color-muted)',
    }
    for (const [key, value] of Object.entries(set)) made.setAttribute(key, String(value))
    made.textContent = text
    whole.append(made)
  }
  say(title, 4, 14, 'start', '')
  say(ends[0], SIDE, HEAD - 6, 'start')
  say(ends[1], right, HEAD - 6, 'end')
  for (const row of rows) say(row.says, SIDE - 6, HEAD + row.at + 3.5, 'end')
  own.setAttribute('x', String(SIDE))
  own.setAttribute('y', String(HEAD))
  whole.append(own)
  return whole
}

const token = (name: string) =>
  getComputedStyle(document.documentElement).getPropertyValue(name).trim()

/** The colours that a drawing names, as they are now. */
function tokensIn(drawing: string): string {
  const names = new Set(drawing.match(/--color-[a-z-]+/g))
  return [...names].map((name) => `${name}:${token(name)}`).join(';')
}

/** The page's own font files, those of plain letters, within the drawing. */
async function letters(): Promise<string> {
  const faces = [...document.styleSheets]
    .flatMap((sheet) => [...sheet.cssRules])
    .filter((rule): rule is CSSFontFaceRule => rule instanceof CSSFontFaceRule)
    .filter(
      (face) => /latin-[^"')]*(400|600)?/.test(face.cssText) && !/latin-ext/.test(face.cssText),
    )
  const drawn = await Promise.all(faces.map(withFile))
  return drawn.join('')
}

async function withFile(face: CSSFontFaceRule): Promise<string> {
  const file = /url\("?([^")]+\.woff2)"?\)/.exec(face.cssText)?.[1]
  if (!file) return ''
  const home = face.parentStyleSheet?.href ?? location.href
  const content = await (await fetch(new URL(file, home))).blob()
  const family = face.style.getPropertyValue('font-family')
  const weight = face.style.getPropertyValue('font-weight') || '400'
  return `@font-face{font-family:${family};font-weight:${weight};src:url(${await asAddress(content)})}`
}

function asAddress(content: Blob): Promise<string> {
  return new Promise((resolve, reject) => {
    const reader = new FileReader()
    reader.onload = () => resolve(reader.result as string)
    reader.onerror = () => reject(new Error('a font could not be read'))
    reader.readAsDataURL(content)
  })
}

async function pixels(drawing: Blob, { width, height }: Size): Promise<Blob> {
  const image = new Image()
  image.src = await asAddress(drawing)
  await image.decode()
  const canvas = document.createElement('canvas')
  canvas.width = width * SHARPNESS
  canvas.height = height * SHARPNESS
  const context = canvas.getContext('2d')
  if (!context) throw new Error('the browser cannot draw it')
  context.fillStyle = token(PAPER)
  context.fillRect(0, 0, canvas.width, canvas.height)
  context.drawImage(image, 0, 0, canvas.width, canvas.height)
  return new Promise((resolve, reject) =>
    canvas.toBlob(
      (made) => (made ? resolve(made) : reject(new Error('it is too large'))),
      'image/png',
    ),
  )
}
