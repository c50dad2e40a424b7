/**
 * The light body on the demo figures, the scan and seeded strangers: what it is measured by, and the strain of its skin in the check
 * poses beside that of the sculpt's own skin, decimated to as many triangles by the kept simplifier.
 * `npx tsx bench/light.ts [seeds] [quads] > bench/results/light.md`
 */
import { readFileSync } from 'node:fs'
import { MeshoptSimplifier } from 'meshoptimizer/simplifier'
import { lightSkin, trianglesOf } from '@chiraxis/core/light'
import { meshOf, type Mesh } from '@chiraxis/core/mesh'
import { pickVertices } from '@chiraxis/core/shape'
import { pickRows } from '@chiraxis/core/skin'
import { atBind } from '@chiraxis/core/skeleton'
import { openFigure } from '@chiraxis/core/steps'
import { assess } from '@chiraxis/core/strain'
import { makeStranger } from '@chiraxis/demo/strangers'

const seeds = Number(process.argv[2] ?? 40)
const quads = Number(process.argv[3] ?? 8000)
await MeshoptSimplifier.ready

/** A surface as a PLY, as scanners write it. */
function plyOf({ positions, indices }: Mesh): Uint8Array {
  const [vertices, faces] = [positions.length / 3, indices.length / 3]
  const head = `ply\nformat binary_little_endian 1.0\nelement vertex ${vertices}\nproperty float x\nproperty float y\nproperty float z\nelement face ${faces}\nproperty list uchar int vertex_indices\nend_header\n`
  const out = Buffer.alloc(head.length + 12 * vertices + 13 * faces)
  out.write(head, 0, 'latin1')
  let at = head.length
  for (const v of positions) at = out.writeFloatLE(v, at)
  for (let f = 0; f < faces; f++) {
    at = out.writeUInt8(3, at)
    for (let k = 0; k < 3; k++) at = out.writeInt32LE(indices[3 * f + k], at)
  }
  return new Uint8Array(out)
}

const mean = (list: readonly { score: number }[]): number => list.reduce((a, r) => a + r.score, 0) / list.length
const percent = (v: number, digits = 3): string => (100 * v).toFixed(digits)

interface Row {
  dev: number
  crossings: number
  ours: number
  theirs: number
}
const rows: Row[] = []
console.log(`# Light bodies of ${quads} quads\n`)
console.log(
  '| body | triangles of the sculpt | quads | irregular vertices % | mean off, % of height | 95 % within | worst | crossings | joints with under 3 rings | strain, light | strain, decimated | seconds |',
)
console.log('|---|---|---|---|---|---|---|---|---|---|---|---|')

async function one(label: string, file: { name: string; bytes: Uint8Array }): Promise<void> {
  try {
    const { recipe: fresh, derivation } = await openFigure(file)
    const recipe = { ...fresh, light: { quads } }
    const { mesh, straightened } = await derivation.get('shape', recipe)
    const skin = await derivation.get('skin', recipe)
    const { skeleton } = await derivation.get('rig', recipe)
    const { flesh } = await derivation.get('flesh', recipe)
    const began = performance.now()
    const light = await derivation.get('light', recipe)
    const seconds = (performance.now() - began) / 1000
    const { report } = light
    const h = straightened.height
    const surface = meshOf(light.positions, trianglesOf(light.positions, light.quads))
    const ours = await assess(surface, atBind(skeleton), await lightSkin(light, skin, skeleton.names.length))
    const wanted = 3 * 2 * report.quads
    // a sculpt of fewer triangles is compared as it is
    const fewer = flesh.length > wanted ? MeshoptSimplifier.simplify(flesh, mesh.positions, 3, wanted, 1, [])[0] : flesh
    const used = Uint32Array.from([...new Set(fewer)].sort((a, b) => a - b))
    const to = new Map([...used].map((v, i) => [v, i]))
    const their = {
      ...pickVertices(mesh, used),
      ...meshOf(
        new Float32Array(),
        fewer.map(v => to.get(v)!),
      ),
    }
    const theirs = await assess(
      { ...their, positions: pickVertices(mesh, used).positions },
      atBind(skeleton),
      pickRows(skin, used),
    )
    const row = {
      dev: report.deviation.mean / h,
      crossings: report.crossings,
      ours: mean(ours.regions),
      theirs: mean(theirs.regions),
    }
    rows.push(row)
    console.log(
      `| ${label} | ${flesh.length / 3} | ${report.quads} | ${percent(report.irregular / report.vertices, 1)} | ${percent(row.dev)} | ${percent(report.deviation.p95 / h)} | ${percent(report.deviation.worst / h, 2)} | ${row.crossings} | ${report.loops.filter(l => l.loops.length < 3).length} of ${report.loops.length} | ${row.ours.toFixed(2)} | ${row.theirs.toFixed(2)} | ${seconds.toFixed(1)} |`,
    )
  } catch (problem) {
    console.log(`| ${label} | refused: ${(problem as Error).message} |`)
  }
}

for (const name of ['oda-scanned.ply', 'oda-marl.glb', 'pim-dense.glb', 'pim.glb', 'tolly.glb', 'brindle.glb'])
  await one(name, { name, bytes: new Uint8Array(readFileSync(`public/demo/${name}`)) })
for (let seed = 1; seed <= seeds; seed++) {
  const s = await makeStranger(seed)
  await one(`${seed}: ${s.build}, ${s.stance}, ${s.dress}, ${s.make}`, { name: `s${seed}.ply`, bytes: plyOf(s.mesh) })
}
const average = (of: (r: Row) => number): string => (rows.reduce((a, r) => a + of(r), 0) / rows.length).toFixed(3)
console.log(
  `\n${rows.length} bodies: off the sculpt by ${average(r => 100 * r.dev)} % of height on average, ${rows.filter(r => r.dev > 0.0015).length} over 0.15 %; ${rows.filter(r => r.crossings > 0).length} pass through themselves; strain ${average(r => r.ours)} against ${average(r => r.theirs)}, lower on ${rows.filter(r => r.ours < r.theirs).length}.`,
)
