import { readFileSync } from 'node:fs'
import { folderStore, programOf, serveQueue } from '../src/queue'

// a worker as a process of its own: ADDRESS STORE SCRIPT SETTINGS
const [url, store, script, settings] = process.argv.slice(2)
await serveQueue({
  url: url!,
  store: await folderStore(store!),
  program: programOf(readFileSync(script!)),
  script: script!,
  ...(JSON.parse(settings!) as object),
})
