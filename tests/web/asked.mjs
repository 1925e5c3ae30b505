// Runs modules of the page without a browser. Started in web/ with the modules' paths within src; reads one
// question a line: {module, name, args}, and answers {value} or {error}. Arguments may be games and sets, see
// `page.py`.
// `sync` keeps what a page knows between questions: {sync: client, open: game} or {sync: client, event}.
import { mkdtempSync, rmSync } from 'node:fs'
import { createRequire } from 'node:module'
import { tmpdir } from 'node:os'
import { join, resolve } from 'node:path'
import { createInterface } from 'node:readline'
import { pathToFileURL } from 'node:url'

const { rolldown } = await import(pathToFileURL(createRequire(resolve('package.json')).resolve('rolldown')))
const folder = mkdtempSync(join(tmpdir(), 'golddice-web-'))
const modules = {}
// What modules ask of a browser as they are loaded.
const nothing = () => null
globalThis.window = { addEventListener: nothing, matchMedia: () => ({ matches: false }) }
globalThis.document = { addEventListener: nothing, visibilityState: 'visible' }
globalThis.localStorage = globalThis.sessionStorage = { getItem: nothing, setItem: nothing }
// What shows notes writes its styles into a page as it is loaded.
const withoutNotes = {
  name: 'without notes',
  resolveId: (id) => (id === 'sonner' ? '\0sonner' : null),
  load: (id) => (id === '\0sonner' ? 'export const toast = () => null, Toaster = toast' : null),
}
for (const path of process.argv.slice(2)) {
  const bundle = await rolldown({
    input: resolve('src', path),
    resolve: { alias: { '@': resolve('src') } },
    plugins: [withoutNotes],
    logLevel: 'silent',
  })
  const file = join(folder, `${path.replace(/\W/g, '-')}.mjs`)
  await bundle.write({ file, format: 'esm' })
  modules[path] = await import(pathToFileURL(file))
}
rmSync(folder, { recursive: true })

const clients = new Map()
const games = []
function told(argument) {
  if (Array.isArray(argument?.ids)) return new Set(argument.ids)
  if (argument?.game === undefined) return argument
  games[argument.game] ??= modules['game/parts.ts'].partsOf(argument['parts of'])
  return games[argument.game]
}
const plain = (value) =>
  JSON.stringify(value, (_, one) => (one instanceof Map ? Object.fromEntries(one) : one))

function sync({ client, open, kept, event }) {
  const { opened, reduced, edited } = modules['game/sync/state.ts']
  const [state, effects] = open ? opened(open, kept) : reduced(clients.get(client), event)
  clients.set(client, state)
  const { saved, ...rest } = state
  const { parts, unsaved, content } = edited(state)
  return { ...rest, effects, saved, shown: parts, unsaved, shownContent: content }
}

process.stdout.write('ready\n')
for await (const line of createInterface({ input: process.stdin })) {
  const asked = JSON.parse(line)
  let answer
  try {
    const value = asked.sync ? sync(asked.sync) : modules[asked.module][asked.name](...asked.args.map(told))
    answer = plain({ value: value ?? null })
  } catch (error) {
    answer = plain({ error: String(error?.stack ?? error) })
  }
  process.stdout.write(answer + '\n')
}
