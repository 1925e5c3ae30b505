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

export async function savePicture(
  name: string,
  svg: SVGSVGElement,
  form: 'svg' | 'png',
): Promise<void> {
  try {
    const text = await standsAlone(svg)
    const drawn = new Blob([text], { type: 'image/svg+xml' })
    const picture = form === 'svg' ? drawn : await pixels(drawn, svg.getBoundingClientRect())
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

/** A drawing that looks the same outside this page: with its paper, its size and the letters it uses. */
async function standsAlone(svg: SVGSVGElement): Promise<string> {
  const copy = svg.cloneNode(true) as SVGSVGElement
  const { width, height } = svg.getBoundingClientRect()
  copy.setAttribute('xmlns', 'http://www.w3.org/2000/svg')
  copy.setAttribute('width', String(width))
  copy.setAttribute('height', String(height))
  if (!copy.hasAttribute('viewBox')) copy.setAttribute('viewBox', `0 0 ${width} ${height}`)
  copy.querySelectorAll('[data-not-printed]').forEach((part) => part.remove())
  const style = document.createElementNS('http://www.w3.org/2000/svg', 'style')
  const tokens = tokensIn(new XMLSerializer().serializeToString(copy))
  style.textContent =
    (await letters()) +
    `:root{${tokens}}svg{background:${token(PAPER)};font-family:'IBM Plex Sans',sans-serif}` +
    ".num{font-family:'IBM Plex Mono',monospace}.name{font-family:Fraunces,serif}"
  copy.prepend(style)
  return new XMLSerializer().serializeToString(copy)
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

async function pixels(drawing: Blob, { width, height }: DOMRect): Promise<Blob> {
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
