/** Jobs past one machine: a queue that exists, files in a store, workers wherever they run. */
export { addressOf, type QueueAddress } from './connection'
export { createQueuePool, type QueuePoolOptions } from './client'
export { serveQueue, type QueueWorker, type WorkerOptions } from './worker'
export { overviewOf, type QueueOverview } from './overview'
export { folderStore, type Store } from './store'
