import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { readGltf, writeGlb } from '@chiraxis/core/formats'
import { detectBody, standUp } from '@chiraxis/core/landmarks'
import { applyStraighten } from '@chiraxis/core/shape'
import { bind, deform } from '@chiraxis/core/skin'
import { ALL_POSES, assess, poseWorld } from '@chiraxis/core/strain'
import { makeFigure, trueSkeleton, variedProportions } from '@chiraxis/demo/figures'
import { inTurn, ms, pace, table } from './machine'
import { runNative, writeBody, type buildNative } from './native'

/** Vertices of the bodies; a closed body has twice as many triangles. */
export const SIZES = [10_000, 30_000, 100_000, 300_000, 500_000, 1_000_000]
/** Bodies of seeds no constant was chosen on. */
const SEED = 777_001

/** A body of every size through the steps from file to strain, each beside its peer where there is one. */
export async function bodies(sizes: readonly number[], native: ReturnType<typeof buildNative>): Promise<string> {
  const steps: (string | number)[][] = []
  const posing: (string | number)[][] = []
  for (const size of sizes) {
    const figure = makeFigure(variedProportions(SEED), { vertices: size })
    const { mesh } = figure
    const bytes = await writeGlb({ name: 'body', mesh })
    const vertices = mesh.positions.length / 3
    const rounds = vertices < 50_000 ? 5 : vertices < 200_000 ? 3 : 1
    const skeleton = trueSkeleton(figure)
    const skin = await bind(mesh, skeleton)
    const pose = poseWorld(skeleton, ALL_POSES[0])
    const file = writeBody(mesh, skeleton, skin, pose)
    const straight = await standUp(mesh)
    const stood = applyStraighten(mesh, straight)
    const best = await inTurn(rounds, {
      read: () => readGltf(bytes),
      stand: () => standUp(mesh),
      landmarks: () => detectBody(stood, 'auto', { stance: straight.confidence }),
      skin: () => bind(mesh, skeleton),
      ...(native && { heat: () => runNative(native.heat, file.file, 1) }),
      strain: () => assess(mesh, skeleton, skin),
    })
    const posed = await inTurn(Math.ceil(3_000_000 / vertices), {
      ours: () => deform(mesh.positions, skeleton, skin, pose),
    })
    const simd = native ? runNative(native.skinning, file.file, Math.ceil(6_000_000 / vertices)) : undefined
    file.remove()
    const ratio = best.heat ? (best.skin / best.heat).toFixed(2) : '–'
    steps.push([
      vertices,
      ms(best.read),
      ms(best.stand),
      ms(best.landmarks),
      ms(best.skin),
      best.heat ? ms(best.heat) : '–',
      ratio,
      ms(best.strain),
      ms(pace()),
    ])
    const perVertex = (t: number): string => ((1e6 * t) / vertices).toFixed(1)
    posing.push([
      vertices,
      perVertex(posed.ours),
      simd === undefined ? '–' : perVertex(simd),
      simd === undefined ? '–' : (posed.ours / simd).toFixed(1),
    ])
    console.error(`body of ${vertices} vertices: done`)
  }
  return [
    '## A body, from file to strain\n',
    'Milliseconds. The peer of skin is bone heat on the surface in C++ with one sparse Cholesky factor for all bones, run in turn with ours.\n',
    table(
      [
        'vertices',
        'read GLB',
        'stand up',
        'landmarks',
        'skin',
        'skin in C++',
        'ours / C++',
        'strain in all poses',
        'pace',
      ],
      steps,
    ),
    '\n## Posing on the CPU\n',
    'Nanoseconds a vertex, linear blend of four influences; the peer is C++ with SIMD.\n',
    table(['vertices', 'ours', 'SIMD in C++', 'ours / C++'], posing),
  ].join('\n')
}

/** The command `rig`, whole: program start, reading, everything, writing and proof. */
export async function rigs(sizes: readonly number[]): Promise<string> {
  const folder = mkdtempSync(join(tmpdir(), 'chiraxis-bench-'))
  const rows: (string | number)[][] = []
  for (const size of sizes) {
    const { mesh } = makeFigure(variedProportions(SEED), { vertices: size })
    const [body, out, report] = ['body.glb', 'out.glb', 'report.json'].map(name => join(folder, name))
    writeFileSync(body, await writeGlb({ name: 'body', mesh }))
    const best = await inTurn(size < 200_000 ? 2 : 1, {
      whole: () =>
        void execFileSync(process.execPath, ['scripts/chiraxis.mjs', 'rig', body, '--out', out, '--report', report]),
    })
    const told = JSON.parse(readFileSync(report, 'utf8')) as { timings: Record<string, number>; peakMemoryMiB: number }
    const longest = Object.entries(told.timings)
      .sort((a, b) => b[1] - a[1])
      .slice(0, 4)
      .map(([step, time]) => `${step} ${time.toFixed(0)}`)
    rows.push([
      mesh.positions.length / 3,
      mesh.indices.length / 3,
      (best.whole / 1000).toFixed(1),
      told.peakMemoryMiB,
      longest.join(', '),
      ms(pace()),
    ])
    console.error(`rig of ${size} vertices: done`)
  }
  rmSync(folder, { recursive: true, force: true })
  return [
    '## The command `rig`, whole\n',
    table(['vertices', 'triangles', 'seconds', 'peak memory, MiB', 'longest steps, ms', 'pace'], rows),
  ].join('\n')
}
