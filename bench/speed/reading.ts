import { BVHLoader } from 'three/examples/jsm/loaders/BVHLoader.js'
import { OBJLoader } from 'three/examples/jsm/loaders/OBJLoader.js'
import { PLYLoader } from 'three/examples/jsm/loaders/PLYLoader.js'
import { readBvh, readObj, readPly, writeBvh, writeObj, writePly } from '@chiraxis/core/formats'
import { makeFigure, variedProportions } from '@chiraxis/demo/figures'
import { MOVES, NORTH, record } from '@chiraxis/demo/takes'
import { inTurn, ms, table } from './machine'

const text = (bytes: Uint8Array): string => new TextDecoder().decode(bytes)

/** BVH, OBJ and PLY beside the 3D library's own loaders. */
export async function reading(): Promise<string> {
  const rows: string[][] = []
  const compare = async (what: string, size: number, ours: () => unknown, library: () => unknown): Promise<void> => {
    const rounds = Math.max(3, Math.ceil(30_000_000 / size))
    const best = await inTurn(Math.min(20, rounds), {
      ours: async () => void (await ours()),
      library: () => void library(),
    })
    rows.push([what, (size / 1e6).toFixed(1), ms(best.ours), ms(best.library), (best.library / best.ours).toFixed(1)])
  }
  for (const seconds of [10, 120]) {
    const { skeleton, take } = record({ ...MOVES.find(m => m.name === 'point and talk')!, seconds }, NORTH)
    const bytes = writeBvh(skeleton, take)
    await compare(
      `BVH of ${take.frames} frames, ${skeleton.names.length} joints`,
      bytes.length,
      () => readBvh(bytes),
      () => new BVHLoader().parse(text(bytes)),
    )
  }
  for (const vertices of [10_000, 100_000, 300_000]) {
    const { mesh } = makeFigure(variedProportions(777_002), { vertices })
    const told = `${mesh.positions.length / 3} vertices`
    const obj = writeObj('body', mesh).bytes
    await compare(
      `OBJ of ${told}`,
      obj.length,
      () => readObj(obj),
      () => new OBJLoader().parse(text(obj)),
    )
    const ply = writePly(mesh)
    await compare(
      `PLY of ${told}`,
      ply.length,
      () => readPly(ply),
      () => new PLYLoader().parse(ply.slice().buffer),
    )
  }
  return [
    '## Reading\n',
    'Milliseconds, bytes to arrays, beside the loaders of the 3D library.\n',
    table(['file', 'MB', 'ours', 'library', 'library / ours'], rows),
  ].join('\n')
}
