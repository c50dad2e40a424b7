import { parentPort } from 'node:worker_threads'
import { createTransferJobs, type TransferJob } from '@chiraxis/core/batch'
import { ChiraxisError } from '@chiraxis/core/math'
import { readAny } from '@chiraxis/loaders'

// one job at a time; what it reads stays read for the next
const carry = createTransferJobs(readAny)
parentPort!.on('message', (job: TransferJob) => {
  carry(job).then(
    result => parentPort!.postMessage({ ok: true, result }, [result.bytes.buffer]),
    (error: unknown) =>
      parentPort!.postMessage({
        ok: false,
        code: error instanceof ChiraxisError ? error.code : 'bad-input',
        message: error instanceof Error ? error.message : String(error),
      }),
  )
})
