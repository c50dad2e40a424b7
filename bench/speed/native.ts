import { execFileSync } from 'node:child_process'
import { existsSync, mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Mesh } from '@chiraxis/core/mesh'
import { atBind, boneSegments, type Skeleton, type WorldPose } from '@chiraxis/core/skeleton'
import { jointMatrices, type Skin } from '@chiraxis/core/skin'

const SOURCES = new URL('./native', import.meta.url).pathname
const BUILT = 'node_modules/.cache/chiraxis/native'
const EIGEN = '/usr/include/eigen3'

/** The peers in C++, built for this processor; undefined where there is no compiler or no library for sparse matrices. */
export function buildNative(): { heat: string; skinning: string } | undefined {
  if (!existsSync(EIGEN)) return undefined
  mkdirSync(BUILT, { recursive: true })
  const made = (name: string): string => {
    const program = join(BUILT, name)
    execFileSync('g++', ['-O3', '-march=native', `-I${EIGEN}`, join(SOURCES, `${name}.cpp`), '-o', program])
    return program
  }
  try {
    return { heat: made('heat'), skinning: made('skinning') }
  } catch {
    return undefined
  }
}

/** A skinned body and a pose of it as a file the native peers read; removed by the returned function. */
export function writeBody(
  mesh: Mesh,
  skeleton: Skeleton,
  skin: Skin,
  posed: WorldPose,
): { readonly file: string; readonly remove: () => void } {
  const bones = boneSegments(atBind(skeleton))
  const folder = mkdtempSync(join(tmpdir(), 'chiraxis-bench-'))
  const file = join(folder, 'body.bin')
  const joints = skeleton.names.length
  // a bone a joint: those without one have none near
  const segments = new Float32Array(6 * joints).fill(1e6)
  for (const { joint, from, to } of bones) segments.set([...from, ...to], 6 * joint)
  const counts = Int32Array.of(mesh.positions.length / 3, mesh.indices.length / 3, joints, skin.influences)
  const parts = [
    counts,
    mesh.positions,
    Uint32Array.from(mesh.indices),
    segments,
    Uint32Array.from(skin.joints),
    skin.weights,
    jointMatrices(skeleton, posed),
  ]
  writeFileSync(file, Buffer.concat(parts.map(p => Buffer.from(p.buffer, p.byteOffset, p.byteLength))))
  return { file, remove: () => rmSync(folder, { recursive: true, force: true }) }
}

/** One run of a native peer: the best of its rounds, milliseconds, by its own clock. */
export const runNative = (program: string, file: string, rounds: number): number =>
  Number(execFileSync(program, [file, String(rounds)], { encoding: 'utf8' }))
