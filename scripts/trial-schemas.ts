// Writes docs/states.schema.json and docs/crowd.schema.json: the open descriptions of what Trial writes, made of what reads it.
import { writeFileSync } from 'node:fs'
import { crowdJsonSchema, statesJsonSchema } from '../core/src/trial'
import { format, resolveConfig } from 'prettier'

const write = async (path: string, value: unknown): Promise<void> =>
  writeFileSync(path, await format(JSON.stringify(value), { ...(await resolveConfig(path)), filepath: path }))
await write('docs/states.schema.json', statesJsonSchema())
await write('docs/crowd.schema.json', crowdJsonSchema())
