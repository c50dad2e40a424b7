import { basename } from 'node:path'
import { emptyRecipe, hashBytes, shortName, type FileRef, type Recipe } from '@chiraxis/core/recipe'
import { createDerivation, type Derivation } from '@chiraxis/core/steps'
import { besideOf, nameOf, readBody } from './files'
import { readApart } from './read-apart'

/** One body on the command line: the same recipe and the same steps as in the window. */
export function openBody(path: string): { recipe: Recipe; derivation: Derivation } {
  const files = new Map<string, Uint8Array>()
  const refer = (name: string, bytes: Uint8Array): FileRef => {
    const hash = hashBytes(bytes)
    files.set(hash, bytes)
    return { name, hash, size: bytes.length }
  }
  const body = refer(basename(path), readBody(path))
  const beside = [...besideOf(path)].map(([name, bytes]) => refer(name, bytes))
  return {
    recipe: { ...emptyRecipe(shortName(nameOf(path))), body, beside },
    derivation: createDerivation(async file => files.get(file.hash)!, { read: readApart }),
  }
}
