// Runs modules of the page without a browser. Started in web/ with the modules' paths within src; reads one
// question a line: {module, name, args}, and answers {value} or {error}. Maps go as {"": [[key, value]]}.
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
for (const path of process.argv.slice(2)) {
  const bundle = await rolldown({
    input: resolve('src', path),
    resolve: { alias: { '@': resolve('src') } },
    logLevel: 'silent',
  })
  const file = join(folder, `${path.replace(/\W/g, '-')}.mjs`)
  await bundle.write({ file, format: 'esm' })
  modules[path] = await import(pathToFileURL(file))
}
rmSync(folder, { recursive: true })

const clients = new Map()
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
    const value = asked.sync ? sync(asked.sync) : modules[asked.module][asked.name](...asked.args)
    answer = plain({ value: value ?? null })
  } catch (error) {
    answer = plain({ error: String(error?.stack ?? error) })
  }
  process.stdout.write(answer + '\n')
}
