import { addressOf, serveQueue } from '../src/queue'

// a worker as a process of its own: ADDRESS STORE SCRIPT SETTINGS
const [url, store, script, settings] = process.argv.slice(2)
await serveQueue({
  ...(await addressOf(url!, script!, store)),
  script: script!,
  ...(JSON.parse(settings!) as object),
})
