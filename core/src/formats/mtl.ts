import { ChiraxisError } from '../math'
import { imageKind, plainMaterial, type ImageFile, type MapKind, type Material } from '../mesh'
import { READ_LIMITS } from './check-received'
import { besideFile, type BesideFiles } from './received'
import { decodeText } from './text'

const MAPS: Readonly<Record<string, MapKind>> = {
  map_kd: 'color',
  map_bump: 'normal',
  bump: 'normal',
  norm: 'normal',
  map_ke: 'emission',
  map_d: 'alpha',
  map_ks: 'specular',
  map_ns: 'gloss',
  disp: 'displacement',
  map_disp: 'displacement',
  refl: 'reflection',
  map_refl: 'reflection',
  map_pr: 'rough',
  map_pm: 'metal',
  map_ao: 'occlusion',
}

/** Reads a material library of an OBJ into lists of materials and images: colours, opacity, and images that came along. */
export function readMtl(
  bytes: Uint8Array,
  beside: BesideFiles | undefined,
  materials: Material[],
  images: ImageFile[],
  dropped: string[],
): void {
  const known = new Set(materials.map(m => m.name))
  const placed = new Map(images.map((image, at) => [image.name, at]))
  let own: { -readonly [K in keyof Material]: Material[K] } | undefined
  const finish = (): void => {
    if (!own || known.has(own.name)) return
    if (materials.length >= READ_LIMITS.materials)
      throw new ChiraxisError('too-large', `The material library holds more than ${READ_LIMITS.materials} materials.`)
    known.add(own.name)
    materials.push(own)
  }
  for (const raw of decodeText(bytes, 'a material library').split(/\r?\n/)) {
    const line = raw.trim()
    const [word, ...rest] = line.split(/\s+/)
    const key = word?.toLowerCase() ?? ''
    if (key === 'newmtl') {
      finish()
      own = { ...plainMaterial(line.slice(7).trim() || 'material') }
    } else if (!own) continue
    else if (key === 'kd') {
      const c = rest.slice(0, 3).map(Number)
      if (c.length === 3 && c.every(Number.isFinite)) own.color = [c[0], c[1], c[2]]
    } else if (key === 'ke') {
      const c = rest.slice(0, 3).map(Number)
      if (c.length === 3 && c.every(Number.isFinite) && c.some(v => v > 0)) own.emission = [c[0], c[1], c[2]]
    } else if (key === 'pr' || key === 'pm') {
      const v = Number(rest[0])
      if (!(v >= 0 && v <= 1)) continue
      if (key === 'pr') own.roughness = v
      else own.metallic = v
    } else if (key === 'd' || key === 'tr') {
      const d = Number(rest[0])
      if (Number.isFinite(d)) own.alpha = Math.min(1, Math.max(0, key === 'd' ? d : 1 - d))
      if (own.alpha < 1) own.blend = 'blend'
    } else if (MAPS[key]) {
      // options such as -bm 1 stand before the file name
      const name = line
        .slice(word.length)
        .trim()
        .replace(/^(-\w+\s+(-?[\d.]+\s+)+)+/, '')
      const file = besideFile(beside, name)
      const mime = file && imageKind(file)
      if (!file || !mime) {
        dropped.push(
          file
            ? `The texture ${name} is broken or of a kind that cannot be read; it was left out.`
            : `The texture ${name} was not brought in with the OBJ.`,
        )
        continue
      }
      const at = placed.get(name) ?? images.push({ name, mime, bytes: file }) - 1
      placed.set(name, at)
      own.maps = { ...own.maps, [MAPS[key]]: at }
      // a picture is shown as it is, not tinted
      if (MAPS[key] === 'color' && own.color.every(c => c === 0)) own.color = [1, 1, 1]
    }
  }
  finish()
}
