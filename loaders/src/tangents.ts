import { generateTangents } from 'three/examples/jsm/libs/mikktspace.module.js'
import type { Tangents } from '@chiraxis/core/light'

/** Tangents as the open standard works them out (MikkTSpace), by the 3D library's own. */
export const mikkTangents: Tangents = (positions, normals, uvs) => generateTangents(positions, normals, uvs)
