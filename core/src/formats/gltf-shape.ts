import { z } from 'zod'
import { ChiraxisError } from '../math'

const index = z.number().int().nonnegative()
const numbers = z.array(z.number())
const texture = z.looseObject({ index })
const indices = z.record(z.string(), index)

/** What of a description is relied on, as the format wants it; everything else may be anything. */
const shape = z.looseObject({
  scene: index.optional(),
  scenes: z.array(z.looseObject({ nodes: z.array(index).optional() })).optional(),
  nodes: z
    .array(
      z.looseObject({
        children: z.array(index).optional(),
        mesh: index.optional(),
        skin: index.optional(),
        camera: index.optional(),
        matrix: numbers.optional(),
        translation: numbers.optional(),
        rotation: numbers.optional(),
        scale: numbers.optional(),
        weights: numbers.optional(),
        extensions: z.record(z.string(), z.unknown()).nullish(),
      }),
    )
    .optional(),
  meshes: z
    .array(
      z.looseObject({
        weights: numbers.optional(),
        primitives: z.array(
          z.looseObject({
            attributes: indices,
            indices: index.optional(),
            material: index.optional(),
            mode: index.optional(),
            targets: z.array(indices).optional(),
            extensions: z.record(z.string(), z.unknown()).nullish(),
          }),
        ),
      }),
    )
    .optional(),
  skins: z
    .array(z.looseObject({ joints: z.array(index), skeleton: index.optional(), inverseBindMatrices: index.optional() }))
    .optional(),
  animations: z
    .array(
      z.looseObject({
        channels: z.array(
          z.looseObject({ sampler: index, target: z.looseObject({ node: index.optional(), path: z.string() }) }),
        ),
        samplers: z.array(z.looseObject({ input: index, output: index, interpolation: z.string().optional() })),
      }),
    )
    .optional(),
  materials: z
    .array(
      z.looseObject({
        pbrMetallicRoughness: z
          .looseObject({
            baseColorFactor: numbers.optional(),
            metallicFactor: z.number().optional(),
            roughnessFactor: z.number().optional(),
            baseColorTexture: texture.nullish(),
            metallicRoughnessTexture: texture.nullish(),
          })
          .optional(),
        normalTexture: texture.nullish(),
        occlusionTexture: texture.nullish(),
        emissiveTexture: texture.nullish(),
        extensions: z.record(z.string(), z.unknown()).nullish(),
      }),
    )
    .optional(),
  textures: z.array(z.looseObject({ source: index.optional(), sampler: index.optional() })).optional(),
  images: z
    .array(z.looseObject({ uri: z.string().optional(), mimeType: z.string().optional(), bufferView: index.optional() }))
    .optional(),
  buffers: z.array(z.looseObject({ byteLength: index, uri: z.string().optional() })).optional(),
  extensions: z.record(z.string(), z.unknown()).nullish(),
})
type Shape = z.infer<typeof shape>

/**
 * Makes sure that every part of a description that is relied on is of the kind the format wants, and names only what is there.
 * @throws ChiraxisError `bad-syntax`, `index-range`
 */
export function checkShape(json: unknown): void {
  const parsed = shape.safeParse(json)
  if (!parsed.success) {
    const { path } = parsed.error.issues[0]
    throw new ChiraxisError(
      'bad-syntax',
      `The glTF file is malformed at ${path.join('.').slice(0, 80)}; it is damaged.`,
    )
  }
  const told = parsed.data
  const size = (list: readonly unknown[] | undefined): number => list?.length ?? 0
  const accessors = size((told as { accessors?: unknown[] }).accessors)
  const within = (i: number | undefined, count: number, what: string): void => {
    if (i !== undefined && i >= count)
      throw new ChiraxisError('index-range', `The glTF file names ${what} ${i}, which does not exist; it is damaged.`)
  }
  told.scenes?.forEach(s => s.nodes?.forEach(n => within(n, size(told.nodes), 'node')))
  told.nodes?.forEach(n => {
    within(n.mesh, size(told.meshes), 'mesh')
    within(n.skin, size(told.skins), 'skin')
  })
  told.meshes?.forEach(m =>
    m.primitives.forEach(p => {
      for (const list of [p.attributes, ...(p.targets ?? [])])
        for (const i of Object.values(list)) within(i, accessors, 'accessor')
      within(p.indices, accessors, 'accessor')
      within(p.material, size(told.materials), 'material')
    }),
  )
  told.skins?.forEach(s => {
    s.joints.forEach(j => within(j, size(told.nodes), 'node'))
    within(s.inverseBindMatrices, accessors, 'accessor')
  })
  told.animations?.forEach(a => {
    a.channels.forEach(c => {
      within(c.sampler, size(a.samplers), 'animation sampler')
      within(c.target.node, size(told.nodes), 'node')
    })
    a.samplers.forEach(s => {
      within(s.input, accessors, 'accessor')
      within(s.output, accessors, 'accessor')
    })
  })
  const views = size((told as { bufferViews?: unknown[] }).bufferViews)
  told.images?.forEach(i => within(i.bufferView, views, 'buffer view'))
  within(sceneOf(told), size(told.scenes), 'scene')
}

/** A default scene in a file that has none at all says nothing. */
const sceneOf = ({ scene, scenes }: Shape): number | undefined => (scenes ? scene : undefined)
